/** What the paths of a search went through, and the words and stretches that the best of them did. */

/** What a record stands for, beside the number of a word: nothing, and something that is not in the script. */
export const END = -1
export const GARBAGE = -2

export interface WordSpan {
  word: number
  /** Frames of the recording. */
  start: number
  end: number
  /** Mean cost of its frames. */
  cost: number
}

export interface Path {
  words: WordSpan[]
  /** Stretches of something that is not in the script. */
  offScript: { start: number; end: number }[]
  /** Of the whole path, a frame. */
  cost: number
}

/** What the paths went through, as linked records, each after the one before it. */
export class Traceback {
  what = new Int32Array(1 << 14)
  time = new Int32Array(1 << 14)
  before = new Int32Array(1 << 14)
  score = new Float32Array(1 << 14)
  length = 0
  /** So many are let grow before those that no path needs are looked for. */
  full = 1 << 14
  add(what: number, time: number, before: number, score: number): number {
    if (this.length === this.what.length) {
      const grow = <T extends Int32Array | Float32Array>(old: T, made: T): T => {
        made.set(old)
        return made
      }
      const size = this.what.length * 2
      this.what = grow(this.what, new Int32Array(size))
      this.time = grow(this.time, new Int32Array(size))
      this.before = grow(this.before, new Int32Array(size))
      this.score = grow(this.score, new Float32Array(size))
    }
    this.what[this.length] = what
    this.time[this.length] = time
    this.before[this.length] = before
    this.score[this.length] = score
    return this.length++
  }
  /** Lets go of what none of these paths went through. @param paths last records, −1 for none; changed to where those stand afterwards */
  keepOnly(paths: readonly Int32Array[]) {
    const kept = new Uint8Array(this.length)
    for (const list of paths)
      for (let record of list) for (; record >= 0 && kept[record] === 0; record = this.before[record]!) kept[record] = 1
    const places = new Int32Array(this.length)
    let length = 0
    for (let record = 0; record < this.length; record++) {
      if (kept[record] === 0) continue
      const before = this.before[record]!
      this.what[length] = this.what[record]!
      this.time[length] = this.time[record]!
      this.score[length] = this.score[record]!
      this.before[length] = before < 0 ? before : places[before]!
      places[record] = length++
    }
    for (const list of paths) for (let i = 0; i < list.length; i++) if (list[i]! >= 0) list[i] = places[list[i]!]!
    this.length = length
    this.full = Math.max(this.full, 2 * length)
  }
}

/** @param last record of the path @param final what the path costs */
export function readTraceback(traceback: Traceback, last: number, frames: number, final: number): Omit<Path, 'cost'> {
  const words: WordSpan[] = []
  const offScript: Path['offScript'] = []
  let end = frames
  let score = final
  for (let record = last; record >= 0; record = traceback.before[record]!) {
    const what = traceback.what[record]!
    const start = traceback.time[record]!
    if (what >= 0 && end > start)
      words.unshift({ word: what, start, end, cost: (score - traceback.score[record]!) / (end - start) })
    if (what === GARBAGE && end > start) offScript.unshift({ start, end })
    end = start
    score = traceback.score[record]!
  }
  return { words, offScript }
}
