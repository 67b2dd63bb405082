/** Speaks a clip a little faster or slower, its pitch kept. */
import { toSamples } from '#core/timing/clocks.ts'

const WINDOW = toSamples(0.03)
const HALF = WINDOW / 2
/** How far a piece may be moved to join in step with the voice: more than one period of the deepest one (70 Hz). */
const SEARCH = toSamples(0.008)
/** The search first looks at every fourth sample, then around the best. */
const COARSE = 4

/** @returns how alike two stretches are, −1 to 1 */
function likeness(samples: Float32Array, a: number, b: number, step: number): number {
  let [product, powerA, powerB] = [0, 1e-12, 1e-12]
  for (let n = 0; n < HALF; n += step) {
    const x = samples[a + n] ?? 0
    const y = samples[b + n] ?? 0
    product += x * y
    powerA += x * x
    powerB += y * y
  }
  return product / Math.sqrt(powerA * powerB)
}

/**
 * Changes the tempo by waveform-similarity overlap-add.
 *
 * @param samples mono, 48 kHz
 * @param tempo 0.5 to 2; 1.05 is five per cent faster
 * @returns round(length ÷ tempo) samples; the input itself when tempo is 1
 * @throws RangeError outside 0.5 to 2
 * @see Verhelst & Roelands 1993, "An overlap-add technique based on waveform similarity (WSOLA) …", ICASSP
 */
export function changeTempo(samples: Float32Array, tempo: number): Float32Array {
  if (!(tempo >= 0.5 && tempo <= 2)) throw new RangeError(`A tempo lies between 0.5 and 2, not at ${tempo}.`)
  if (tempo === 1) return samples
  const out = new Float32Array(Math.round(samples.length / tempo))
  const window = Float32Array.from({ length: WINDOW }, (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (n + 0.5)) / WINDOW))
  /** Where the piece before would go on by itself. */
  let follows = 0
  for (let at = -HALF; at < out.length; at += HALF) {
    const ideal = Math.round((at + HALF) * tempo) - HALF
    let start = ideal
    if (at >= 0) {
      let best = Number.NEGATIVE_INFINITY
      const look = (from: number, to: number, step: number) => {
        for (let candidate = from; candidate <= to; candidate += step) {
          const value = likeness(samples, follows, candidate, COARSE)
          if (value > best) {
            best = value
            start = candidate
          }
        }
      }
      look(ideal - SEARCH, ideal + SEARCH, COARSE)
      const coarse = start
      look(coarse - COARSE + 1, coarse + COARSE - 1, 1)
    }
    for (let n = Math.max(0, -at); n < WINDOW && at + n < out.length; n++) {
      // before the first half window there is no other piece to add to
      const weight = at + n < 0 ? 0 : at < 0 ? (n >= HALF ? window[n]! : 1) : window[n]!
      out[at + n] = out[at + n]! + (samples[start + n] ?? 0) * weight
    }
    follows = start + HALF
  }
  return out
}
