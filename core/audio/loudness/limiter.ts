/** Keeps true peaks under a ceiling, and does nothing where there is none over it. */

import { fromDb } from '#core/audio/signal/pcm.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { peaksOver } from './true-peak.ts'

const LOOK_AHEAD = Math.round(0.005 * SAMPLE_RATE)
/** A power of two that holds all within reach to both sides. */
const RING = 2 ** Math.ceil(Math.log2(2 * LOOK_AHEAD + 2))
const RELEASE = Math.exp(-1 / (0.08 * SAMPLE_RATE))
/** The interpolator sees no further than 12 taps, so a filtered gain can still let a little through. */
const MARGIN_DB = 0.1

/**
 * Look-ahead limiter. The gain that each true peak asks for is held over the look-ahead (sliding minimum), released
 * slowly, and smoothed by a mean of the same width, which can never rise above what the peak asks for.
 *
 * @param samples 48 kHz, any level
 * @param ceilingDbtp highest true peak of the result, dBTP
 * @returns a new signal of the same length; the input itself when no peak is over the ceiling
 * @see look-ahead limiting by sliding minimum and smoothing: common practice, no published source
 */
export function limit(samples: Float32Array, ceilingDbtp: number): Float32Array {
  const ceiling = fromDb(ceilingDbtp - MARGIN_DB)
  const envelope = peaksOver(samples, ceiling)
  if (!envelope?.some((peak) => peak > ceiling)) return samples

  // the pages of a long take cost more than what is worked out on them, so each step is written over the one before
  const n = samples.length
  const held = envelope
  for (let i = 0; i < n; i++) held[i] = held[i]! > ceiling ? ceiling / held[i]! : 1
  // the smallest within reach, in order: where each stands, and what it is
  const places = new Uint32Array(RING)
  const values = new Float32Array(RING)
  let head = 0
  let tail = 0
  for (let i = 0; i < n + LOOK_AHEAD; i++) {
    if (i < n) {
      const here = held[i]!
      while (tail > head && values[(tail - 1) & (RING - 1)]! >= here) tail--
      places[tail & (RING - 1)] = i
      values[tail++ & (RING - 1)] = here
    }
    const centre = i - LOOK_AHEAD
    if (centre < 0) continue
    while (places[head & (RING - 1)]! < centre - LOOK_AHEAD) head++
    held[centre] = values[head & (RING - 1)]!
  }
  let released = 1
  for (let i = 0; i < n; i++) {
    const free = 1 - (1 - released) * RELEASE
    released = held[i]! < free ? held[i]! : free
    held[i] = released
  }
  const out = new Float32Array(n)
  let sum = 0
  const width = 2 * LOOK_AHEAD + 1
  const last = n - 1
  for (let i = -LOOK_AHEAD; i <= LOOK_AHEAD; i++) sum += held[i < 0 ? 0 : i > last ? last : i]!
  for (let i = 0; i < n; i++) {
    out[i] = samples[i]! * (sum / width)
    const [comes, goes] = [i + LOOK_AHEAD + 1, i - LOOK_AHEAD]
    sum += held[comes > last ? last : comes]! - held[goes < 0 ? 0 : goes]!
  }
  return out
}
