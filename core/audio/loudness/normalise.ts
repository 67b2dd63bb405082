/** Brings a clip to its loudness, under its ceiling. */

import { fromDb, toDb } from '#core/audio/signal/pcm.ts'
import { chunksOf, type SampleStore, type Samples } from '#core/audio/signal/sample-source.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { limit } from './limiter.ts'
import { heardLoudness, heardLoudnessOfSteps, STEP, stepPowers } from './loudness.ts'

const MOST_GAIN_DB = 40

// gentle levelling: common practice, no published source
const EVEN_STEPS = toSamples(3) / STEP
const EVEN_HOP = toSamples(0.5)
/** Half of the difference to the whole is taken away, and never more than this. */
const EVEN_SHARE = 0.5
const EVEN_MOST_DB = 6
/** Windows this much quieter than the whole are pauses, not quiet passages. */
const EVEN_GATE_LU = 15

/**
 * Follows the loudness of 3 s and moves it half the way to that of the whole.
 *
 * @param length of the clip in samples
 * @param powers of the clip's steps
 * @returns a gain in dB for every half second
 */
function evenPoints(length: number, powers: Float64Array, whole: number): number[] {
  const points: number[] = []
  for (let at = 0; at <= length; at += EVEN_HOP) {
    const from = Math.max(0, Math.min(powers.length - EVEN_STEPS, at / STEP - EVEN_STEPS / 2))
    const here = heardLoudnessOfSteps(powers.subarray(from, from + EVEN_STEPS))
    const difference = Number.isFinite(here) && here > whole - EVEN_GATE_LU ? whole - here : 0
    points.push(Math.max(-EVEN_MOST_DB, Math.min(EVEN_MOST_DB, EVEN_SHARE * difference)))
  }
  return points
}

/** @param from where the piece begins in its clip, at a point */
function levelEvenly(piece: Float32Array, from: number, points: readonly number[]): Float32Array {
  const out = new Float32Array(piece.length)
  for (let at = 0; at < piece.length; at += EVEN_HOP) {
    const k = (from + at) / EVEN_HOP
    const point = points[k]!
    // from point to point by as many dB a sample
    const turn = fromDb(((points[k + 1] ?? point) - point) / EVEN_HOP)
    let gain = fromDb(point)
    for (let i = at; i < Math.min(piece.length, at + EVEN_HOP); i++) {
      out[i] = piece[i]! * gain
      gain *= turn
    }
  }
  return out
}

/** Most that a limiter took away anywhere, dB. */
function deepest(before: Float32Array, after: Float32Array): number {
  let least = 1
  for (let i = 0; i < before.length; i++) {
    const loud = Math.abs(before[i]!)
    if (loud > 0.5) least = Math.min(least, Math.abs(after[i]!) / loud)
  }
  return Math.max(0, -toDb(least))
}

/**
 * Gain to the target and a limiter at the ceiling; again, up to twice, where limiting took loudness away.
 *
 * @param clip mono, 48 kHz
 * @param into where the result is laid, as long as the clip
 * @returns gain and deepest limiting in dB; null, and nothing is laid anywhere, when nothing in the clip is above the gate
 */
export function normaliseLoudness(
  clip: Samples,
  level: NonNullable<TidyUp['level']>,
  into: SampleStore,
): { gainDb: number; gainReductionDb: number } | null {
  const { length } = clip
  const powers = stepPowers(clip)
  const whole = heardLoudnessOfSteps(powers)
  if (!Number.isFinite(whole)) return null
  const points = level.even && powers.length > EVEN_STEPS ? evenPoints(length, powers, whole) : null
  const even: Samples = points ? { length, subarray: (from, to) => levelEvenly(clip.subarray(from, to), from, points) } : clip
  let gainDb = Math.min(MOST_GAIN_DB, level.targetLufs - (points ? heardLoudness(even) : whole))
  for (let round = 0; ; round++) {
    const gain = fromDb(gainDb)
    let gainReductionDb: number | null = null
    for (const { start, end, from, to } of chunksOf(length)) {
      const scaled = even.subarray(from, to).map((value) => value * gain)
      const limited = limit(scaled, level.ceilingDbtp)
      if (limited !== scaled) gainReductionDb = Math.max(gainReductionDb ?? 0, deepest(scaled, limited))
      into.set(limited.subarray(start - from, end - from), start)
    }
    if (gainReductionDb === null) return { gainDb, gainReductionDb: 0 }
    const missing = level.targetLufs - heardLoudness(into)
    if (round === 2 || Math.abs(missing) < 0.1 || gainDb >= MOST_GAIN_DB) return { gainDb, gainReductionDb }
    gainDb += missing
  }
}
