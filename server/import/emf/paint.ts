/**
 * Draws the records of an EMF file: lines, shapes, paths, bitmaps, words, within their clips. What is passed over is said.
 *
 * @see [MS-EMF], §2.1.1 RecordType, §2.3 (records)
 */
import { createCanvas, ImageData, type SKRSContext2D } from '@napi-rs/canvas'
import { decodeBmp, MOST_PIXELS } from '../kinds/decode.ts'
import { atFirst, type DeviceState, type EmfObject, IDENTITY, type Matrix, objectOf, select, times, toDevice } from './device.ts'
import { drawLetters } from './letters.ts'
import { arcOf, type Point, rectangle, roundedCorners } from './outlines.ts'
import { type Box, bitmapAt, boxAt, colourAt, int, listsAt, pointsAt, regionAt } from './records.ts'

type Context = SKRSContext2D

/** The raster operations that draw nothing, and that fill with the brush. */
const [NOTHING, PATTERN] = [0x00aa0029, 0x00f00021]
/** Of text: what it holds are numbers of letters in a font. */
const GLYPHS = 0x10

export class Painter {
  isWhole = true
  #drew = 0
  /** Of all bitmaps together: a record of a few bytes may claim as many as a photograph has. */
  #pixelsLeft = MOST_PIXELS
  readonly #context: Context
  readonly #toCanvas: Matrix
  readonly #perUnit: { x: number; y: number }
  readonly #objects = new Map<number, EmfObject>()
  #state: DeviceState = atFirst()
  readonly #saved: DeviceState[] = []
  /** A path is open: what draws lines adds to it. */
  #inPath = false

  constructor(context: Context, toCanvas: Matrix, perUnit: { x: number; y: number }) {
    this.#context = context
    this.#toCanvas = toCanvas
    this.#perUnit = perUnit
  }

  get drew() {
    return this.#drew > 0
  }

  #matrix(): Matrix {
    return times(toDevice(this.#state, this.#perUnit), this.#toCanvas)
  }

  /** From logical units to the canvas. */
  #at([x, y]: Point, m = this.#matrix()): Point {
    return [x * m[0] + y * m[2] + m[4], x * m[1] + y * m[3] + m[5]]
  }

  #scale(m = this.#matrix()) {
    return Math.sqrt(Math.abs(m[0] * m[3] - m[1] * m[2])) || 1
  }

  /** Draws lines of a record: into the open path, or at once. */
  #shape(trace: (context: Context) => void, fills: boolean) {
    const context = this.#context
    if (this.#inPath) return trace(context)
    context.beginPath()
    trace(context)
    this.#finish(fills, true)
  }

  #finish(fills: boolean, strokes: boolean) {
    const { brush, pen, evenOdd } = this.#state
    const context = this.#context
    if (fills && brush) {
      context.fillStyle = brush
      context.fill(evenOdd ? 'evenodd' : 'nonzero')
    }
    if (strokes && pen) {
      const width = Math.max(1, pen.width * this.#scale())
      context.strokeStyle = pen.colour
      context.lineWidth = width
      context.setLineDash(pen.dash.map((part) => part * width))
      context.stroke()
      context.setLineDash([])
    }
    this.#drew++
  }

  #lines(lists: readonly Point[][], closes: boolean, fills: boolean) {
    const m = this.#matrix()
    this.#shape((context) => {
      for (const points of lists) {
        for (const [i, point] of points.entries()) {
          const [x, y] = this.#at(point, m)
          if (i === 0) context.moveTo(x, y)
          else context.lineTo(x, y)
        }
        if (closes) context.closePath()
      }
    }, fills)
  }

  #curves(points: readonly Point[], begins: boolean) {
    const m = this.#matrix()
    const all = begins ? points : [this.#state.here, ...points]
    this.#shape((context) => {
      if (all[0] && (begins || !this.#inPath)) context.moveTo(...this.#at(all[0], m))
      for (let i = 1; i + 2 < all.length; i += 3)
        context.bezierCurveTo(...this.#at(all[i]!, m), ...this.#at(all[i + 1]!, m), ...this.#at(all[i + 2]!, m))
    }, false)
    this.#state.here = all.at(-1) ?? this.#state.here
  }

  #linesOn(points: readonly Point[]) {
    const m = this.#matrix()
    this.#shape((context) => {
      if (!this.#inPath) context.moveTo(...this.#at(this.#state.here, m))
      for (const point of points) context.lineTo(...this.#at(point, m))
    }, false)
    this.#state.here = points.at(-1) ?? this.#state.here
  }

  /** A part of the ellipse in a box, between the rays to two points. */
  #arc(box: Box, from: Point | null, to: Point | null, ends: 'open' | 'chord' | 'pie', fills: boolean) {
    const points = arcOf(box, from, to, this.#state.clockwise)
    if (ends === 'pie') points.push([(box.left + box.right) / 2, (box.top + box.bottom) / 2])
    this.#lines([points], ends !== 'open', fills)
  }

  #clip(boxes: readonly Box[], toCanvas: Matrix) {
    const context = this.#context
    context.beginPath()
    for (const box of boxes) {
      for (const [i, point] of rectangle(box).entries()) {
        const [x, y] = this.#at(point, toCanvas)
        if (i === 0) context.moveTo(x, y)
        else context.lineTo(x, y)
      }
      context.closePath()
    }
    context.clip()
  }

  /** Clips are let go by going back to where none was. */
  #withoutClip() {
    this.#context.restore()
    this.#context.save()
  }

  #bitmap(view: DataView, header: number, bits: number, to: Box, from: Box | null) {
    const file = bitmapAt(view, header, bits)
    const decoded = file && decodeBmp(file, this.#pixelsLeft)
    if (!decoded) {
      this.isWhole = false
      return
    }
    const { rgba, width, height } = decoded
    this.#pixelsLeft -= width * height
    const image = createCanvas(width, height)
    image.getContext('2d').putImageData(new ImageData(new Uint8ClampedArray(rgba), width, height), 0, 0)
    const part = from ?? { left: 0, top: 0, right: width, bottom: height }
    const context = this.#context
    context.save()
    context.setTransform(...this.#matrix())
    const [w, h] = [to.right - to.left, to.bottom - to.top]
    context.drawImage(image, part.left, part.top, part.right - part.left, part.bottom - part.top, to.left, to.top, w, h)
    context.restore()
    this.#drew++
  }

  #text(words: string, place: Point, steps: readonly number[], box: Box | null) {
    if (box && this.#state.isOpaque) this.#ground(box)
    if (words.trim() === '') return
    const m = this.#matrix()
    const at = this.#at((this.#state.align & 1) === 1 ? this.#state.here : place, m)
    drawLetters(this.#context, this.#state, { words, at, scale: this.#scale(m), turn: Math.atan2(m[1], m[0]), steps })
    this.#drew++
  }

  #ground(box: Box) {
    const { brush } = this.#state
    this.#state.brush = this.#state.ground
    this.#fillBoxes([box])
    this.#state.brush = brush
  }

  #textRecord(view: DataView, isWide: boolean) {
    const [count, offset, options, stepsAt] = [int(view, 44), int(view, 48), int(view, 52), int(view, 72)]
    if ((options & GLYPHS) !== 0) {
      this.isWhole = false
      return
    }
    const length = Math.max(0, Math.min(count, 10_000)) * (isWide ? 2 : 1)
    if (offset < 8 || offset + length > view.byteLength) return
    const bytes = new Uint8Array(view.buffer, view.byteOffset + offset, length)
    const words = new TextDecoder(isWide ? 'utf-16le' : 'windows-1252').decode(bytes)
    const steps = stepsAt >= 76 ? Array.from({ length: Math.min(count, 10_000) }, (_, i) => int(view, stepsAt + 4 * i)) : []
    const box = (options & 2) !== 0 ? boxAt(view, 56) : null
    this.#text(words, [int(view, 36), int(view, 40)], steps, box)
  }

  /** Records of what is drawn with. @returns whether it was one */
  #sets(type: number, view: DataView): boolean {
    const s = this.#state
    const size = () => ({ width: int(view, 8), height: int(view, 12) })
    const point = () => ({ x: int(view, 8), y: int(view, 12) })
    switch (type) {
      case 9:
        Object.assign(s.window, size())
        return true
      case 10:
        Object.assign(s.window, point())
        return true
      case 11:
        Object.assign(s.viewport, size())
        return true
      case 12:
        Object.assign(s.viewport, point())
        return true
      case 17:
        s.mapMode = int(view, 8)
        return true
      case 18:
        s.isOpaque = int(view, 8) === 2
        return true
      case 19:
        s.evenOdd = int(view, 8) === 1
        return true
      case 22:
        s.align = int(view, 8)
        return true
      case 24:
        s.textColour = colourAt(view, 8)
        return true
      case 25:
        s.ground = colourAt(view, 8)
        return true
      case 57:
        s.clockwise = int(view, 8) === 2
        return true
      case 35:
      case 36: {
        const given = [8, 12, 16, 20, 24, 28].map((at) => (at + 4 <= view.byteLength ? view.getFloat32(at, true) : 0)) as Matrix
        const how = type === 35 ? 4 : int(view, 32)
        s.world = how === 1 ? IDENTITY : how === 2 ? times(given, s.world) : how === 3 ? times(s.world, given) : given
        return true
      }
      case 37:
        select(s, this.#objects, int(view, 8))
        return true
      case 40:
        this.#objects.delete(int(view, 8))
        return true
      default:
        return false
    }
  }

  /** Records of what is kept, clipped and gathered. @returns whether it was one */
  #keeps(type: number, view: DataView): boolean {
    const context = this.#context
    switch (type) {
      case 33:
        this.#saved.push(structuredClone(this.#state))
        return true
      case 34: {
        const back = int(view, 8)
        const kept = back < 0 ? this.#saved.splice(back)[0] : this.#saved.splice(back - 1)[0]
        if (kept) this.#state = kept
        this.#withoutClip()
        return true
      }
      case 30:
        this.#clip([boxAt(view, 8)], this.#matrix())
        return true
      case 75: {
        if (int(view, 12) === 5) this.#withoutClip()
        const boxes = int(view, 8) > 0 ? regionAt(view, 16) : []
        if (boxes.length > 0) this.#clip(boxes, this.#toCanvas)
        return true
      }
      case 59:
        context.beginPath()
        this.#inPath = true
        return true
      case 60:
        this.#inPath = false
        return true
      case 61:
        context.closePath()
        return true
      case 62:
      case 63:
      case 64:
        this.#inPath = false
        this.#finish(type !== 64, type !== 62)
        return true
      case 67:
        context.clip()
        return true
      case 68:
        context.beginPath()
        this.#inPath = false
        return true
      default:
        return false
    }
  }

  #drawsLines(type: number, view: DataView): boolean {
    const isShort = type >= 85 && type <= 91
    const points = () => pointsAt(view, 28, int(view, 24), isShort)
    switch (isShort ? type - 83 : type) {
      case 2:
        this.#curves(points(), true)
        return true
      case 3:
        this.#lines([points()], true, true)
        return true
      case 4:
        this.#lines([points()], false, false)
        return true
      case 5:
        this.#curves(points(), false)
        return true
      case 6:
        this.#linesOn(points())
        return true
      case 7:
        this.#lines(listsAt(view, isShort), false, false)
        return true
      case 8:
        this.#lines(listsAt(view, isShort), true, true)
        return true
      case 27:
        this.#state.here = [int(view, 8), int(view, 12)]
        if (this.#inPath) this.#context.moveTo(...this.#at(this.#state.here))
        return true
      case 54:
        this.#linesOn([[int(view, 8), int(view, 12)]])
        return true
      default:
        return false
    }
  }

  #drawsShapes(type: number, view: DataView): boolean {
    const box = boxAt(view, 8)
    const ray = (at: number): Point => [int(view, at), int(view, at + 4)]
    switch (type) {
      case 42:
        this.#arc(box, null, null, 'chord', true)
        return true
      case 43:
        this.#lines([rectangle(box)], true, true)
        return true
      case 44:
        this.#lines([roundedCorners(box, int(view, 24) / 2, int(view, 28) / 2)], true, true)
        return true
      case 45:
        this.#arc(box, ray(24), ray(32), 'open', false)
        return true
      case 46:
        this.#arc(box, ray(24), ray(32), 'chord', true)
        return true
      case 47:
        this.#arc(box, ray(24), ray(32), 'pie', true)
        return true
      case 71: {
        const before = this.#state.brush
        select(this.#state, this.#objects, int(view, 28))
        this.#fillBoxes(regionAt(view, 32))
        this.#state.brush = before
        return true
      }
      case 74:
        this.#fillBoxes(regionAt(view, 28))
        return true
      case 83:
      case 84:
        this.#textRecord(view, type === 84)
        return true
      default:
        return this.#drawsBitmaps(type, view)
    }
  }

  #fillBoxes(boxes: readonly Box[]) {
    const { pen } = this.#state
    this.#state.pen = null
    this.#lines(
      boxes.map((box) => rectangle(box)),
      true,
      true,
    )
    this.#state.pen = pen
  }

  #drawsBitmaps(type: number, view: DataView): boolean {
    const sized = (x: number, y: number, w: number, h: number): Box => ({
      left: int(view, x),
      top: int(view, y),
      right: int(view, x) + int(view, w),
      bottom: int(view, y) + int(view, h),
    })
    switch (type) {
      case 76:
      case 77: {
        const to = sized(24, 28, 32, 36)
        if (int(view, 40) === NOTHING) return true
        if (int(view, 88) > 0) this.#bitmap(view, 84, 92, to, type === 77 ? sized(44, 48, 100, 104) : null)
        else if (int(view, 40) === PATTERN) this.#fillBoxes([to])
        return true
      }
      case 81:
        this.#bitmap(view, 48, 56, sized(24, 28, 72, 76), null)
        return true
      case 114:
        this.#bitmap(view, 84, 92, sized(24, 28, 32, 36), null)
        return true
      default:
        return false
    }
  }

  draw(type: number, view: DataView) {
    if (this.#sets(type, view) || this.#keeps(type, view) || this.#drawsLines(type, view) || this.#drawsShapes(type, view)) return
    const made = objectOf({ type, view })
    if (made) this.#objects.set(int(view, 8), made)
    else if (PASSED_OVER.has(type)) this.isWhole = false
  }
}

/** Records that draw and are passed over: single points, parts of arcs, mixed lines, masked and turned bitmaps, gradients. */
const PASSED_OVER = new Set([15, 41, 55, 56, 72, 73, 78, 79, 80, 92, 96, 97, 108, 116, 118])
