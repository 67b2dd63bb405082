/** What the voice model looks at in a step: how far each band and each low unit stands out of its noise, and how peaked bands are. */

import { HOP } from '#core/audio/signal/stft.ts'
import { SPEAKING_HOP } from '#core/audio/speech/voice-activity.ts'
import { type Spectrum, UNITS } from './bands.ts'
import { roughLog10 } from './log-mmse.ts'

/** Band edges in units, up to 8 kHz: about as wide as the ear's own bands, two bins at least. */
export const BAND_EDGES: readonly number[] = [
  2, 4, 6, 8, 10, 12, 14, 17, 20, 23, 27, 31, 36, 41, 47, 53, 60, 68, 77, 86, 92, 98, 105, 113, 121, 129,
]
export const BANDS = BAND_EDGES.length - 1
/** Frames from one answer of the model to the next. */
export const STRIDE = SPEAKING_HOP / HOP
/** Units that are looked at one by one: up to 4 kHz, where harmonics can be told apart. */
const [FIRST_FINE, FINE] = [2, 86]
/** Of a frame: `BANDS` levels, `BANDS` shapes, `FINE` levels of units. */
const SEEN = 2 * BANDS + FINE
/** Of a step: all of its own frame, then all of the one after. */
export const FEATURES = STRIDE * SEEN
/** What the model answers for a step: `BANDS` gains, whether a voice is heard, whether words are said. */
export const OUTPUTS = BANDS + 2

export interface StepFeatures {
  steps: number
  /**
   * `steps × FEATURES`. Levels: over the noise in dB / 20, those of bands held between −0.5 and 2.5, those of units between −1 and 2.
   * Shapes: arithmetic over geometric mean of the band's bins, in bels.
   */
  values: Float32Array
}

/** @param noise under every unit and frame, as `trackNoise` gives it */
export function stepFeatures({ power, frames }: Spectrum, noise: Float32Array): StepFeatures {
  const steps = Math.ceil(frames / STRIDE)
  const values = new Float32Array(steps * FEATURES)
  for (let f = 0; f < steps * STRIDE; f++) {
    const row = Math.min(f, frames - 1) * UNITS
    const to = f * SEEN
    const fine = to + 2 * BANDS - FIRST_FINE
    for (let b = 0; b < BANDS; b++) {
      let [sum, logs] = [0, 0]
      const [first, end] = [BAND_EDGES[b]!, BAND_EDGES[b + 1]!]
      for (let u = first; u < end; u++) {
        const ratio = power[row + u]! / noise[row + u]!
        const log = roughLog10(ratio)
        sum += ratio
        logs += log
        if (u < FIRST_FINE + FINE) values[fine + u] = log > 4 ? 2 : log < -2 ? -1 : log / 2
      }
      const mean = roughLog10(sum / (end - first))
      values[to + b] = mean > 5 ? 2.5 : mean < -1 ? -0.5 : mean / 2
      values[to + BANDS + b] = mean - logs / (end - first)
    }
  }
  return { steps, values }
}
