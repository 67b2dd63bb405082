/** Records of an EMF file, and what the objects in it are. @see [MS-EMF], §2.2 (objects), §2.3 (records) */

export interface EmfRecord {
  type: number
  /** Of the record alone; offsets in it count from its begin. */
  view: DataView
}

/** In order, as far as they say how long they are. */
export function* recordsOf(bytes: Uint8Array): Generator<EmfRecord> {
  const whole = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  for (let at = 0; at + 8 <= bytes.length; ) {
    const [type, size] = [whole.getUint32(at, true), whole.getUint32(at + 4, true)]
    if (size < 8 || at + size > bytes.length) return
    yield { type, view: new DataView(bytes.buffer, bytes.byteOffset + at, size) }
    at += size
  }
}

/** Logical units, or those of the device. */
export interface Box {
  left: number
  top: number
  right: number
  bottom: number
}

export const int = (view: DataView, at: number) => (at + 4 <= view.byteLength ? view.getInt32(at, true) : 0)
export const boxAt = (view: DataView, at: number): Box => ({
  left: int(view, at),
  top: int(view, at + 4),
  right: int(view, at + 8),
  bottom: int(view, at + 12),
})

/** Red, green and blue in turn, as files have them, as CSS has them. */
export const colourAt = (view: DataView, at: number): string => {
  const value = int(view, at)
  return `rgb(${value & 255}, ${(value >> 8) & 255}, ${(value >> 16) & 255})`
}

/** More points no record of a slide's drawing has. */
const MOST_POINTS = 200_000

/** @param at of the first; @param isShort whether each number has 16 bits instead of 32 */
export function pointsAt(view: DataView, at: number, count: number, isShort: boolean): [number, number][] {
  const step = isShort ? 4 : 8
  const fits = Math.min(count, MOST_POINTS, Math.floor((view.byteLength - at) / step))
  return Array.from({ length: Math.max(0, fits) }, (_, i) => {
    const from = at + i * step
    return isShort ? [view.getInt16(from, true), view.getInt16(from + 2, true)] : [int(view, from), int(view, from + 4)]
  })
}

/** Lists of points, as polygons of several parts have them. */
export function listsAt(view: DataView, isShort: boolean): [number, number][][] {
  const count = Math.min(10_000, int(view, 24))
  const lists: [number, number][][] = []
  let at = 32 + 4 * count
  for (let i = 0; i < count; i++) {
    const length = Math.max(0, int(view, 32 + 4 * i))
    const points = pointsAt(view, at, length, isShort)
    lists.push(points)
    at += length * (isShort ? 4 : 8)
  }
  return lists
}

/** Rectangles of a region. @see §2.2.24 RegionData */
export function regionAt(view: DataView, at: number): Box[] {
  const count = Math.min(5000, int(view, at + 8))
  return Array.from({ length: Math.max(0, count) }, (_, i) => boxAt(view, at + 32 + 16 * i))
}

/** A bitmap of a record as a BMP file; null where there is none. @param header, bits where their offsets stand */
export function bitmapAt(view: DataView, header: number, bits: number): Uint8Array | null {
  const part = (field: number) => {
    const from = int(view, field)
    const length = int(view, field + 4)
    return from >= 8 && length > 0 && from + length <= view.byteLength
      ? new Uint8Array(view.buffer, view.byteOffset + from, length)
      : null
  }
  const [info, pixels] = [part(header), part(bits)]
  if (!info || !pixels) return null
  const file = new Uint8Array(14 + info.length + pixels.length)
  const out = new DataView(file.buffer)
  file.set([0x42, 0x4d])
  out.setUint32(2, file.length, true)
  out.setUint32(10, 14 + info.length, true)
  file.set(info, 14)
  file.set(pixels, 14 + info.length)
  return file
}
