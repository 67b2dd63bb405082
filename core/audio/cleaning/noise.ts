/** The noise under the voice, followed through time by the probability that speech is present. */
import type { Stretch } from '#core/lecture.ts'
import { frameMiddle, type Spectrum, UNIT_EDGES, UNITS } from './spectrum.ts'

/** Share of frames, the quietest ones, taken for a first picture of the noise. */
const QUIET_SHARE = 0.12
// the paper's 0.8 and 0.9 are meant for frames 16 ms apart; ours are 5.3 ms apart
const KEEP_NOISE = 0.8 ** (1 / 3)
const KEEP_PRESENCE = 0.9 ** (1 / 3)
const LEAST = 1e-13
/** The geometric mean of two passes lies a little above the noise where speech begins and ends (measured). */
const BIAS = 0.9

/**
 * Mean noise power per unit over the quietest frames, or over the frames inside a pointed-at room tone.
 *
 * @param room samples of the signal in which only the room is heard; null to find it
 */
export function firstNoise({ power, frames }: Spectrum, room: Stretch | null): Float64Array {
  const energy = new Float64Array(frames)
  for (let f = 0; f < frames; f++)
    for (let u = 0; u < UNITS; u++) energy[f] = energy[f]! + power[f * UNITS + u]! * (UNIT_EDGES[u + 1]! - UNIT_EDGES[u]!)
  const all = Array.from({ length: frames }, (_, f) => f)
  const pointed = room ? all.filter((f) => frameMiddle(f) >= room.start && frameMiddle(f) <= room.end) : []
  // frames of digital silence (padding, a muted second) say nothing of the room
  const heard = all.filter((f) => energy[f]! > 1e-9).sort((a, b) => energy[a]! - energy[b]!)
  const chosen = pointed.length >= 4 ? pointed : heard.slice(0, Math.max(4, Math.floor(heard.length * QUIET_SHARE)))
  const noise = new Float64Array(UNITS).fill(LEAST)
  for (const f of chosen) for (let u = 0; u < UNITS; u++) noise[u] = noise[u]! + power[f * UNITS + u]! / chosen.length
  return noise
}

const XI = 10 ** 1.5
/** Probability of speech by the ratio of power to noise; past 40 it is 1. */
const PRESENCE_STEPS = 64
const PRESENCE = Float32Array.from({ length: 40 * PRESENCE_STEPS + 1 }, (_, i) => {
  const ratio = (i + 0.5) / PRESENCE_STEPS
  return 1 / (1 + (1 + XI) * Math.exp(-ratio * (XI / (1 + XI))))
})

/** One pass; leaves the noise of its last frame in `now`. */
function track({ power, frames }: Spectrum, now: Float64Array, backward: boolean, into: Float32Array | null) {
  const presence = new Float64Array(UNITS).fill(0.5)
  for (let step = 0; step < frames; step++) {
    const row = (backward ? frames - 1 - step : step) * UNITS
    for (let u = 0; u < UNITS; u++) {
      const y = power[row + u]!
      const before = now[u]!
      const ratio = y / before
      let present = ratio < 40 ? PRESENCE[(ratio * PRESENCE_STEPS) | 0]! : 1
      const mean = KEEP_PRESENCE * presence[u]! + (1 - KEEP_PRESENCE) * present
      presence[u] = mean
      if (mean > 0.99 && present > 0.99) present = 0.99
      let next = before + (1 - KEEP_NOISE) * (1 - present) * (y - before)
      if (next < LEAST) next = LEAST
      now[u] = next
      if (into) into[row + u] = next
    }
  }
}

/**
 * Noise power of every unit and frame: tracked backward, forward and backward again, the geometric mean of the last two.
 *
 * @param first where to begin, as `firstNoise` gives it
 * @returns row by row, `frames × UNITS`
 * @see Gerkmann & Hendriks 2012, IEEE Trans. ASLP 20(4), algorithm 1: prior ratio 15 dB, smoothing 0.8
 */
export function trackNoise(spectrum: Spectrum, first: Float64Array): Float32Array<ArrayBuffer> {
  const now = Float64Array.from(first)
  const [forth, back] = [new Float32Array(spectrum.power.length), new Float32Array(spectrum.power.length)]
  track(spectrum, now, true, null)
  track(spectrum, now, false, forth)
  track(spectrum, now, true, back)
  for (let i = 0; i < forth.length; i++) forth[i] = Math.sqrt(forth[i]! * back[i]!) * BIAS
  return forth
}
