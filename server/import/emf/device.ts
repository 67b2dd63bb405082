/** What an EMF file draws with: pens, brushes, letters, and how its units become pixels. @see [MS-EMF], §3.1.1 (abstract data model) */
import { colourAt, type EmfRecord, int } from './records.ts'

export interface Pen {
  colour: string
  /** Logical units; 0 is a hairline. */
  width: number
  dash: number[]
}
export interface Letters {
  /** Logical units: of the letters where it is negative, of the line where it is positive. */
  height: number
  /** Degrees against the clock. */
  turn: number
  weight: number
  italic: boolean
  underline: boolean
  strike: boolean
  family: string
}
export type EmfObject =
  | { kind: 'pen'; pen: Pen | null }
  | { kind: 'brush'; colour: string | null }
  | { kind: 'letters'; letters: Letters }

/** a, b, c, d, e, f of a canvas. */
export type Matrix = [number, number, number, number, number, number]

/** First the one, then the other. */
export const times = (first: Matrix, then: Matrix): Matrix => [
  first[0] * then[0] + first[1] * then[2],
  first[0] * then[1] + first[1] * then[3],
  first[2] * then[0] + first[3] * then[2],
  first[2] * then[1] + first[3] * then[3],
  first[4] * then[0] + first[5] * then[2] + then[4],
  first[4] * then[1] + first[5] * then[3] + then[5],
]
export const IDENTITY: Matrix = [1, 0, 0, 1, 0, 0]

export interface DeviceState {
  pen: Pen | null
  brush: string | null
  letters: Letters
  textColour: string
  ground: string
  isOpaque: boolean
  align: number
  evenOdd: boolean
  clockwise: boolean
  here: [number, number]
  world: Matrix
  mapMode: number
  window: { x: number; y: number; width: number; height: number }
  viewport: { x: number; y: number; width: number; height: number }
}

const USUAL_LETTERS: Letters = {
  height: -12,
  turn: 0,
  weight: 400,
  italic: false,
  underline: false,
  strike: false,
  family: 'Arial',
}

export const atFirst = (): DeviceState => ({
  pen: { colour: 'rgb(0, 0, 0)', width: 0, dash: [] },
  brush: 'rgb(255, 255, 255)',
  letters: USUAL_LETTERS,
  textColour: 'rgb(0, 0, 0)',
  ground: 'rgb(255, 255, 255)',
  isOpaque: true,
  align: 0,
  evenOdd: true,
  clockwise: false,
  here: [0, 0],
  world: IDENTITY,
  mapMode: 1,
  window: { x: 0, y: 0, width: 1, height: 1 },
  viewport: { x: 0, y: 0, width: 1, height: 1 },
})

const GREYS = ['rgb(255, 255, 255)', 'rgb(192, 192, 192)', 'rgb(128, 128, 128)', 'rgb(64, 64, 64)', 'rgb(0, 0, 0)']

/** Objects that need not be made. @see §2.1.31 StockObject */
function stock(number: number): EmfObject | null {
  if (number <= 4) return { kind: 'brush', colour: GREYS[number]! }
  if (number === 5) return { kind: 'brush', colour: null }
  if (number === 6 || number === 7)
    return { kind: 'pen', pen: { colour: number === 6 ? GREYS[0]! : GREYS[4]!, width: 0, dash: [] } }
  if (number === 8) return { kind: 'pen', pen: null }
  return number >= 10 && number <= 17 ? { kind: 'letters', letters: USUAL_LETTERS } : null
}

const DASHES: Record<number, number[]> = { 1: [6, 3], 2: [1, 2], 3: [6, 2, 1, 2], 4: [6, 2, 1, 2, 1, 2] }

function penOf(style: number, width: number, colour: string): Pen | null {
  const line = style & 15
  return line === 5 ? null : { colour, width, dash: DASHES[line] ?? [] }
}

/** The object that a record makes; null for a record that makes none. */
export function objectOf({ type, view }: EmfRecord): EmfObject | null {
  switch (type) {
    case 38: // CREATEPEN
      return { kind: 'pen', pen: penOf(int(view, 12), int(view, 16), colourAt(view, 24)) }
    case 95: // EXTCREATEPEN
      return { kind: 'pen', pen: int(view, 36) === 1 ? null : penOf(int(view, 28), int(view, 32), colourAt(view, 40)) }
    case 39: // CREATEBRUSHINDIRECT
      return { kind: 'brush', colour: int(view, 12) === 1 ? null : colourAt(view, 16) }
    case 93: // CREATEMONOBRUSH
    case 94: // CREATEDIBPATTERNBRUSHPT
      return { kind: 'brush', colour: GREYS[1]! }
    case 82: {
      // EXTCREATEFONTINDIRECTW
      const name = new Uint8Array(view.buffer, view.byteOffset + 40, Math.max(0, Math.min(64, view.byteLength - 40)))
      const flag = (at: number) => at < view.byteLength && view.getUint8(at) !== 0
      return {
        kind: 'letters',
        letters: {
          height: int(view, 12) || -12,
          turn: int(view, 20) / 10,
          weight: int(view, 28) || 400,
          italic: flag(32),
          underline: flag(33),
          strike: flag(34),
          family: new TextDecoder('utf-16le').decode(name).split('\0')[0]!,
        },
      }
    }
    default:
      return null
  }
}

/** Puts an object to use. @param number its own, or that of one which need not be made */
export function select(state: DeviceState, objects: ReadonlyMap<number, EmfObject>, number: number) {
  const object = number < 0 ? stock(number & 0x7fffffff) : objects.get(number)
  if (object?.kind === 'pen') state.pen = object.pen
  else if (object?.kind === 'brush') state.brush = object.colour
  else if (object?.kind === 'letters') state.letters = object.letters
}

/** Hundredths of millimetres of a unit, by map mode. @see §2.1.21 MapMode */
const UNITS: Record<number, number> = { 2: 10, 3: 1, 4: 25.4, 5: 2.54, 6: 2540 / 1440 }

/** From logical units to those of the device. @param perUnit pixels of a hundredth of a millimetre */
export function toDevice({ world, mapMode, window, viewport }: DeviceState, perUnit: { x: number; y: number }): Matrix {
  const unit = UNITS[mapMode]
  let [sx, sy] = [1, 1]
  if (unit) [sx, sy] = [unit * perUnit.x, -unit * perUnit.y]
  else if (mapMode === 7 || mapMode === 8)
    [sx, sy] = [viewport.width / (window.width || 1), viewport.height / (window.height || 1)]
  if (mapMode === 7) {
    const least = Math.min(Math.abs(sx), Math.abs(sy))
    ;[sx, sy] = [Math.sign(sx) * least, Math.sign(sy) * least]
  }
  return times(world, [sx, 0, 0, sy, viewport.x - window.x * sx, viewport.y - window.y * sy])
}
