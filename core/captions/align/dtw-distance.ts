/** Whether two stretches of one recording are the same words, said twice. */
import { DIMENSIONS } from './features.ts'
import type { Run } from './runs.ts'
import { frameCost } from './search.ts'

/** Frames of speech below which nothing can be told. */
const FEWEST = 30

const spokenIn = (active: Uint8Array, { start, end }: Run) =>
  Array.from({ length: Math.max(0, end - start) }, (_, i) => start + i).filter((n) => active[n])

/** Mean cost of frames of a recording that have nothing to do with each other. @param frames those in which somebody speaks */
function costOfAny(features: Float32Array, frames: readonly number[]): number {
  let sum = 0
  for (let i = 0; i < 2000; i++)
    sum += frameCost(features, frames[(i * 7919) % frames.length]!, features, frames[(i * 104_729 + 13) % frames.length]!)
  return sum / 2000
}

/** Costs of the best ways from the beginning of both to the end of the first and each frame of the second. @param a frames @param b frames */
function warpingCosts(features: Float32Array, a: readonly number[], b: readonly number[]): Float64Array {
  let before = new Float64Array(b.length).fill(Number.POSITIVE_INFINITY)
  for (const [i, m] of a.entries()) {
    const here = new Float64Array(b.length)
    for (const [j, n] of b.entries()) {
      const cost = frameCost(features, m, features, n)
      const both = j > 0 ? before[j - 1]! + cost : Number.POSITIVE_INFINITY
      const cheapest = Math.min(before[j]!, j > 0 ? here[j - 1]! : Number.POSITIVE_INFINITY, both)
      here[j] = cost + (i === 0 && j === 0 ? 0 : cheapest)
    }
    before = here
  }
  return before
}

/**
 * How unlike two stretches sound, the faster parts of one laid beside the slower ones of the other by dynamic time warping.
 *
 * Same words said twice by one speaker measured 0.06 to 0.40, other words of the same speaker 0.49 and more but for two pairs of about 120 (prompts in three
 * languages; bench/align/likeness.ts).
 *
 * @param features of the recording, as `cepstra` makes them
 * @param active where somebody speaks
 * @returns 0 for the same sound; null where one has next to no speech in it
 * @see Sakoe & Chiba 1978, IEEE Trans. ASSP 26(1): the symmetric form, without a slope constraint
 */
export function unlikeness(features: Float32Array, active: Uint8Array, first: Run, second: Run): number | null {
  const [a, b] = [spokenIn(active, first), spokenIn(active, second)]
  if (a.length < FEWEST || b.length < FEWEST) return null
  const any = costOfAny(features, spokenIn(active, { start: 0, end: features.length / DIMENSIONS }))
  return warpingCosts(features, a, b).at(-1)! / (a.length + b.length) / Math.max(1e-9, any)
}

/** Frames of speech below which something may be like the beginning of anything. */
const FEWEST_OF_BEGINNING = 45
/** What is begun is said about as fast the second time. */
const LIKE_LENGTH = 1.35

/**
 * How unlike a stretch is to the beginning of another one, however far into that it goes.
 *
 * @returns as `unlikeness` does, and the frame of the second at which the likest beginning ends; null where either has next to no speech in
 *   it, or the second is no longer than the first
 */
export function unlikenessOfBeginning(
  features: Float32Array,
  active: Uint8Array,
  first: Run,
  second: Run,
): { unlike: number; end: number } | null {
  const [a, all] = [spokenIn(active, first), spokenIn(active, second)]
  if (a.length < FEWEST_OF_BEGINNING || all.length <= a.length) return null
  const any = costOfAny(features, spokenIn(active, { start: 0, end: features.length / DIMENSIONS }))
  const b = all.slice(0, Math.round(a.length * LIKE_LENGTH))
  const costs = warpingCosts(features, a, b)
  let best = { unlike: Number.POSITIVE_INFINITY, end: second.start }
  for (let j = Math.floor(a.length / LIKE_LENGTH); j < b.length; j++) {
    const unlike = costs[j]! / (a.length + j + 1) / Math.max(1e-9, any)
    if (unlike < best.unlike) best = { unlike, end: b[j]! + 1 }
  }
  return best
}
