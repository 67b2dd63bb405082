/** Pieces in which recorded pictures travel and are kept: about a second each, in order. */

/** Codecs that footage is recorded in, by the names that browsers give them. */
export const FOOTAGE_CODECS = { avc: 'avc1.420028', vp8: 'vp8' } as const
export type FootageCodec = keyof typeof FOOTAGE_CODECS

export interface FootageFrame {
  /** Sample of the take at which it was taken. */
  at: number
  isKey: boolean
  data: Uint8Array
}

export interface FootagePiece {
  /** Sample of the take up to which nothing else was seen. */
  until: number
  frames: FootageFrame[]
}

const HEAD_BYTES = 8
const FRAME_BYTES = 12

/** A piece as bytes: little-endian, its end and how many frames it has; then each frame's sample, length, whether it is a key frame, and itself. */
export function packPiece({ until, frames }: FootagePiece): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(HEAD_BYTES + frames.reduce((sum, { data }) => sum + FRAME_BYTES + data.length, 0))
  const view = new DataView(bytes.buffer)
  view.setUint32(0, until, true)
  view.setUint32(4, frames.length, true)
  let at = HEAD_BYTES
  for (const frame of frames) {
    view.setUint32(at, frame.at, true)
    view.setUint32(at + 4, frame.data.length, true)
    view.setUint32(at + 8, frame.isKey ? 1 : 0, true)
    bytes.set(frame.data, at + FRAME_BYTES)
    at += FRAME_BYTES + frame.data.length
  }
  return bytes
}

/** @throws RangeError for what is no piece */
export function unpackPiece(bytes: Uint8Array): FootagePiece {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const until = view.getUint32(0, true)
  const count = view.getUint32(4, true)
  const frames: FootageFrame[] = []
  let at = HEAD_BYTES
  for (let i = 0; i < count; i++) {
    const length = view.getUint32(at + 4, true)
    const begins = at + FRAME_BYTES
    if (begins + length > bytes.length) throw new RangeError('A frame reaches past the end of its piece')
    frames.push({
      at: view.getUint32(at, true),
      isKey: view.getUint32(at + 8, true) === 1,
      data: bytes.subarray(begins, begins + length),
    })
    at = begins + length
  }
  if (at !== bytes.length) throw new RangeError('More follows the last frame of a piece')
  return { until, frames }
}
