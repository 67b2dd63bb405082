/** Where one long recording changes slide: each boundary lands in a real pause. */
import type { SampleRange } from '#core/model/sample-range.ts'
import { SaidError } from '#core/words/said-error.ts'
import { message } from '#core/words/say.ts'
import { SAMPLE_RATE, toSamples } from '../clocks.ts'

/** What is known of where the slides change; the most telling thing first. */
export type SplitHint =
  /** Rough moments in samples of the recording, one fewer than slides: pressed a little early or late. */
  | { from: 'marks'; marks: readonly number[] }
  /** How much there is to say on each slide, in any unit; 0 for a slide without a script. */
  | { from: 'scripts'; weights: readonly number[] }
  /** Only how many slides there are. */
  | { from: 'pauses'; slides: number }

export interface Boundary {
  /** Sample of the recording at which the next slide begins. */
  at: number
  /** The pause it lies in; null where no pause was near, and it stands where the mark was. */
  pause: SampleRange | null
}

/** Common practice, no published source: presenters press a little early or late. */
const MARK_REACH_S = 1.5
/** Shorter gaps are stops inside words. */
const SHORTEST_PAUSE_S = 0.12
/** Beyond this, a longer pause says no more about a change of slide. */
const LONGEST_TELLING_S = 3
/** How strongly lengths of speech are held to the scripts: a speaker's rate varies by about this part from slide to slide. */
const RATE_SPREAD = 0.16
const ROUNDS = 4

export interface Pause extends SampleRange {
  /** Seconds. */
  length: number
  /** Samples of speech before it. */
  spoken: number
}

/** Pauses between stretches of speech. */
function pausesOf(speech: readonly SampleRange[]): Pause[] {
  const pauses: Pause[] = []
  let spoken = 0
  for (const [i, before] of speech.entries()) {
    spoken += before.end - before.start
    const next = speech[i + 1]
    if (!next) break
    const length = (next.start - before.end) / SAMPLE_RATE
    if (length >= SHORTEST_PAUSE_S) pauses.push({ start: before.end, end: next.start, length, spoken })
  }
  return pauses
}

const middle = (s: SampleRange) => Math.round((s.start + s.end) / 2)

/** Worth of a pause as a change of slide: each doubling of its length counts the same. */
const tellingLength = (pause: Pause) => Math.log2(Math.min(pause.length, LONGEST_TELLING_S) / SHORTEST_PAUSE_S)

/** What decides where boundaries stand. */
export interface Worth {
  /** Of a pause as a boundary, whatever the others are. */
  alone: (pause: Pause) => number
  /** How ill so many samples of speech fit slide `i`; convex in them. */
  misfit: (spoken: number, i: number) => number
}

/**
 * The best pauses for all boundaries together, in order, by dynamic programming. What is lost for a slide is convex in the speech between its
 * two boundaries, so the best boundary before moves on with the boundary itself: each half of the pauses has to look only on its own side of the
 * best one of the middle (divide and conquer for a matrix with the Monge property; F. F. Yao, "Efficient dynamic programming using
 * quadrangle inequalities", 1980, from memory). Of `p` pauses and `b` boundaries that is b·p·log p steps instead of b·p².
 *
 * @param boundaries at least 1
 * @param all samples of speech in the recording
 * @returns the chosen pauses, in order; null when there are fewer pauses than boundaries
 */
export function choosePauses(
  pauses: readonly Pause[],
  boundaries: number,
  all: number,
  { alone, misfit }: Worth,
): Pause[] | null {
  if (pauses.length < boundaries) return null
  const own = pauses.map(alone)
  let best = pauses.map((pause, p) => own[p]! - misfit(pause.spoken, 0))
  const from: Int32Array[] = []
  for (let i = 1; i < boundaries; i++) {
    const next = new Array<number>(pauses.length).fill(Number.NEGATIVE_INFINITY)
    const back = new Int32Array(pauses.length).fill(-1)
    /** Fills pauses `low` to `high`, whose best boundary before lies from `least` to `most`. */
    const fill = (low: number, high: number, least: number, most: number) => {
      if (low > high) return
      const p = (low + high) >> 1
      for (let q = least; q <= Math.min(most, p - 1); q++) {
        const total = best[q]! + own[p]! - misfit(pauses[p]!.spoken - pauses[q]!.spoken, i)
        if (total > next[p]!) {
          next[p] = total
          back[p] = q
        }
      }
      fill(low, p - 1, least, back[p]!)
      fill(p + 1, high, back[p]!, most)
    }
    fill(i, pauses.length - 1, i - 1, pauses.length - 2)
    from.push(back)
    best = next
  }
  const totals = best.map((value, p) => value - misfit(all - pauses[p]!.spoken, boundaries))
  let at = totals.indexOf(Math.max(...totals))
  const chosen = [pauses[at]!]
  for (const back of from.reverse()) {
    at = back[at]!
    chosen.unshift(pauses[at]!)
  }
  return chosen
}

/** The most telling pauses, in order; null when there are too few. */
function longest(pauses: readonly Pause[], count: number): Pause[] | null {
  if (pauses.length < count) return null
  const chosen = pauses.toSorted((a, b) => b.length - a.length).slice(0, count)
  return chosen.sort((a, b) => a.start - b.start)
}

/** Each mark in the likeliest pause near it; where there is none, it stays. */
function fromMarks(pauses: readonly Pause[], marks: readonly number[]): Boundary[] {
  const reach = toSamples(MARK_REACH_S)
  let used = 0
  return marks.map((mark, i) => {
    const next = marks[i + 1] ?? Number.POSITIVE_INFINITY
    const distance = (p: Pause) => (mark < p.start ? p.start - mark : mark > p.end ? mark - p.end : 0)
    const near = pauses.filter((p) => p.start >= used && distance(p) <= reach && middle(p) < next)
    const worth = (p: Pause) => tellingLength(p) - 1.2 * (distance(p) / reach) ** 2
    const pause = near.reduce<Pause | null>((best, p) => (best && worth(best) >= worth(p) ? best : p), null)
    used = pause ? pause.end : mark
    if (!pause) return { at: mark, pause: null }
    return { at: middle(pause), pause: { start: pause.start, end: pause.end } }
  })
}

/** Boundaries so that what is said on each slide fits what its script holds, and each lies in a telling pause. */
function fromWeights(speech: readonly SampleRange[], pauses: readonly Pause[], weights: readonly number[]): Pause[] | null {
  const all = speech.reduce((sum, s) => sum + s.end - s.start, 0)
  const usual = weights.filter((w) => w > 0)
  const mean = usual.length > 0 ? usual.reduce((a, b) => a + b, 0) / usual.length : 1
  // a slide without a script is spoken to for as long as the others, as far as anybody knows
  const known = weights.map((w) => (w > 0 ? w : mean))
  const total = known.reduce((a, b) => a + b, 0)
  const misfit = (spoken: number, i: number, samplesAWeight: number) => {
    const wanted = known[i]! * samplesAWeight
    const spread = RATE_SPREAD * wanted + toSamples(0.4)
    const loose = weights[i]! > 0 ? 1 : 4
    return ((spoken - wanted) / (spread * loose)) ** 2
  }
  let chosen: Pause[] | null = null
  let rate = all / total
  for (let round = 0; round < ROUNDS; round++) {
    chosen = choosePauses(pauses, weights.length - 1, all, {
      alone: (pause) => 1.5 * tellingLength(pause),
      misfit: (spoken, i) => misfit(spoken, i, rate),
    })
    if (!chosen) return null
    // the rate at which most slides were spoken: a middle value, so that one misplaced boundary does not bend it
    const rates = known.map((w, i) => ((chosen![i]?.spoken ?? all) - (chosen![i - 1]?.spoken ?? 0)) / w).sort((a, b) => a - b)
    const next = rates[Math.floor(rates.length / 2)]!
    if (Math.abs(next - rate) < rate * 1e-3) break
    rate = next
  }
  return chosen
}

/**
 * Proposes where a long recording changes slide.
 *
 * @param speech where the voice is, samples of the recording, in order
 * @returns boundaries in order, one fewer than slides; marks that are near no pause stay where they are
 * @throws SaidError when the recording has fewer pauses than changes
 */
export function proposeBoundaries(speech: readonly SampleRange[], hint: SplitHint): Boundary[] {
  const pauses = pausesOf(speech)
  if (hint.from === 'marks') return fromMarks(pauses, hint.marks)
  const slides = hint.from === 'scripts' ? hint.weights.length : hint.slides
  if (slides <= 1) return []
  const chosen = hint.from === 'scripts' ? fromWeights(speech, pauses, hint.weights) : longest(pauses, slides - 1)
  if (!chosen)
    throw new SaidError(
      message(
        'The recording has {pauses, plural, one {# pause} other {# pauses}}, too few for {slides} slides. Choose fewer slides, or set the changes by hand.',
        { pauses: pauses.length, slides },
      ),
    )
  return chosen.map((pause) => ({ at: middle(pause), pause: { start: pause.start, end: pause.end } }))
}

/**
 * The moment that a dragged boundary snaps to.
 *
 * @param reach samples; pauses further away do not pull
 * @returns the middle of the nearest pause, or the moment itself where no pause is near
 */
export function snapToPause(speech: readonly SampleRange[], at: number, reach: number): Boundary {
  let best: Pause | null = null
  for (const pause of pausesOf(speech)) {
    const distance = (p: Pause) => (at < p.start ? p.start - at : at > p.end ? at - p.end : 0)
    if (distance(pause) <= reach && (!best || distance(pause) < distance(best))) best = pause
  }
  if (!best) return { at, pause: null }
  return { at: at > best.start && at < best.end ? at : middle(best), pause: { start: best.start, end: best.end } }
}
