/** What a file is, by its content. Names and declared types are never believed. */
import { open } from 'node:fs/promises'

export type PictureKind = 'png' | 'jpeg' | 'webp' | 'gif' | 'avif' | 'tiff' | 'svg' | 'heic' | 'bmp'
/** Pictures that nothing here can read. */
export type ForeignPictureKind = 'jp2'
export type FileKind = PictureKind | ForeignPictureKind | 'pdf' | 'zip' | 'office' | 'sound' | 'vtt' | 'text' | 'unknown'

const PICTURES: readonly FileKind[] = ['png', 'jpeg', 'webp', 'gif', 'avif', 'tiff', 'svg', 'heic', 'bmp']
export const isPicture = (kind: FileKind): kind is PictureKind => PICTURES.includes(kind)

const FOREIGN: readonly FileKind[] = ['jp2']
export const isForeignPicture = (kind: FileKind): kind is ForeignPictureKind => FOREIGN.includes(kind)

const startsWith = (bytes: Uint8Array, signature: readonly number[], at = 0) => signature.every((b, i) => bytes[at + i] === b)
const ascii = (text: string) => [...text].map((c) => c.charCodeAt(0))

/** Signatures of sound and of films, whose sound is as good as any. */
const SOUNDS: { bytes: number[]; at?: number }[] = [
  { bytes: ascii('fLaC') },
  { bytes: ascii('OggS') },
  { bytes: ascii('ID3') },
  { bytes: ascii('FORM') },
  { bytes: ascii('caff') },
  { bytes: ascii('#!AMR') },
  { bytes: ascii('.snd') }, // AU
  { bytes: [...ascii('riff'), 0x2e, 0x91, 0xcf, 0x11] }, // W64
  { bytes: [0x0b, 0x77] }, // AC-3, ETSI TS 102 366 §4.3
  { bytes: [0x1a, 0x45, 0xdf, 0xa3] }, // Matroska and WebM, RFC 9559
  { bytes: [0x30, 0x26, 0xb2, 0x75, 0x8e, 0x66, 0xcf, 0x11] }, // ASF
  { bytes: ascii('WAVE'), at: 8 },
  { bytes: ascii('AVI '), at: 8 },
]

/** A frame of MPEG sound or of ADTS begins with eleven or twelve ones. */
const isMpegFrame = (bytes: Uint8Array) =>
  bytes[0] === 0xff && (bytes[1]! & 0xe0) === 0xe0 && (bytes[1]! & 0x18) !== 0x08 && bytes[2] !== 0xff

/** Packets of 188 bytes that begin alike. @see ISO/IEC 13818-1, §2.4.3.2 */
const isTransportStream = (bytes: Uint8Array) => [0, 188, 376].every((at) => bytes[at] === 0x47)

/** Brands of still pictures in ISO base media files; others are films. @see ISO/IEC 23008-12, §10 */
const STILL = /^(heic|heix|heim|heis|hevc|hevx|mif1|msf1)$/

function isText(bytes: Uint8Array): boolean {
  const head = bytes.subarray(0, 4096)
  if (head.length === 0 || head.includes(0)) return false
  // a letter of several bytes may be cut at the end of what is looked at
  const text = new TextDecoder().decode(head).replace(/\uFFFD$/, '')
  return !text.includes('\uFFFD')
}

/** @param bytes the whole file or at least its first four kilobytes */
export function sniff(bytes: Uint8Array): FileKind {
  if (startsWith(bytes, [0x89, ...ascii('PNG\r\n\x1a\n')])) return 'png'
  if (startsWith(bytes, [0xff, 0xd8, 0xff])) return 'jpeg'
  if (startsWith(bytes, ascii('RIFF')) && startsWith(bytes, ascii('WEBP'), 8)) return 'webp'
  if (startsWith(bytes, ascii('GIF8'))) return 'gif'
  if (startsWith(bytes, ascii('ftyp'), 4)) {
    const brands = Buffer.from(bytes.subarray(8, 40)).toString('latin1')
    if (/avi[fs]/.test(brands)) return 'avif'
    return STILL.test(brands.slice(0, 4)) ? 'heic' : 'sound'
  }
  if (startsWith(bytes, [0x49, 0x49, 0x2a, 0]) || startsWith(bytes, [0x4d, 0x4d, 0, 0x2a])) return 'tiff'
  if (startsWith(bytes, [0, 0, 0, 0x0c, ...ascii('jP  ')]) || startsWith(bytes, [0xff, 0x4f, 0xff, 0x51])) return 'jp2'
  // a file header whose reserved fields are empty: a text may begin with the same two letters
  if (startsWith(bytes, ascii('BM')) && startsWith(bytes, [0, 0, 0, 0], 6)) return 'bmp'
  if (startsWith(bytes, [0xd0, 0xcf, 0x11, 0xe0, 0xa1, 0xb1, 0x1a, 0xe1])) return 'office'
  if (startsWith(bytes, [0x50, 0x4b, 3, 4]) || startsWith(bytes, [0x50, 0x4b, 5, 6])) return 'zip'
  if (startsWith(bytes, ascii('WEBVTT')) || startsWith(bytes, [0xef, 0xbb, 0xbf, ...ascii('WEBVTT')])) return 'vtt'
  if (SOUNDS.some((sound) => startsWith(bytes, sound.bytes, sound.at ?? 0))) return 'sound'
  // ISO 32000-1, annex H.3 note 13: the header may come anywhere in the first 1024 bytes
  const head = Buffer.from(bytes.buffer, bytes.byteOffset, Math.min(1024, bytes.length)).toString('latin1')
  if (head.includes('%PDF-')) return 'pdf'
  if (isMpegFrame(bytes)) return 'sound'
  if (!isText(bytes)) return isTransportStream(bytes) ? 'sound' : 'unknown'
  return /^\s*(<\?xml[^>]*>\s*)?(<!--[\s\S]*?-->\s*)*<svg[\s>]/.test(head.replace(/^ï»¿/, '')) ? 'svg' : 'text'
}

const HEAD_BYTES = 4096

/** The same for a file on disk, of which only the beginning is read. */
export async function sniffFile(path: string): Promise<FileKind> {
  const file = await open(path, 'r')
  try {
    const head = new Uint8Array(HEAD_BYTES)
    const { bytesRead } = await file.read(head, 0, HEAD_BYTES, 0)
    return sniff(head.subarray(0, bytesRead))
  } finally {
    await file.close()
  }
}
