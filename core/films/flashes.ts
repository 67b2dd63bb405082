/**
 * Flashes that people with photosensitive epilepsy cannot bear, found on the frames of a film.
 *
 * A flash is a pair of opposing changes of relative luminance of 0.1 or more where the darker is below 0.8, or of a saturated red; more than three
 * within a second, over a quarter of any ten degrees of the field of view, are too many.
 *
 * @see WCAG 2.2, "general flash and red flash thresholds": a block of 341 × 256 pixels of a screen of 1024 × 768 is about ten degrees wide
 */

/** Frames are looked at in this size: a film that fills the screen. */
export const LOOK = { width: 64, height: 36 }
/** Ten degrees of it, and the quarter of them that counts. */
const BLOCK = { width: Math.round((341 / 1024) * LOOK.width), height: Math.round((256 / 576) * LOOK.height) }
const CELLS_THAT_COUNT = (BLOCK.width * BLOCK.height) / 4
const MOST_FLASHES = 3

const LUMINANCE_CHANGE = 0.1
const DARKER_BELOW = 0.8
const RED_SHARE = 0.8
const RED_CHANGE = 20
const RED_SCALE = 320

/** From what is stored of a colour to its light. @see WCAG 2.2, "relative luminance" */
const LIGHT = Float64Array.from({ length: 256 }, (_, value) => {
  const share = value / 255
  return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4
})

/** What one kind of flash looks at in each cell: where it last turned, and which way. */
class Turns {
  readonly extreme = new Float64Array(LOOK.width * LOOK.height).fill(Number.NaN)
  /** Whether the colour at the last turn was one that counts by itself. */
  readonly marked = new Uint8Array(LOOK.width * LOOK.height)
  readonly way = new Int8Array(LOOK.width * LOOK.height)
  /** Frames at which enough of the picture turned, and which way the last did. */
  moments: number[] = []
  #lastWay = 0
  readonly #turned = { up: new Uint8Array(LOOK.width * LOOK.height), down: new Uint8Array(LOOK.width * LOOK.height) }

  /** @param isChange whether a cell went from one value to another that differs enough */
  look(values: Float64Array, marks: Uint8Array, frame: number, isChange: (from: number, to: number, marked: boolean) => boolean) {
    const { up, down } = this.#turned
    up.fill(0)
    down.fill(0)
    for (let cell = 0; cell < values.length; cell++) {
      const [value, before] = [values[cell]!, this.extreme[cell]!]
      if (Number.isNaN(before)) this.#set(cell, value, marks[cell]!)
      else if (isChange(before, value, marks[cell] === 1 || this.marked[cell] === 1)) {
        const way = value > before ? 1 : -1
        // a change that goes on the same way is one change
        if (way !== this.way[cell]) (way > 0 ? up : down)[cell] = 1
        this.way[cell] = way
        this.#set(cell, value, marks[cell]!)
      } else if ((value - before) * this.way[cell]! > 0) this.#set(cell, value, marks[cell]!)
    }
    for (const [way, cells] of [
      [1, up],
      [-1, down],
    ] as const)
      if (way !== this.#lastWay && mostInBlock(cells) >= CELLS_THAT_COUNT) {
        this.#lastWay = way
        this.moments.push(frame)
      }
  }

  #set(cell: number, value: number, mark: number) {
    this.extreme[cell] = value
    this.marked[cell] = mark
  }
}

/** @returns how many cells of the block that has most of them */
function mostInBlock(cells: Uint8Array): number {
  const { width, height } = LOOK
  const sums = new Int32Array((width + 1) * (height + 1))
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      sums[(y + 1) * (width + 1) + x + 1] =
        cells[y * width + x]! + sums[y * (width + 1) + x + 1]! + sums[(y + 1) * (width + 1) + x]! - sums[y * (width + 1) + x]!
  if (sums.at(-1)! < CELLS_THAT_COUNT) return 0
  let most = 0
  for (let y = 0; y + BLOCK.height <= height; y++)
    for (let x = 0; x + BLOCK.width <= width; x++) {
      const [top, bottom] = [y * (width + 1), (y + BLOCK.height) * (width + 1)]
      most = Math.max(most, sums[bottom + x + BLOCK.width]! - sums[bottom + x]! - sums[top + x + BLOCK.width]! + sums[top + x]!)
    }
  return most
}

/** Looks at the frames of a film one after the other. */
export class FlashFinder {
  readonly #rate: number
  readonly #general = new Turns()
  readonly #red = new Turns()
  readonly #luminances = new Float64Array(LOOK.width * LOOK.height)
  readonly #reds = new Float64Array(LOOK.width * LOOK.height)
  readonly #saturated = new Uint8Array(LOOK.width * LOOK.height)
  readonly #none = new Uint8Array(LOOK.width * LOOK.height)
  #frame = 0

  /** @param rate frames a second */
  constructor(rate: number) {
    this.#rate = rate
  }

  /** @param rgb of one frame, `LOOK` in size, a byte a colour (sRGB) */
  add(rgb: Uint8Array) {
    for (let cell = 0, at = 0; cell < this.#luminances.length; cell++, at += 3) {
      const [r, g, b] = [LIGHT[rgb[at]!]!, LIGHT[rgb[at + 1]!]!, LIGHT[rgb[at + 2]!]!]
      this.#luminances[cell] = 0.2126 * r + 0.7152 * g + 0.0722 * b
      this.#reds[cell] = Math.max(0, (r - g - b) * RED_SCALE)
      this.#saturated[cell] = r > 0 && r / (r + g + b) >= RED_SHARE ? 1 : 0
    }
    this.#general.look(
      this.#luminances,
      this.#none,
      this.#frame,
      (from, to) => Math.abs(to - from) >= LUMINANCE_CHANGE - 1e-9 && Math.min(from, to) < DARKER_BELOW,
    )
    this.#red.look(
      this.#reds,
      this.#saturated,
      this.#frame,
      (from, to, isSaturated) => isSaturated && Math.abs(to - from) > RED_CHANGE,
    )
    this.#frame++
  }

  /** @returns stretches with more than three flashes in a second, in seconds of the film, in order */
  stretches(): { start: number; end: number }[] {
    const found = [this.#general, this.#red].flatMap(({ moments }) => {
      // a flash is two changes
      const changes = 2 * (MOST_FLASHES + 1)
      return moments.flatMap((last, i) => {
        const first = moments[i - changes + 1]
        return first !== undefined && last - first < this.#rate
          ? [{ start: first / this.#rate, end: (last + 1) / this.#rate }]
          : []
      })
    })
    const joined: { start: number; end: number }[] = []
    for (const stretch of found.sort((a, b) => a.start - b.start)) {
      const before = joined.at(-1)
      if (before && stretch.start <= before.end) before.end = Math.max(before.end, stretch.end)
      else joined.push(stretch)
    }
    return joined
  }
}
