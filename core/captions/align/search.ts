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
import { END, GARBAGE, type Path, readTraceback, Traceback } from './traceback.ts'

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
  /** Of going from anywhere to any sentence; left out, nobody does. The path that led there is not told then. */
  jump?: number
  /** How many sentences back one goes at most to say something again; left out, one. */
  reach?: number
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
export const RESTED_REACH = 8

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
export const STOP_REACH = 10

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

/** What a frame of the recording costs where, and from where paths may go on. */
interface Frame {
  time: number
  /** Paths that cost more are given up. */
  limit: number
  speaks: boolean
  /** Of a word that is in silence. */
  inSilence: number
  /** Of a rest, and of something that is not in the script. */
  rest: number
  offScript: number
  /** Of beginning here, and after this frame, where nobody has rested. */
  price: number
  priceAfter: number
}

/** The search at one moment: the best path to each place in the script, what it costs and where it came through. */
export class Search {
  /** Where the best path stands after the frame before: in a word, or before one. */
  place = { word: 0, cost: INFINITE, isStrange: false }
  readonly #reference: Reference
  readonly #costs: SearchCosts
  readonly #most: number
  readonly #traceback = new Traceback()
  readonly #kernels: ReturnType<typeof kernelsWith>['kernels']
  readonly #places: number[]
  readonly #frame: Float32Array
  readonly #score: Float32Array
  readonly #records: Int32Array
  readonly #wordLive: Uint8Array
  readonly #lastOf: Int32Array
  // before each word a pause; before each sentence, and after the last, silence and garbage
  readonly #pause: Float32Array
  readonly #pauseRecord: Int32Array
  readonly #silence: Float32Array
  readonly #silenceRecord: Int32Array
  readonly #garbage: Float32Array
  readonly #garbageRecord: Int32Array
  /** The cheapest way to begin each sentence at this frame, and where it comes from. */
  readonly #begin: Float32Array
  readonly #beginRecord: Int32Array

  constructor(reference: Reference, costs: SearchCosts) {
    const { words, sentences, features, frames: nodes } = reference
    this.#reference = reference
    this.#costs = costs
    this.#most = MOST * costs.unlike
    const { kernels, places, buffer } = kernelsWith([4 * DIMENSIONS, 4 * features.length, 4 * nodes, 4 * nodes, nodes])
    this.#kernels = kernels
    this.#places = places
    const [framePlace, referencePlace, scorePlace, recordPlace, holdPlace] = places as [number, number, number, number, number]
    this.#frame = new Float32Array(buffer, framePlace, DIMENSIONS)
    new Float32Array(buffer, referencePlace, features.length).set(features)
    this.#score = new Float32Array(buffer, scorePlace, nodes).fill(INFINITE)
    this.#records = new Int32Array(buffer, recordPlace, nodes).fill(-1)
    new Uint8Array(buffer, holdPlace, nodes).fill(0)
    const count = sentences.length
    this.#wordLive = new Uint8Array(words.length)
    this.#lastOf = Int32Array.from(sentences, (s) => s.end - 1)
    this.#pause = new Float32Array(words.length).fill(INFINITE)
    this.#pauseRecord = new Int32Array(words.length).fill(-1)
    this.#silence = new Float32Array(count + 1).fill(INFINITE)
    this.#silenceRecord = new Int32Array(count + 1).fill(-1)
    this.#garbage = new Float32Array(count + 1).fill(INFINITE)
    this.#garbageRecord = new Int32Array(count + 1).fill(-1)
    this.#silence[0] = 0
    this.#garbage[0] = costs.garbageEntry
    this.#garbageRecord[0] = this.#traceback.add(GARBAGE, 0, -1, costs.garbageEntry)
    this.#begin = new Float32Array(count)
    this.#beginRecord = new Int32Array(count)
  }

  /** @returns what the best path costs after this frame */
  advance(features: Float32Array, frame: Frame): number {
    this.#frame.set(features)
    const anywhere = this.place.cost + (this.#costs.jump ?? INFINITE) + frame.price
    this.place = { ...this.place, cost: INFINITE }
    this.#forgetPaths()
    this.#enterSentences(frame.price)
    this.#enterAgain(frame.price)
    if (anywhere < INFINITE) this.#enterFrom(anywhere)
    return Math.min(this.#advanceWords(frame), this.#restInSentences(frame), this.#restBetweenSentences(frame))
  }

  /** Begins anew before a sentence: what was heard so far counts no more. */
  standBefore(sentence: number) {
    this.#score.fill(INFINITE)
    this.#records.fill(-1)
    this.#wordLive.fill(0)
    for (const costs of [this.#pause, this.#silence, this.#garbage]) costs.fill(INFINITE)
    this.#silence[sentence] = 0
    this.#silenceRecord[sentence] = -1
    this.place = { word: this.#reference.sentences[sentence]?.first ?? this.#reference.words.length, cost: 0, isStrange: false }
  }

  /** The end may be anywhere, at the price of leaving the rest of the script out. */
  end(frames: number): Path {
    const count = this.#reference.sentences.length
    let final = INFINITE
    let record = -1
    for (let s = 0; s <= count; s++) {
      const rest = (count - s) * this.#costs.skip
      if (this.#silence[s]! + rest < final) [final, record] = [this.#silence[s]! + rest, this.#silenceRecord[s]!]
      if (this.#garbage[s]! + rest < final) [final, record] = [this.#garbage[s]! + rest, this.#garbageRecord[s]!]
      if (s === 0 || !this.#wordLive[this.#lastOf[s - 1]!]) continue
      const last = this.#lastOf[s - 1]!
      if (this.#exitOf(last) + rest < final) [final, record] = [this.#exitOf(last) + rest, this.#exitRecord(last)]
    }
    return { ...readTraceback(this.#traceback, record, frames, final), cost: final / Math.max(1, frames) }
  }

  /** A path stands in or before a word, perhaps in something that is not in the script. @returns what it costs */
  #standAt(word: number, cost: number, isStrange = false): number {
    if (cost < this.place.cost) this.place = { word, cost, isStrange }
    return cost
  }

  /** What a path that leaves a word costs. */
  #exitOf(w: number): number {
    const { end, start } = this.#reference.words[w]!
    const last = this.#score[end - 1]!
    const early = end - start > 2 ? this.#score[end - 2]! + HURRY : INFINITE
    return last <= early ? last : early
  }

  #exitRecord(w: number): number {
    const { end, start } = this.#reference.words[w]!
    const early = end - start > 2 ? this.#score[end - 2]! + HURRY : INFINITE
    return this.#score[end - 1]! <= early ? this.#records[end - 1]! : this.#records[end - 2]!
  }

  #forgetPaths() {
    if (this.#traceback.length <= this.#traceback.full) return
    for (let j = 0; j < this.#score.length; j++) if (this.#score[j]! >= INFINITE) this.#records[j] = -1
    this.#traceback.keepOnly([this.#records, this.#pauseRecord, this.#silenceRecord, this.#garbageRecord])
  }

  /** Ways into each sentence, from what was before this frame. */
  #enterSentences(price: number) {
    for (let s = 0; s < this.#begin.length; s++) {
      let cheapest = this.#silence[s]!
      let record = this.#silenceRecord[s]!
      if (this.#garbage[s]! < cheapest) {
        cheapest = this.#garbage[s]!
        record = this.#garbageRecord[s]!
      }
      if (s > 0 && this.#wordLive[this.#lastOf[s - 1]!]) {
        const exit = this.#exitOf(this.#lastOf[s - 1]!)
        if (exit < cheapest) {
          cheapest = exit
          record = this.#exitRecord(this.#lastOf[s - 1]!)
        }
      }
      this.#begin[s] = cheapest + price
      this.#beginRecord[s] = record
    }
  }

  /** Said again: from the end of a sentence, or the rest after it, back to its beginning; begun anew: from any word but the last. */
  #enterAgain(price: number) {
    const { sentences } = this.#reference
    const { reach = 1 } = this.#costs
    for (let s = 0; s < sentences.length; s++)
      for (let from = s; from < Math.min(sentences.length, s + reach); from++) this.#enterAgainFrom(s, from, price)
  }

  /** @param s the sentence that is said again @param from the one that was said last */
  #enterAgainFrom(s: number, from: number, price: number) {
    const { first, end } = this.#reference.sentences[from]!
    const { repeat, falseStart } = this.#costs
    let again = Math.min(this.#silence[from + 1]!, this.#garbage[from + 1]!) + repeat
    let record =
      this.#silence[from + 1]! <= this.#garbage[from + 1]! ? this.#silenceRecord[from + 1]! : this.#garbageRecord[from + 1]!
    for (let w = first; w < end; w++) {
      // or the rest before one
      if (this.#pause[w]! + falseStart < again) {
        again = this.#pause[w]! + falseStart
        record = this.#pauseRecord[w]!
      }
      if (!this.#wordLive[w]) continue
      const exit = this.#exitOf(w) + (w === end - 1 ? repeat : falseStart)
      if (exit < again) {
        again = exit
        record = this.#exitRecord(w)
      }
    }
    if (again + price < this.#begin[s]!) {
      this.#begin[s] = again + price
      this.#beginRecord[s] = record
    }
  }

  /** From anywhere. */
  #enterFrom(cost: number) {
    for (let s = 0; s < this.#begin.length; s++) {
      if (this.#begin[s]! <= cost) continue
      this.#begin[s] = cost
      this.#beginRecord[s] = -1
    }
  }

  /** Words, the last first: each reads what stood before it at the frame before. @returns what the best costs */
  #advanceWords({ time, limit, speaks, inSilence }: Frame): number {
    const { words, sentences } = this.#reference
    const [framePlace, referencePlace, scorePlace, recordPlace, holdPlace] = this.#places as [
      number,
      number,
      number,
      number,
      number,
    ]
    let best = INFINITE
    for (let w = words.length - 1; w >= 0; w--) {
      const { start, end, sentence } = words[w]!
      const opens = sentences[sentence]!.first === w
      let entry = opens ? this.#begin[sentence]! : this.#pause[w]!
      let entryRecord = opens ? this.#beginRecord[sentence]! : this.#pauseRecord[w]!
      const before = w - 1
      if (!opens && this.#wordLive[before]) {
        const exit = this.#exitOf(before)
        if (exit < entry) {
          entry = exit
          entryRecord = this.#exitRecord(before)
        }
      }
      if (!this.#wordLive[w] && entry > limit) continue
      const told = this.#kernels.advance(
        framePlace,
        referencePlace,
        scorePlace,
        recordPlace,
        holdPlace,
        start,
        end,
        entry,
        this.#traceback.length,
        limit,
        speaks ? 0 : inSilence,
        this.#most,
      )
      if (told & ENTERED) this.#traceback.add(w, time, entryRecord, entry)
      this.#wordLive[w] = told & ALIVE
      best = Math.min(best, this.#standAt(w, this.#kernels.leastScore()))
    }
    return best
  }

  /** Rests between words of a sentence. @returns what the best costs */
  #restInSentences({ time, limit, rest }: Frame): number {
    const { words, sentences } = this.#reference
    let best = INFINITE
    for (let w = 0; w < words.length; w++) {
      if (sentences[words[w]!.sentence]!.first === w) continue
      let value = this.#pause[w]!
      let record = this.#pauseRecord[w]!
      if (this.#wordLive[w - 1]) {
        const exit = this.#exitOf(w - 1) + PAUSE_ENTRY
        if (exit < value) {
          value = exit
          record = this.#traceback.add(END, time + 1, this.#exitRecord(w - 1), exit)
        }
      }
      this.#pause[w] = value > limit + BEAM ? INFINITE : value + rest
      this.#pauseRecord[w] = record
      best = Math.min(best, this.#standAt(w, this.#pause[w]!))
    }
    return best
  }

  /** Rests and what is not in the script between sentences, and sentences that are left out. @returns what the best costs */
  #restBetweenSentences({ time, limit, rest, offScript, priceAfter }: Frame): number {
    const { skip, garbageEntry } = this.#costs
    let best = INFINITE
    for (let s = 0; s < this.#silence.length; s++) {
      let quiet = this.#silence[s]!
      let quietRecord = this.#silenceRecord[s]!
      let odd = this.#garbage[s]!
      let oddRecord = this.#garbageRecord[s]!
      if (odd < quiet) {
        quiet = odd
        quietRecord = this.#traceback.add(END, time + 1, oddRecord, odd)
      }
      if (s > 0 && this.#wordLive[this.#lastOf[s - 1]!]) {
        const exit = this.#exitOf(this.#lastOf[s - 1]!)
        if (exit < quiet) {
          quiet = exit
          quietRecord = this.#traceback.add(END, time + 1, this.#exitRecord(this.#lastOf[s - 1]!), exit)
        }
      }
      if (s > 0 && this.#silence[s - 1]! + skip < quiet) {
        quiet = this.#silence[s - 1]! + skip
        quietRecord = this.#silenceRecord[s - 1]!
      }
      if (quiet + garbageEntry + priceAfter < odd) {
        odd = quiet + garbageEntry + priceAfter
        oddRecord = this.#traceback.add(GARBAGE, time + 1, quietRecord, odd)
      }
      this.#silence[s] = quiet > limit + BEAM ? INFINITE : quiet + rest
      this.#silenceRecord[s] = quietRecord
      this.#garbage[s] = odd > limit + BEAM ? INFINITE : odd + offScript
      this.#garbageRecord[s] = oddRecord
      const next = this.#reference.sentences[s]?.first ?? this.#reference.words.length
      best = Math.min(best, this.#standAt(next, this.#silence[s]!), this.#standAt(next, this.#garbage[s]!, true))
    }
    return best
  }
}

/** What a moment of the recording is, told from what lies before it and a little after. */
interface Moment {
  speaks: boolean
  /** In a silence too long for a stop inside a word. */
  rests: boolean
  /** Something may begin as things do, here and after this frame. */
  rested: boolean
  restedAfter: boolean
}

/** What being at a moment costs. @param best what the best path costs before it */
export function frameOf(time: number, best: number, { speaks, rests, rested, restedAfter }: Moment, costs: SearchCosts): Frame {
  return {
    time,
    limit: best + BEAM,
    speaks,
    inSilence: rests ? MOST * costs.unlike : SPEECH_IN_SILENCE,
    rest: speaks ? SILENCE_IN_SPEECH * costs.unlike : costs.silence,
    offScript: speaks ? costs.garbage : GARBAGE_IN_SILENCE,
    price: rested ? 0 : costs.unrested,
    priceAfter: restedAfter ? 0 : costs.unrested,
  }
}

/**
 * @param features of the recording, as `cepstra` makes them
 * @param active where somebody speaks
 */
export function search(features: Float32Array, active: Uint8Array, reference: Reference, costs: SearchCosts): Path {
  const paths = new Search(reference, costs)
  const rested = afterRest(active)
  const rests = restsOf(active)
  let best = 0
  for (let time = 0; time < active.length; time++) {
    const moment = {
      speaks: active[time] === 1,
      rests: rests[time] === 1,
      rested: rested[time] === 1,
      restedAfter: rested[time + 1] === 1,
    }
    best = paths.advance(features.subarray(time * DIMENSIONS, (time + 1) * DIMENSIONS), frameOf(time, best, moment, costs))
  }
  return paths.end(active.length)
}
