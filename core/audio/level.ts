/** Brings a clip to its loudness, under its ceiling. */
import type { TidyUp } from '#core/lecture.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { limit } from './limiter.ts'
import { heardLoudness, heardLoudnessOfSteps, STEP, stepPowers } from './loudness.ts'
import { fromDb, toDb } from './pcm.ts'

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
 * @param powers of the clip's steps
 */
function even(clip: Float32Array, powers: Float64Array, whole: number): Float32Array<ArrayBuffer> {
  const points: number[] = []
  for (let at = 0; at <= clip.length; at += EVEN_HOP) {
    const from = Math.max(0, Math.min(powers.length - EVEN_STEPS, at / STEP - EVEN_STEPS / 2))
    const here = heardLoudnessOfSteps(powers.subarray(from, from + EVEN_STEPS))
    const difference = Number.isFinite(here) && here > whole - EVEN_GATE_LU ? whole - here : 0
    points.push(Math.max(-EVEN_MOST_DB, Math.min(EVEN_MOST_DB, EVEN_SHARE * difference)))
  }
  const out = new Float32Array(clip.length)
  for (const [k, point] of points.entries()) {
    // from point to point by as many dB a sample
    const turn = fromDb(((points[k + 1] ?? point) - point) / EVEN_HOP)
    let gain = fromDb(point)
    for (let i = k * EVEN_HOP; i < Math.min(clip.length, (k + 1) * EVEN_HOP); i++) {
      out[i] = clip[i]! * gain
      gain *= turn
    }
  }
  return out
}

/** Most that a limiter took away anywhere, dB. */
function deepest(before: Float32Array, gain: number, after: Float32Array): number {
  let least = 1
  for (let i = 0; i < before.length; i++) {
    const loud = Math.abs(before[i]! * gain)
    if (loud > 0.5) least = Math.min(least, Math.abs(after[i]!) / loud)
  }
  return Math.max(0, -toDb(least))
}

/**
 * Gain to the target and a limiter at the ceiling; again, up to twice, where limiting took loudness away.
 *
 * @param clip mono, 48 kHz
 * @returns the clip unchanged when nothing in it is above the gate; gain and deepest limiting in dB
 */
export function bringToLevel(
  clip: Float32Array,
  level: NonNullable<TidyUp['level']>,
): { clip: Float32Array; gainDb: number; limitedDb: number } {
  const powers = stepPowers(clip)
  const whole = heardLoudnessOfSteps(powers)
  if (!Number.isFinite(whole)) return { clip, gainDb: 0, limitedDb: 0 }
  const evened = level.even && powers.length > EVEN_STEPS ? even(clip, powers, whole) : clip
  const measured = evened === clip ? whole : heardLoudness(evened)
  let gainDb = Math.min(MOST_GAIN_DB, level.targetLufs - measured)
  const scaled = new Float32Array(evened.length)
  for (let round = 0; ; round++) {
    const gain = fromDb(gainDb)
    for (let i = 0; i < scaled.length; i++) scaled[i] = evened[i]! * gain
    const limited = limit(scaled, level.ceilingDbtp)
    if (limited === scaled) return { clip: scaled, gainDb, limitedDb: 0 }
    const missing = level.targetLufs - heardLoudness(limited)
    if (round === 2 || Math.abs(missing) < 0.1 || gainDb >= MOST_GAIN_DB)
      return { clip: limited, gainDb, limitedDb: deepest(evened, gain, limited) }
    gainDb += missing
  }
}
