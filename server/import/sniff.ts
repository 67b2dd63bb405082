/** What a file is, by its content. Names and declared types are never believed. */

export type FileKind = 'pdf' | 'png' | 'jpeg' | 'webp' | 'vtt' | 'unknown'

const startsWith = (bytes: Uint8Array, signature: readonly number[], at = 0) => signature.every((b, i) => bytes[at + i] === b)
const ascii = (text: string) => [...text].map((c) => c.charCodeAt(0))

/** @param bytes the whole file or at least its first kilobyte */
export function sniff(bytes: Uint8Array): FileKind {
  if (startsWith(bytes, [0x89, ...ascii('PNG\r\n\x1a\n')])) return 'png'
  if (startsWith(bytes, [0xff, 0xd8, 0xff])) return 'jpeg'
  if (startsWith(bytes, ascii('RIFF')) && startsWith(bytes, ascii('WEBP'), 8)) return 'webp'
  if (startsWith(bytes, ascii('WEBVTT')) || startsWith(bytes, [0xef, 0xbb, 0xbf, ...ascii('WEBVTT')])) return 'vtt'
  // ISO 32000-1, annex H.3 note 13: the header may come anywhere in the first 1024 bytes
  const head = Buffer.from(bytes.buffer, bytes.byteOffset, Math.min(1024, bytes.length)).toString('latin1')
  return head.includes('%PDF-') ? 'pdf' : 'unknown'
}
