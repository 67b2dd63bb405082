/** Paints the slides of an imported deck with the shipped fonts. */
import { type Canvas, createCanvas, DOMMatrix, ImageData, type SKRSContext2D } from '@napi-rs/canvas'
import sharp from 'sharp'
import type { Drawing, DrawnItem, Fill, Line, PathStep, TextBox, Transform } from '#core/deck/deck.ts'
import { drawEmf } from './emf/draw.ts'
import { MOST_PIXELS, readable } from './kinds/decode.ts'
import { metafileKind } from './kinds/metafile.ts'
import { paintChart } from './paint-chart.ts'
import { drawText } from './paint-text.ts'
import { drawnDensity } from './picture.ts'
import { drawWmf } from './wmf.ts'

type Context = SKRSContext2D
export type PictureOf = (part: string) => Promise<Canvas | null>
/** The pictures of a deck, and which of them could not be drawn whole. */
export type DeckPictures = PictureOf & { partial: ReadonlySet<string> }

/** So many decoded pictures are kept for the next slide: backgrounds and signs come again and again. Each may take 26 MB. */
const PICTURES_KEPT = 4
/** A slide is 1920 pixels wide; a picture of it may be cropped to a part. */
const PICTURE_PX = 2560

/** Pictures of a deck by their names; one that cannot be read is null. @param read its bytes, null when the deck has none of the name */
export function picturesOf(read: (part: string) => Promise<Uint8Array | null>): DeckPictures {
  const partial = new Set<string>()
  const known = new Map<string, Promise<Canvas | null>>()
  const load = async (part: string): Promise<Canvas | null> => {
    try {
      const given = await read(part)
      if (!given) return null
      const kind = metafileKind(given)
      if (kind === 'emf') {
        const drawn = drawEmf(given)
        if (drawn && !drawn.isWhole) partial.add(part)
        return drawn?.canvas ?? null
      }
      const drawn = kind === 'wmf' ? drawWmf(given) : { svg: given, isWhole: true }
      if (!drawn) return null
      if (!drawn.isWhole) partial.add(part)
      const bytes = await readable(drawn.svg)
      const { data, info } = await sharp(bytes, { limitInputPixels: MOST_PIXELS, pages: 1, ...(await drawnDensity(bytes)) })
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
  const pictureOf = (part: string) => {
    const loading = known.get(part) ?? load(part)
    // the one that was used last stands last
    known.delete(part)
    known.set(part, loading)
    if (known.size > PICTURES_KEPT) known.delete(known.keys().next().value!)
    return loading
  }
  return Object.assign(pictureOf, { partial })
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

function gradientOf(context: Context, { angle, stops, radial }: Fill & { kind: 'gradient' }, width: number, height: number) {
  const turn = (angle * Math.PI) / 180
  const reach = Math.abs(width * Math.cos(turn)) + Math.abs(height * Math.sin(turn))
  const [dx, dy] = [(Math.cos(turn) * reach) / 2, (Math.sin(turn) * reach) / 2]
  const [x, y] = radial ? [radial.x * width, radial.y * height] : [width / 2, height / 2]
  // to the farthest corner
  const far = Math.hypot(Math.max(x, width - x), Math.max(y, height - y))
  const gradient = radial
    ? context.createRadialGradient(x, y, 0, x, y, far)
    : context.createLinearGradient(x - dx, y - dy, x + dx, y + dy)
  for (const stop of stops) gradient.addColorStop(stop.at, stop.colour)
  return gradient
}

async function fillWith(context: Context, fill: Fill, width: number, height: number, pictureOf: PictureOf) {
  if (fill.kind === 'solid') {
    context.fillStyle = fill.colour
    context.fill()
  } else if (fill.kind === 'gradient') {
    context.fillStyle = gradientOf(context, fill, width, height)
    context.fill()
  } else {
    const image = await pictureOf(fill.part)
    if (!image) return
    context.save()
    context.clip()
    const tile = fill.tile
    if (tile) {
      const wide = Math.max(4, tile.width ?? image.width * tile.pixel)
      const high = Math.max(4, tile.height ?? image.height * tile.pixel)
      const pattern = context.createPattern(image, 'repeat')!
      pattern.setTransform(new DOMMatrix([wide / image.width, 0, 0, high / image.height, 0, 0]))
      context.fillStyle = pattern
      context.fillRect(0, 0, width, height)
    } else context.drawImage(image, 0, 0, width, height)
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

function paintPicture(context: Context, item: DrawnItem & { kind: 'picture' }, image: Canvas) {
  const { box } = item
  const { left, top, right, bottom } = item.crop
  if (item.path) {
    trace(context, item.path, box.width, box.height)
    context.clip()
  }
  const [w, h] = [image.width * (1 - left - right), image.height * (1 - top - bottom)]
  const fit = item.contain ? Math.min(box.width / w, box.height / h) : 0
  const [wide, high] = item.contain ? [w * fit, h * fit] : [box.width, box.height]
  const [x, y] = [(box.width - wide) / 2, (box.height - high) / 2]
  if (w > 0 && h > 0) context.drawImage(image, image.width * left, image.height * top, w, h, x, y, wide, high)
}

async function paintShape(context: Context, item: DrawnItem & { kind: 'shape' }, pictureOf: PictureOf) {
  const { box, path, fill, line } = item
  if (path.length === 0) return
  const cast = (on: boolean) => {
    context.shadowColor = on && item.shadow ? item.shadow.colour : 'rgba(0, 0, 0, 0)'
    context.shadowBlur = item.shadow?.blur ?? 0
    context.shadowOffsetX = item.shadow?.x ?? 0
    context.shadowOffsetY = item.shadow?.y ?? 0
  }
  trace(context, path, box.width, box.height)
  // a shape casts one shadow: of its fill, or of its line where it has none
  if (item.shadow) cast(fill !== null)
  if (fill) await fillWith(context, fill, box.width, box.height, pictureOf)
  if (item.shadow) cast(fill === null)
  if (!line) return
  trace(context, path, box.width, box.height)
  stroke(context, line, path, box.width, box.height)
}

/** Text is turned with its shape, and by what it says itself; it is never mirrored. */
function paintText(context: Context, text: TextBox, box: Transform, language: string) {
  context.save()
  place(context, box, false)
  const upside = box.flipY ? 180 : 0
  const turn = text.turn + upside
  if (turn !== 0) {
    context.translate(box.width / 2, box.height / 2)
    context.rotate((turn * Math.PI) / 180)
    const [w, h] = Math.abs(text.turn % 180) === 90 ? [box.height, box.width] : [box.width, box.height]
    context.translate(-w / 2, -h / 2)
    drawText(context, text, w, h, language)
  } else drawText(context, text, box.width, box.height, language)
  context.restore()
}

async function drawItem(context: Context, item: DrawnItem, pictureOf: PictureOf, language: string) {
  const { box } = item
  if (!(box.width >= 0 && box.height >= 0)) return
  context.save()
  context.globalAlpha = item.opacity ?? 1
  if (item.kind === 'chart') {
    place(context, box, false)
    if (box.width >= 1 && box.height >= 1)
      context.drawImage(paintChart(item.chart, box.width, box.height), 0, 0, box.width, box.height)
  } else if (item.kind === 'picture') {
    place(context, box, true)
    const image = await pictureOf(item.part)
    if (image) paintPicture(context, item, image)
  } else {
    context.save()
    place(context, box, true)
    await paintShape(context, item, pictureOf)
    context.restore()
    if (item.text) paintText(context, item.text, box, language)
  }
  context.restore()
}

export interface Painted {
  /** Samples of the drawing's own size. */
  rgba: Uint8Array
  width: number
  height: number
  /** Pictures of the deck that could not be read, and those of which something is missing. */
  missing: string[]
  partial: string[]
}

/** @param language of its text, where it is known (BCP 47) */
export async function paintDrawing(drawing: Drawing, load: DeckPictures, language = ''): Promise<Painted> {
  const missing = new Set<string>()
  const partial = new Set<string>()
  const pictureOf: PictureOf = async (part) => {
    const picture = await load(part)
    if (!picture) missing.add(part)
    else if (load.partial.has(part)) partial.add(part)
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
  const { data } = context.getImageData(0, 0, drawing.width, drawing.height)
  const rgba = new Uint8Array(data.buffer, data.byteOffset, data.byteLength)
  return { rgba, width: drawing.width, height: drawing.height, missing: [...missing], partial: [...partial] }
}
