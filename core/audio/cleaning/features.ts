/** What the voice model looks at: how far each band stands out of its noise, and how peaked it is, around a moment. */

import { HOP } from '../stft.ts'
import { roughLog10 } from './gain.ts'
import { type Spectrum, UNITS } from './spectrum.ts'

/** Band edges in units, up to 8 kHz: about as wide as the ear's own bands, two bins at least. */
export const BAND_EDGES: readonly number[] = [
  2, 4, 6, 8, 10, 12, 14, 17, 20, 23, 27, 31, 36, 41, 47, 53, 60, 68, 77, 86, 92, 98, 105, 113, 121, 129,
]
export const BANDS = BAND_EDGES.length - 1
/** The model speaks every second frame, 94 times a second. */
export const STRIDE = 2
/** Samples between two of its answers. */
export const SPEAKING_HOP = STRIDE * HOP
/** Frames, in strides, from which levels are looked at; the near ones also for peaks. */
const CONTEXT = [-16, -10, -6, -4, -2, -1, 0, 1, 2, 4, 6, 10, 16] as const
const NEAR = [-1, 0, 1] as const
export const FEATURES = BANDS * (CONTEXT.length + NEAR.length)

export interface BandLevels {
  steps: number
  /** `steps × BANDS`: dB above the noise / 20, held between −0.5 and 2.5. */
  above: Float32Array
  /** `steps × BANDS`: arithmetic over geometric mean of the band's bins, in bels. */
  peaked: Float32Array
}

/** Levels of bands every second frame. */
export function bandLevels({ power, frames }: Spectrum, noise: Float32Array): BandLevels {
  const steps = Math.ceil(frames / STRIDE)
  const above = new Float32Array(steps * BANDS)
  const peaked = new Float32Array(steps * BANDS)
  for (let s = 0; s < steps; s++) {
    const row = s * STRIDE * UNITS
    for (let b = 0; b < BANDS; b++) {
      let sum = 0
      let logs = 0
      const from = BAND_EDGES[b]!
      const to = BAND_EDGES[b + 1]!
      for (let u = from; u < to; u++) {
        const ratio = power[row + u]! / noise[row + u]!
        sum += ratio
        logs += roughLog10(ratio)
      }
      const mean = roughLog10(sum / (to - from))
      above[s * BANDS + b] = Math.min(2.5, Math.max(-0.5, mean / 2))
      peaked[s * BANDS + b] = mean - logs / (to - from)
    }
  }
  return { steps, above, peaked }
}

/** Writes the features of one step; beyond the ends the last step is repeated. */
export function featuresAt({ steps, above, peaked }: BandLevels, step: number, into: Float32Array | Float64Array, at = 0) {
  let out = at
  for (const offset of CONTEXT) {
    const s = Math.max(0, Math.min(steps - 1, step + offset)) * BANDS
    for (let b = 0; b < BANDS; b++) into[out++] = above[s + b]!
  }
  for (const offset of NEAR) {
    const s = Math.max(0, Math.min(steps - 1, step + offset)) * BANDS
    for (let b = 0; b < BANDS; b++) into[out++] = peaked[s + b]!
  }
}
