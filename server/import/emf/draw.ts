/**
 * A picture of an EMF file. The libraries in the registry draw its polygons and leave out its words.
 *
 * @see [MS-EMF], §2.3.4.2 (header)
 */
import { type Canvas, createCanvas } from '@napi-rs/canvas'
import { Painter } from './paint.ts'
import { boxAt, int, recordsOf } from './records.ts'

/** Of the longer side of what is drawn. */
const LARGEST_PX = 2000
const MOST_RECORDS = 300_000

export interface DrawnEmf {
  canvas: Canvas
  /** Nothing was passed over. */
  isWhole: boolean
}

/** @returns null for what says nothing of its size, or of which nothing is drawn */
export function drawEmf(bytes: Uint8Array): DrawnEmf | null {
  const head = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  const frame = boxAt(head, 24)
  const [pixels, millimetres] = [
    { x: int(head, 72), y: int(head, 76) },
    { x: int(head, 80), y: int(head, 84) },
  ]
  const perUnit = { x: pixels.x / (millimetres.x * 100) || 0, y: pixels.y / (millimetres.y * 100) || 0 }
  const bounds = boxAt(head, 8)
  // the frame is in hundredths of millimetres; where it says nothing, what is drawn tells
  const framed =
    perUnit.x > 0 && perUnit.y > 0 && frame.right > frame.left && frame.bottom > frame.top
      ? {
          left: frame.left * perUnit.x,
          top: frame.top * perUnit.y,
          right: frame.right * perUnit.x,
          bottom: frame.bottom * perUnit.y,
        }
      : bounds
  const [width, height] = [framed.right - framed.left, framed.bottom - framed.top]
  if (!(width > 0 && height > 0 && Number.isFinite(width + height))) return null
  const scale = LARGEST_PX / Math.max(width, height)
  const canvas = createCanvas(Math.max(1, Math.round(width * scale)), Math.max(1, Math.round(height * scale)))
  const context = canvas.getContext('2d')
  context.lineJoin = 'round'
  context.save()
  const painter = new Painter(context, [scale, 0, 0, scale, -framed.left * scale, -framed.top * scale], perUnit)
  let count = 0
  for (const { type, view } of recordsOf(bytes)) {
    if (count++ > MOST_RECORDS) {
      painter.isWhole = false
      break
    }
    painter.draw(type, view)
  }
  return painter.drew ? { canvas, isWhole: painter.isWhole } : null
}
