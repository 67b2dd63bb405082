/** Outlines of boxes and of ellipses in an EMF file, as points in its logical units. */
import type { Box } from './records.ts'

export type Point = [number, number]

export function rectangle({ left, top, right, bottom }: Box): Point[] {
  return [
    [left, top],
    [right, top],
    [right, bottom],
    [left, bottom],
  ]
}

/** A part of the ellipse in a box, between the rays to two points. @returns none where the box is flat */
export function arcOf(box: Box, from: Point | null, to: Point | null, clockwise: boolean): Point[] {
  const [rx, ry] = [(box.right - box.left) / 2, (box.bottom - box.top) / 2]
  const [x, y] = [box.left + rx, box.top + ry]
  if (rx === 0 || ry === 0) return []
  const angle = ([px, py]: Point) => Math.atan2((py - y) / ry, (px - x) / rx)
  const begin = from ? angle(from) : 0
  let end = to ? angle(to) : 2 * Math.PI
  if (from && clockwise && end <= begin) end += 2 * Math.PI
  if (from && !clockwise && end >= begin) end -= 2 * Math.PI
  const steps = Math.max(8, Math.ceil((Math.abs(end - begin) / Math.PI) * 36))
  return Array.from({ length: steps + 1 }, (_, i): Point => {
    const turn = begin + ((end - begin) * i) / steps
    return [x + rx * Math.cos(turn), y + ry * Math.sin(turn)]
  })
}

/** The outline of a box whose corners are quarters of ellipses. */
export function roundedCorners({ left, top, right, bottom }: Box, wide: number, high: number): Point[] {
  const [rx, ry] = [Math.min(Math.abs(wide), (right - left) / 2), Math.min(Math.abs(high), (bottom - top) / 2)]
  const centres: Point[] = [
    [right - rx, bottom - ry],
    [left + rx, bottom - ry],
    [left + rx, top + ry],
    [right - rx, top + ry],
  ]
  return centres.flatMap(([x, y], corner) =>
    Array.from({ length: 9 }, (_, i): Point => {
      const turn = ((corner + i / 8) * Math.PI) / 2
      return [x + rx * Math.cos(turn), y + ry * Math.sin(turn)]
    }),
  )
}
