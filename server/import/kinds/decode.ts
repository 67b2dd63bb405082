/** Pictures of kinds that the picture library does not read, as PNG: photographs of telephones (HEIC, HEIF) and plain bitmaps (BMP). */
import { createRequire } from 'node:module'
import sharp from 'sharp'
import { sniff } from './sniff.ts'

interface HeifImage {
  width: number
  height: number
  decode(): Promise<{ width: number; height: number; data: Uint8ClampedArray }>
}

const require = createRequire(import.meta.url)
/** More than this no picture may have, of any kind; what it says of its size is looked at before it is decoded. */
export const MOST_PIXELS = 50_000_000

const asPng = (data: Uint8Array, width: number, height: number) =>
  sharp(data, { raw: { width, height, channels: 4 } })
    .png({ compressionLevel: 2 })
    .toBuffer()

/** @see ISO/IEC 23008-12; turns and mirrors that the file asks for are done */
async function fromHeif(bytes: Uint8Array): Promise<Uint8Array> {
  const { all } = require('heic-decode') as { all: (given: { buffer: Uint8Array }) => Promise<HeifImage[] & { dispose(): void }> }
  const images = await all({ buffer: bytes })
  try {
    const [first] = images
    if (!first || first.width * first.height > MOST_PIXELS) throw new Error('no picture of a size that is read')
    const { data, width, height } = await first.decode()
    return await asPng(new Uint8Array(data.buffer, data.byteOffset, data.byteLength), width, height)
  } finally {
    images.dispose()
  }
}

/** Of a bitmap's header: its width and height, the latter negative for rows from above; bits of a pixel, and 0 for samples as they are. @see BITMAPINFOHEADER */
const [WIDTH_AT, HEIGHT_AT, BITS_AT, COMPRESSION_AT] = [18, 22, 28, 30]

/** A bitmap's samples; null for one that is damaged, too large, or of a kind that is not known. @param most pixels of it */
export function decodeBmp(bytes: Uint8Array, most = MOST_PIXELS): { rgba: Uint8Array; width: number; height: number } | null {
  try {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
    const pixels = Math.abs(view.getInt32(WIDTH_AT, true) * view.getInt32(HEIGHT_AT, true))
    if (pixels === 0 || pixels > most) return null
    // a few bytes that claim to be a photograph would take its memory before they are found out
    const least = view.getUint32(COMPRESSION_AT, true) === 0 ? (pixels * view.getUint16(BITS_AT, true)) / 8 : 0
    if (bytes.length < least) return null
    const { decode } = require('bmp-js') as { decode: (bytes: Buffer) => { data: Buffer; width: number; height: number } }
    const { data, width, height } = decode(Buffer.from(bytes))
    // alpha, blue, green, red; few writers mean what they put into the first
    const rgba = new Uint8Array(data.length)
    for (let i = 0; i < data.length; i += 4) rgba.set([data[i + 3]!, data[i + 2]!, data[i + 1]!, 255], i)
    return { rgba, width, height }
  } catch {
    return null
  }
}

function fromBmp(bytes: Uint8Array): Promise<Uint8Array> {
  const decoded = decodeBmp(bytes)
  if (!decoded) throw new Error('no bitmap that is read')
  return asPng(decoded.rgba, decoded.width, decoded.height)
}

/** @returns the picture as it is, or as PNG where nothing else here reads it @throws Error for one that is damaged */
export async function readable(bytes: Uint8Array): Promise<Uint8Array> {
  const kind = sniff(bytes)
  return kind === 'heic' ? fromHeif(bytes) : kind === 'bmp' ? fromBmp(bytes) : bytes
}
