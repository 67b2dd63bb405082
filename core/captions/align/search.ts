/**
 * Finds the words of a script in a recording: a time-synchronous search by dynamic programming over all words at once, in which a
 * speaker may pause anywhere, leave sentences out, say one again, begin one anew, or say something else.
 *
 * @see Sakoe & Chiba 1978, IEEE Trans. ASSP 26(1) for the path; Young, Russell & Thornton 1989 ("token passing") for keeping only
 *   the words a path went through, which needs memory for words and not for frames
 */
import { DIMENSIONS } from './features.ts'
import { ALIVE, ENTERED, kernelsWith } from './kernels/kernels.ts'
import type { Reference } from './reference.ts'
import { runsOf } from './runs.ts'

/** Costs, in frames of something quite unlike the recording (1 a frame). */
export interface SearchCosts {
  /** Of a frame of silence where nobody speaks. */
  silence: number
  /** Of a frame beside one it has nothing to do with. */
  unlike: number
  /** Of a frame of something else, where somebody speaks. */
  garbage: number
  garbageEntry: number
  skip: number
  repeat: number
  falseStart: number
  /** Of beginning a sentence, or something else, in the middle of speech. */
  unrested: number
}

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

/** A word in a short silence: the stop before a consonant. */
const SPEECH_IN_SILENCE = 0.25
/** Silence where somebody speaks, and the most that any frame costs; in parts of what an unlike one does. */
const SILENCE_IN_SPEECH = 1.7
const MOST = 2.1
const GARBAGE_IN_SILENCE = 0.7
/** Of leaving the last frame of a word out; the same inside a word is in kernels.as.ts. */
const HURRY = 0.08
const PAUSE_ENTRY = 0.4
/** Paths this much worse than the best are given up: what a sentence that is left out costs must leave room for words that fit badly. */
const BEAM = 64
const INFINITE = 1e30

const END = -1
const GARBAGE = -2

/** Cost of a recorded frame beside one of the reference: half the mean squared difference, 1 for two that have nothing in common. */
export function frameCost(a: Float32Array, i: number, b: Float32Array, j: number): number {
  let sum = 0
  const [p, q] = [i * DIMENSIONS, j * DIMENSIONS]
  for (let d = 0; d < DIMENSIONS; d += 4) {
    const e0 = a[p + d]! - b[q + d]!
    const e1 = a[p + d + 1]! - b[q + d + 1]!
    const e2 = a[p + d + 2]! - b[q + d + 2]!
    const e3 = a[p + d + 3]! - b[q + d + 3]!
    sum += e0 * e0 + e1 * e1 + e2 * e2 + e3 * e3
  }
  return sum * (0.5 / DIMENSIONS)
}

/** So near to a rest something begins after it. Frames. */
const RESTED_REACH = 8

/** Where something may begin as things do: at and soon after every frame in which nobody speaks. */
function afterRest(active: Uint8Array): Uint8Array {
  const rested = new Uint8Array(active.length + 1)
  for (let t = 0, since = 0; t < rested.length; t++) {
    rested[t] = since <= RESTED_REACH ? 1 : 0
    since = active[t] ? since + 1 : 0
  }
  return rested
}

/** Stops inside words are shorter than twice this. Frames. */
const STOP_REACH = 10

/** Where no word can be: silence that is too long for a stop in a word, but for its edges. */
function restsOf(active: Uint8Array): Uint8Array {
  const rests = new Uint8Array(active.length)
  for (const { start, end } of runsOf((n) => active[n] === 0, 0, active.length)) {
    const from = start === 0 ? 0 : start + STOP_REACH
    const to = end === active.length ? end : end - STOP_REACH
    if (to > from) rests.fill(1, from, to)
  }
  return rests
}

/** What the paths went through, as linked records, each after the one before it. */
class Traceback {
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

/**
 * @param features of the recording, as `cepstra` makes them
 * @param active where somebody speaks
 */
export function search(features: Float32Array, active: Uint8Array, reference: Reference, costs: SearchCosts): Path {
  const { words, sentences, frames: nodes } = reference
  const frames = active.length
  const count = sentences.length
  const traceback = new Traceback()
  const { kernels, places, buffer } = kernelsWith([4 * DIMENSIONS, 4 * reference.features.length, 4 * nodes, 4 * nodes, nodes])
  const [framePlace, referencePlace, scorePlace, recordPlace, holdPlace] = places as [number, number, number, number, number]
  const frame = new Float32Array(buffer, framePlace, DIMENSIONS)
  new Float32Array(buffer, referencePlace, reference.features.length).set(reference.features)
  const score = new Float32Array(buffer, scorePlace, nodes).fill(INFINITE)
  const records = new Int32Array(buffer, recordPlace, nodes).fill(-1)
  new Uint8Array(buffer, holdPlace, nodes).fill(0)
  // before each word a pause; before each sentence, and after the last, silence and garbage
  const pause = new Float32Array(words.length).fill(INFINITE)
  const pauseRecord = new Int32Array(words.length).fill(-1)
  const silence = new Float32Array(count + 1).fill(INFINITE)
  const silenceRecord = new Int32Array(count + 1).fill(-1)
  const garbage = new Float32Array(count + 1).fill(INFINITE)
  const garbageRecord = new Int32Array(count + 1).fill(-1)
  silence[0] = 0
  garbage[0] = costs.garbageEntry
  garbageRecord[0] = traceback.add(GARBAGE, 0, -1, costs.garbageEntry)
  const wordLive = new Uint8Array(words.length)
  const lastOf = Int32Array.from(sentences, (s) => s.end - 1)
  /** The cheapest way to begin each sentence at this frame, and where it comes from. */
  const begin = new Float32Array(count)
  const beginRecord = new Int32Array(count)

  const exitOf = (w: number) => {
    const { end, start } = words[w]!
    const last = score[end - 1]!
    const early = end - start > 2 ? score[end - 2]! + HURRY : INFINITE
    return last <= early ? last : early
  }
  const exitRecord = (w: number) => {
    const { end, start } = words[w]!
    const early = end - start > 2 ? score[end - 2]! + HURRY : INFINITE
    return score[end - 1]! <= early ? records[end - 1]! : records[end - 2]!
  }

  const most = MOST * costs.unlike
  const rested = afterRest(active)
  const rests = restsOf(active)
  let best = 0
  for (let t = 0; t < frames; t++) {
    const limit = best + BEAM
    frame.set(features.subarray(t * DIMENSIONS, (t + 1) * DIMENSIONS))
    const speaks = active[t] === 1
    const inSilence = rests[t] ? most : SPEECH_IN_SILENCE
    const silent = speaks ? SILENCE_IN_SPEECH * costs.unlike : costs.silence
    const strange = speaks ? costs.garbage : GARBAGE_IN_SILENCE
    const price = rested[t] ? 0 : costs.unrested
    const priceAfter = rested[t + 1] ? 0 : costs.unrested
    let next = INFINITE
    if (traceback.length > traceback.full) {
      for (let j = 0; j < nodes; j++) if (score[j]! >= INFINITE) records[j] = -1
      traceback.keepOnly([records, pauseRecord, silenceRecord, garbageRecord])
    }

    // 1. ways into each sentence, from what was before this frame
    for (let s = 0; s < count; s++) {
      let cheapest = silence[s]!
      let record = silenceRecord[s]!
      if (garbage[s]! < cheapest) {
        cheapest = garbage[s]!
        record = garbageRecord[s]!
      }
      if (s > 0 && wordLive[lastOf[s - 1]!]) {
        const exit = exitOf(lastOf[s - 1]!)
        if (exit < cheapest) {
          cheapest = exit
          record = exitRecord(lastOf[s - 1]!)
        }
      }
      begin[s] = cheapest + price
      beginRecord[s] = record
    }
    // said again: from the end of a sentence, or the rest after it, back to its beginning
    for (let s = 0; s < count; s++) {
      const { first, end } = sentences[s]!
      let again = Math.min(silence[s + 1]!, garbage[s + 1]!) + costs.repeat
      let record = silence[s + 1]! <= garbage[s + 1]! ? silenceRecord[s + 1]! : garbageRecord[s + 1]!
      // a false start: from any word but the last, or the rest before one
      for (let w = first; w < end; w++) {
        if (pause[w]! + costs.falseStart < again) {
          again = pause[w]! + costs.falseStart
          record = pauseRecord[w]!
        }
        if (!wordLive[w]) continue
        const exit = exitOf(w) + (w === end - 1 ? costs.repeat : costs.falseStart)
        if (exit < again) {
          again = exit
          record = exitRecord(w)
        }
      }
      if (again + price < begin[s]!) {
        begin[s] = again + price
        beginRecord[s] = record
      }
    }

    // 2. words, the last first: each reads what stood before it at the frame before
    for (let w = words.length - 1; w >= 0; w--) {
      const { start, end, sentence } = words[w]!
      const opens = sentences[sentence]!.first === w
      let entry = opens ? begin[sentence]! : pause[w]!
      let entryRecord = opens ? beginRecord[sentence]! : pauseRecord[w]!
      const before = w - 1
      if (!opens && wordLive[before]) {
        const exit = exitOf(before)
        if (exit < entry) {
          entry = exit
          entryRecord = exitRecord(before)
        }
      }
      if (!wordLive[w] && entry > limit) continue
      const told = kernels.advance(
        framePlace,
        referencePlace,
        scorePlace,
        recordPlace,
        holdPlace,
        start,
        end,
        entry,
        traceback.length,
        limit,
        speaks ? 0 : inSilence,
        most,
      )
      if (told & ENTERED) traceback.add(w, t, entryRecord, entry)
      wordLive[w] = told & ALIVE
      next = Math.min(next, kernels.leastScore())
    }

    // 3. rests between words of a sentence
    for (let w = 0; w < words.length; w++) {
      const opens = sentences[words[w]!.sentence]!.first === w
      if (opens) continue
      let value = pause[w]!
      let record = pauseRecord[w]!
      if (wordLive[w - 1]) {
        const exit = exitOf(w - 1) + PAUSE_ENTRY
        if (exit < value) {
          value = exit
          record = traceback.add(END, t + 1, exitRecord(w - 1), exit)
        }
      }
      pause[w] = value > limit + BEAM ? INFINITE : value + silent
      pauseRecord[w] = record
      if (pause[w]! < next) next = pause[w]!
    }

    // 4. rests and strange things between sentences, and sentences that are left out
    for (let s = 0; s <= count; s++) {
      let quiet = silence[s]!
      let quietRecord = silenceRecord[s]!
      let odd = garbage[s]!
      let oddRecord = garbageRecord[s]!
      if (odd < quiet) {
        quiet = odd
        quietRecord = traceback.add(END, t + 1, oddRecord, odd)
      }
      if (s > 0 && wordLive[lastOf[s - 1]!]) {
        const exit = exitOf(lastOf[s - 1]!)
        if (exit < quiet) {
          quiet = exit
          quietRecord = traceback.add(END, t + 1, exitRecord(lastOf[s - 1]!), exit)
        }
      }
      if (s > 0 && silence[s - 1]! + costs.skip < quiet) {
        quiet = silence[s - 1]! + costs.skip
        quietRecord = silenceRecord[s - 1]!
      }
      if (quiet + costs.garbageEntry + priceAfter < odd) {
        odd = quiet + costs.garbageEntry + priceAfter
        oddRecord = traceback.add(GARBAGE, t + 1, quietRecord, odd)
      }
      silence[s] = quiet > limit + BEAM ? INFINITE : quiet + silent
      silenceRecord[s] = quietRecord
      garbage[s] = odd > limit + BEAM ? INFINITE : odd + strange
      garbageRecord[s] = oddRecord
      if (silence[s]! < next) next = silence[s]!
      if (garbage[s]! < next) next = garbage[s]!
    }
    best = next
  }

  // the end may be anywhere, at the price of leaving the rest of the script out
  let final = INFINITE
  let record = -1
  for (let s = 0; s <= count; s++) {
    const rest = (count - s) * costs.skip
    if (silence[s]! + rest < final) [final, record] = [silence[s]! + rest, silenceRecord[s]!]
    if (garbage[s]! + rest < final) [final, record] = [garbage[s]! + rest, garbageRecord[s]!]
    if (s > 0 && wordLive[lastOf[s - 1]!] && exitOf(lastOf[s - 1]!) + rest < final)
      [final, record] = [exitOf(lastOf[s - 1]!) + rest, exitRecord(lastOf[s - 1]!)]
  }
  return { ...readTraceback(traceback, record, frames, final), cost: final / Math.max(1, frames) }
}

function readTraceback(traceback: Traceback, last: number, frames: number, final: number): Omit<Path, 'cost'> {
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
