const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'
const VALUES = new Uint8Array(128)
for (let i = 0; i < 64; i++) VALUES[LETTERS.charCodeAt(i)] = i

/** Bytes of base64 text (RFC 4648, §4). The core knows neither the page's nor Node's own way. */
export function bytesOfBase64(text: string): Uint8Array<ArrayBuffer> {
  const padding = text.endsWith('==') ? 2 : text.endsWith('=') ? 1 : 0
  const bytes = new Uint8Array((text.length / 4) * 3)
  for (let i = 0, at = 0; i < text.length; i += 4, at += 3) {
    let word = 0
    for (let n = 0; n < 4; n++) word = (word << 6) | VALUES[text.charCodeAt(i + n)]!
    bytes[at] = word >> 16
    bytes[at + 1] = word >> 8
    bytes[at + 2] = word
  }
  return bytes.slice(0, bytes.length - padding)
}
