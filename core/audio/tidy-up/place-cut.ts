/** Where to cut, when words are taken out: in the quiet beside them; where there is none, where the join is heard least. */

import { realFft } from '#core/audio/signal/fft.ts'
import { applyBiquad, highPass } from '#core/audio/signal/filters.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { SAMPLE_RATE, toSamples } from '#core/timing/clocks.ts'

/** Words that go, and those that stay beside them. Samples of the take. */
export interface WordCut {
  /** Where the word before ends; null where none is. */
  before: number | null
  /** Where the first and the last word that go begin and end. */
  first: number
  last: number
  /** Where the word after begins; null where none is. */
  after: number | null
}

export interface PlacedCut {
  cut: SampleRange
  /** Nobody rests beside these words: the join lies within speech, and may be heard. */
  isHeard: boolean
}

/** A piece of a take, and the sample of the take it begins at. */
export interface Piece {
  from: number
  samples: Float32Array
}

const STEP = toSamples(0.0025)
const WINDOW = toSamples(0.01)
/** Rumble is no speech. */
const LOWEST_HZ = 90
/** The aligner may be so far off: quiet is looked for so far into the words on both sides. */
const SLACK = toSamples(0.08)
/** What is no louder than the room by so much, or lies so far under the voice, is quiet. dB. */
const [OVER_ROOM_DB, UNDER_VOICE_DB] = [7, 34]
/** Shorter quiet may be a stop inside a word. */
const SHORTEST_REST = toSamples(0.08)
/** So much of a pause stays on each side of a join. */
const LONGEST_LEFT = toSamples(0.35)
/** Room left beside a word where the words on the other side of the join come without a pause. */
const CLOSE = toSamples(0.02)
/** What is looked at around a pause. */
const AROUND = toSamples(0.25)
/** The longest pause that is looked at, from the word that goes; where no word is known beyond it, it goes as a whole. */
const [FARTHEST, FARTHEST_OUTSIDE] = [toSamples(1.5), toSamples(4)]

/** What must be known of the take to place a cut: two pieces, which may overlap. @param length of the take, samples */
export function piecesFor(words: WordCut, length: number): [SampleRange, SampleRange] {
  const { start, end } = edgesOf(words, length)
  const wide = (s: SampleRange) => ({ start: Math.max(0, s.start - AROUND), end: Math.min(length, s.end + AROUND) })
  return [wide(start), wide(end)]
}

/** Where each edge of a cut may lie. */
function edgesOf({ before, first, last, after }: WordCut, length: number) {
  const middle = (first + last) / 2
  const reach = (beside: number | null) => (beside === null ? FARTHEST_OUTSIDE : FARTHEST)
  return {
    start: {
      start: Math.max(0, first - reach(before), (before ?? 0) - SLACK),
      end: Math.round(Math.min(first + SLACK, Math.max(first + STEP, middle))),
    },
    end: {
      start: Math.round(Math.max(last - SLACK, Math.min(last - STEP, middle))),
      end: Math.min(length, last + reach(after), (after ?? length) + SLACK),
    },
  }
}

/** Levels of a piece, one each step, dB, and where they are. */
class Levels {
  readonly #from: number
  readonly #db: Float32Array

  constructor({ from, samples }: Piece) {
    const steady = applyBiquad(samples, highPass(LOWEST_HZ, SAMPLE_RATE))
    this.#from = from
    this.#db = Float32Array.from({ length: Math.max(0, Math.floor((samples.length - WINDOW) / STEP) + 1) }, (_, n) => {
      let sum = 0
      for (let i = n * STEP; i < n * STEP + WINDOW; i++) sum += steady[i]! * steady[i]!
      return 10 * Math.log10(sum / WINDOW + 1e-12)
    })
  }

  get all(): Float32Array {
    return this.#db
  }

  /** @param at sample of the take */
  at(at: number): number {
    const n = Math.round((at - WINDOW / 2 - this.#from) / STEP)
    return this.#db[Math.max(0, Math.min(this.#db.length - 1, n))] ?? 0
  }

  /** Stretches that are quieter than a level. */
  quiet(within: SampleRange, below: number): SampleRange[] {
    const out: SampleRange[] = []
    for (let at = within.start; at < within.end; at += STEP) {
      if (this.at(at) > below) continue
      const last = out.at(-1)
      if (last && last.end === at) last.end = at + STEP
      else out.push({ start: at, end: at + STEP })
    }
    return out.filter((s) => s.end - s.start >= SHORTEST_REST)
  }
}

const BANDS_HZ = [100, 250, 450, 700, 1000, 1400, 2000, 2800, 4000, 5600, 8000]
const FFT_SIZE = 1024

/** How a moment sounds: levels of eleven bands, dB. */
function colour({ from, samples }: Piece, begin: number): number[] {
  const fft = realFft(FFT_SIZE)
  const input = new Float64Array(FFT_SIZE)
  for (let i = 0; i < FFT_SIZE; i++)
    input[i] = (samples[begin - from + i] ?? 0) * (0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / FFT_SIZE))
  const [re, im] = [new Float64Array(fft.bins), new Float64Array(fft.bins)]
  fft.forward(input, re, im)
  return BANDS_HZ.slice(1).map((high, b) => {
    let sum = 0
    const [low, top] = [BANDS_HZ[b]!, high].map((hz) => Math.round((hz * FFT_SIZE) / SAMPLE_RATE)) as [number, number]
    for (let bin = low; bin < Math.max(low + 1, top); bin++) sum += re[bin]! ** 2 + im[bin]! ** 2
    return 10 * Math.log10(sum + 1e-9)
  })
}

const unlike = (a: readonly number[], b: readonly number[], floor: number) =>
  a.reduce((sum, v, i) => sum + Math.abs(Math.max(floor, v) - Math.max(floor, b[i]!)), 0) / a.length

/** What being away from where the aligner puts an edge costs, dB at the farthest. */
const FAR_DB = 96
/** How much unlike sounds on both sides of a join count beside their levels. */
const UNLIKE = 0.5
const CANDIDATE = 2 * STEP
/** What is so far under the loudest band says nothing of a sound's colour. dB. */
const FAINTEST_DB = 40

/** Where one edge may lie when there is no quiet: quiet and near to where the words meet. */
function candidates(range: SampleRange, expected: number, levels: Levels) {
  const out: { at: number; cost: number }[] = []
  for (let at = Math.max(range.start, expected - SLACK); at <= Math.min(range.end, expected + SLACK); at += CANDIDATE) {
    out.push({ at: Math.round(at), cost: levels.at(at) + FAR_DB * ((at - expected) / SLACK) ** 2 })
  }
  return out
}

/** In which quiet an edge is put: the longest. */
const longest = (list: readonly SampleRange[]) =>
  list.reduce<SampleRange | null>((best, s) => (!best || s.end - s.start > best.end - best.start ? s : best), null)

/**
 * Places the cut that takes words out.
 *
 * @param words what goes and what stays beside it
 * @param pieces of the take as it was recorded, mono, 48 kHz: those that `piecesFor` names
 * @param length of the take, samples
 */
export function placeCut(words: WordCut, pieces: readonly [Piece, Piece], length: number): PlacedCut {
  const edges = edgesOf(words, length)
  const levels = pieces.map((piece) => new Levels(piece)) as [Levels, Levels]
  const sorted = Float32Array.from([...levels[0].all, ...levels[1].all]).sort()
  const [room, voice] = [sorted[Math.floor(0.05 * sorted.length)] ?? -90, sorted[Math.floor(0.9 * sorted.length)] ?? -30]
  const threshold = Math.max(room + OVER_ROOM_DB, voice - UNDER_VOICE_DB)
  const before = levels[0].quiet(edges.start, threshold)
  const after = levels[1].quiet(edges.end, threshold)
  // beyond the first and the last word that is known something may be said all the same: only the rest beside it goes
  const quietBefore = words.before === null ? (before.at(-1) ?? null) : longest(before)
  const quietAfter = words.after === null ? (after[0] ?? null) : longest(after)
  if (quietBefore && quietAfter) {
    const start = words.before === null ? quietBefore.start : Math.min(middleOf(quietBefore), quietBefore.start + LONGEST_LEFT)
    const end = words.after === null ? quietAfter.end : Math.max(middleOf(quietAfter), quietAfter.end - LONGEST_LEFT)
    return { cut: { start: Math.max(0, start), end: Math.min(length, end) }, isHeard: false }
  }
  // at the very ends of the take there is nothing to join
  const isAtEnd = (words.before === null && words.first <= SLACK) || (words.after === null && length - words.last <= SLACK)
  const meets = (a: number | null, b: number) => (a === null ? b : (a + b) / 2)
  const starts = quietBefore
    ? [{ at: Math.min(middleOf(quietBefore), quietBefore.start + 2 * CLOSE), cost: threshold }]
    : candidates(edges.start, meets(words.before, words.first), levels[0])
  const ends = quietAfter
    ? [{ at: Math.max(middleOf(quietAfter), quietAfter.end - CLOSE), cost: threshold }]
    : candidates(edges.end, meets(words.after, words.last), levels[1])
  let best = { start: words.first, end: words.last, cost: Number.POSITIVE_INFINITY }
  const left = starts.map(({ at }) => colour(pieces[0], at - FFT_SIZE))
  const right = ends.map(({ at }) => colour(pieces[1], at))
  const floor = Math.max(...left.flat(), ...right.flat()) - FAINTEST_DB
  for (const [i, a] of starts.entries())
    for (const [k, b] of ends.entries()) {
      if (b.at <= a.at) continue
      const difference = isAtEnd ? 0 : unlike(left[i]!, right[k]!, floor)
      const cost = a.cost + b.cost + UNLIKE * difference
      if (cost < best.cost) best = { start: a.at, end: b.at, cost }
    }
  return {
    cut: { start: Math.round(best.start), end: Math.round(best.end) },
    isHeard: !isAtEnd,
  }
}

const middleOf = (s: SampleRange) => Math.round((s.start + s.end) / 2)
