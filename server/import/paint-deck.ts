/** Paints the slides of an imported deck with the shipped fonts. */
import { type Canvas, createCanvas, ImageData, type SKRSContext2D } from '@napi-rs/canvas'
import sharp from 'sharp'
import type { Drawing, DrawnItem, Fill, Line, PathStep, Transform } from '#core/deck/deck.ts'
import { drawText } from './paint-text.ts'

type Context = SKRSContext2D
const MOST_PIXELS = 50_000_000
export type PictureOf = (part: string) => Promise<Canvas | null>

/** So many decoded pictures are kept for the next slide: backgrounds and signs come again and again. Each may take 26 MB. */
const PICTURES_KEPT = 4
/** A slide is 1920 pixels wide; a picture of it may be cropped to a part. */
const PICTURE_PX = 2560

/** Pictures of a deck by their names; one that cannot be read is null. @param read its bytes, null when the deck has none of the name */
export function picturesOf(read: (part: string) => Promise<Uint8Array | null>): PictureOf {
  const known = new Map<string, Promise<Canvas | null>>()
  const load = async (part: string): Promise<Canvas | null> => {
    try {
      const bytes = await read(part)
      if (!bytes) return null
      const { data, info } = await sharp(bytes, { limitInputPixels: MOST_PIXELS, pages: 1 })
        .rotate()
        .resize({ width: PICTURE_PX, height: PICTURE_PX, fit: 'inside', withoutEnlargement: true })
        .toColourspace('srgb')
        .ensureAlpha()
        .raw()
        .toBuffer({ resolveWithObject: true })
      // its pixels alone: a picture that was read from a file would keep the file beside them
      const canvas = createCanvas(info.width, info.height)
      const pixels = new Uint8ClampedArray(data.buffer, data.byteOffset, data.length)
      canvas.getContext('2d').putImageData(new ImageData(pixels, info.width, info.height), 0, 0)
      return canvas
    } catch {
      return null
    }
  }
  return (part) => {
    const loading = known.get(part) ?? load(part)
    // the one that was used last stands last
    known.delete(part)
    known.set(part, loading)
    if (known.size > PICTURES_KEPT) known.delete(known.keys().next().value!)
    return loading
  }
}

function trace(context: Context, path: readonly PathStep[], width: number, height: number) {
  context.beginPath()
  for (const step of path) {
    if (step.to === 'close') context.closePath()
    else if (step.to === 'curve') {
      const [a, b, c, d, e, f] = step.points
      context.bezierCurveTo(a * width, b * height, c * width, d * height, e * width, f * height)
    } else if (step.to === 'ellipse')
      context.ellipse(
        step.x * width,
        step.y * height,
        Math.abs(step.rx) * width,
        Math.abs(step.ry) * height,
        0,
        step.from,
        step.until,
        step.until < step.from,
      )
    else if (step.to === 'move') context.moveTo(step.x * width, step.y * height)
    else context.lineTo(step.x * width, step.y * height)
  }
}

async function fillWith(context: Context, fill: Fill, width: number, height: number, pictureOf: PictureOf) {
  if (fill.kind === 'solid') {
    context.fillStyle = fill.colour
    context.fill()
  } else if (fill.kind === 'gradient') {
    const angle = (fill.angle * Math.PI) / 180
    const reach = Math.abs(width * Math.cos(angle)) + Math.abs(height * Math.sin(angle))
    const [dx, dy] = [(Math.cos(angle) * reach) / 2, (Math.sin(angle) * reach) / 2]
    const gradient = context.createLinearGradient(width / 2 - dx, height / 2 - dy, width / 2 + dx, height / 2 + dy)
    for (const stop of fill.stops) gradient.addColorStop(stop.at, stop.colour)
    context.fillStyle = gradient
    context.fill()
  } else {
    const image = await pictureOf(fill.part)
    if (!image) return
    context.save()
    context.clip()
    context.drawImage(image, 0, 0, width, height)
    context.restore()
  }
}

/** Heads of arrows at the ends of an open path. */
function arrowHead(context: Context, [x, y]: [number, number], [fromX, fromY]: [number, number], line: Line) {
  const angle = Math.atan2(y - fromY, x - fromX)
  const length = Math.max(10, line.width * 3.5)
  context.beginPath()
  context.moveTo(x, y)
  for (const side of [-1, 1])
    context.lineTo(x - length * Math.cos(angle + side * 0.42), y - length * Math.sin(angle + side * 0.42))
  context.closePath()
  context.fillStyle = line.colour
  context.fill()
}

function stroke(context: Context, line: Line, path: readonly PathStep[], width: number, height: number) {
  context.strokeStyle = line.colour
  context.lineWidth = line.width
  context.setLineDash(line.dash)
  context.lineJoin = 'round'
  context.stroke()
  context.setLineDash([])
  const points = path.flatMap((step): [number, number][] => {
    if (step.to === 'move' || step.to === 'line') return [[step.x * width, step.y * height]]
    if (step.to !== 'curve') return []
    const [a, b, c, d, e, f] = step.points
    return [
      [a * width, b * height],
      [c * width, d * height],
      [e * width, f * height],
    ]
  })
  if (points.length < 2) return
  if (line.head) arrowHead(context, points[0]!, points[1]!, line)
  if (line.tail) arrowHead(context, points.at(-1)!, points.at(-2)!, line)
}

function place(context: Context, box: Transform, flip: boolean) {
  context.translate(box.x + box.width / 2, box.y + box.height / 2)
  context.rotate((box.rotation * Math.PI) / 180)
  if (flip) context.scale(box.flipX ? -1 : 1, box.flipY ? -1 : 1)
  context.translate(-box.width / 2, -box.height / 2)
}

async function drawItem(context: Context, item: DrawnItem, pictureOf: PictureOf, language: string) {
  const { box } = item
  if (!(box.width >= 0 && box.height >= 0)) return
  context.save()
  place(context, box, true)
  if (item.kind === 'picture') {
    const image = await pictureOf(item.part)
    if (image) {
      const { left, top, right, bottom } = item.crop
      context.globalAlpha = item.opacity
      const [w, h] = [image.width * (1 - left - right), image.height * (1 - top - bottom)]
      const fit = item.contain ? Math.min(box.width / w, box.height / h) : 0
      const [wide, high] = item.contain ? [w * fit, h * fit] : [box.width, box.height]
      const [x, y] = [(box.width - wide) / 2, (box.height - high) / 2]
      if (w > 0 && h > 0) context.drawImage(image, image.width * left, image.height * top, w, h, x, y, wide, high)
    }
    context.restore()
    return
  }
  if (item.path.length > 0) {
    trace(context, item.path, box.width, box.height)
    if (item.fill) await fillWith(context, item.fill, box.width, box.height, pictureOf)
    if (item.line) {
      trace(context, item.path, box.width, box.height)
      stroke(context, item.line, item.path, box.width, box.height)
    }
  }
  context.restore()
  if (item.text) {
    context.save()
    // text is turned with its shape and never mirrored
    place(context, box, false)
    drawText(context, item.text, box.width, box.height, language)
    context.restore()
  }
}

export interface Painted {
  /** A PNG file of the drawing's own size. */
  png: Uint8Array
  /** Pictures of the deck that could not be read. */
  missing: string[]
}

/** @param language of its text, where it is known (BCP 47) */
export async function paintDrawing(drawing: Drawing, load: PictureOf, language = ''): Promise<Painted> {
  const missing = new Set<string>()
  const pictureOf: PictureOf = async (part) => {
    const picture = await load(part)
    if (!picture) missing.add(part)
    return picture
  }
  const canvas = createCanvas(drawing.width, drawing.height)
  const context = canvas.getContext('2d')
  context.fillStyle = '#ffffff'
  context.fillRect(0, 0, drawing.width, drawing.height)
  context.beginPath()
  context.rect(0, 0, drawing.width, drawing.height)
  await fillWith(context, drawing.background, drawing.width, drawing.height, pictureOf)
  for (const item of drawing.items) await drawItem(context, item, pictureOf, language)
  return { png: new Uint8Array(canvas.toBuffer('image/png')), missing: [...missing] }
}
