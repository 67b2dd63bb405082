/** Which demuxer of the media tool reads a film, by its content: playlists and the like, which could name other files, are none. */
import { open } from 'node:fs/promises'

/** An animation is a picture file with several pictures, which another library reads. */
export type FilmFormat = 'mov' | 'matroska' | 'avi' | 'asf' | 'mpegts' | 'mpeg' | 'ogg' | 'flv' | 'animation'

const ascii = (text: string) => [...text].map((c) => c.charCodeAt(0))
const SIGNATURES: { bytes: number[]; at: number; format: FilmFormat }[] = [
  // boxes with which an ISO base media file, or an older film, may begin. @see ISO/IEC 14496-12
  ...['ftyp', 'moov', 'mdat', 'wide', 'free', 'skip'].map((box) => ({ bytes: ascii(box), at: 4, format: 'mov' as const })),
  { bytes: [0x1a, 0x45, 0xdf, 0xa3], at: 0, format: 'matroska' }, // and WebM, RFC 9559
  { bytes: ascii('AVI '), at: 8, format: 'avi' },
  { bytes: [0x30, 0x26, 0xb2, 0x75, 0x8e, 0x66, 0xcf, 0x11], at: 0, format: 'asf' },
  { bytes: [0, 0, 1, 0xba], at: 0, format: 'mpeg' }, // ISO/IEC 13818-1, §2.5.3.4
  { bytes: ascii('OggS'), at: 0, format: 'ogg' },
  { bytes: ascii('FLV'), at: 0, format: 'flv' },
  { bytes: ascii('GIF8'), at: 0, format: 'animation' },
  { bytes: ascii('WEBP'), at: 8, format: 'animation' },
]
const HEAD_BYTES = 4096

/** @param head the file's first bytes, 400 of them at least where it has as many @returns null for what is no film */
export function filmFormat(head: Uint8Array): FilmFormat | null {
  const found = SIGNATURES.find(({ bytes, at }) => bytes.every((byte, i) => head[at + i] === byte))
  if (found) return found.format
  // packets of 188 bytes that begin alike. @see ISO/IEC 13818-1, §2.4.3.2
  return [0, 188, 376].every((at) => head[at] === 0x47) ? 'mpegts' : null
}

export async function filmFormatOf(path: string): Promise<FilmFormat | null> {
  const file = await open(path, 'r')
  try {
    const head = new Uint8Array(HEAD_BYTES)
    const { bytesRead } = await file.read(head, 0, HEAD_BYTES, 0)
    return filmFormat(head.subarray(0, bytesRead))
  } finally {
    await file.close()
  }
}
