/** The noise under the voice, followed through time by the probability that speech is present. */
import type { SampleRange } from '#core/model/sample-range.ts'
import { frameMiddle, type Spectrum, UNIT_EDGES, UNITS, VOICE_UNITS } from './bands.ts'
import { NOISE } from './floors.ts'
import { roughLog10 } from './log-mmse.ts'
import { inChunks, ROW_BYTES, unitRows } from './unit-rows.ts'

const energies = ({ power, frames }: Pick<Spectrum, 'power' | 'frames'>) =>
  Float64Array.from({ length: frames }, (_, f) => {
    let sum = 0
    for (let u = 0; u < UNITS; u++) sum += power[f * UNITS + u]! * (UNIT_EDGES[u + 1]! - UNIT_EDGES[u]!)
    return sum
  })

/**
 * Mean noise power per unit over the quietest frames, or over the frames inside a pointed-at room tone.
 *
 * @param room samples of the signal in which only the room is heard; null to find it
 */
export function firstNoise({ power, frames }: Spectrum, room: SampleRange | null): Float64Array {
  const energy = energies({ power, frames })
  const all = Array.from({ length: frames }, (_, f) => f)
  const pointed = room ? all.filter((f) => frameMiddle(f) >= room.start && frameMiddle(f) <= room.end) : []
  const heard = all.filter((f) => energy[f]! > NOISE.silentEnergy).sort((a, b) => energy[a]! - energy[b]!)
  const chosen = pointed.length >= 4 ? pointed : heard.slice(0, Math.max(4, Math.floor(heard.length * NOISE.quietShare)))
  const noise = new Float64Array(UNITS).fill(NOISE.leastPower)
  for (const f of chosen) for (let u = 0; u < UNITS; u++) noise[u] = noise[u]! + power[f * UNITS + u]! / chosen.length
  return noise
}

/** One pass; leaves the noise of its last frame in `now`. @param beginning what is heard in frames that are silent @returns row by row */
function track(
  { power, frames }: Spectrum,
  beginning: Float32Array,
  silent: Uint8Array,
  now: Float32Array,
  backward: boolean,
): Float32Array<ArrayBuffer> {
  const into = new Float32Array(power.length)
  const { floats, call, at } = unitRows()
  floats.set(now, at.state)
  floats.fill(0.5, at.presence, at.presence + UNITS)
  inChunks(frames, backward, (first, count) => {
    floats.set(power.subarray(first * UNITS, (first + count) * UNITS), at.power)
    for (let n = 0; n < count; n++) if (silent[first + n]) floats.set(beginning, at.power + n * UNITS)
    const places = [at.power * 4, at.state * 4, at.presence * 4, at.noise * 4] as const
    call.followNoise(
      ...places,
      count,
      ROW_BYTES,
      backward,
      NOISE.keepNoise,
      NOISE.keepPresence,
      NOISE.priorRatio,
      NOISE.leastPower,
    )
    into.set(floats.subarray(at.noise, at.noise + count * UNITS), first * UNITS)
  })
  now.set(floats.subarray(at.state, at.state + UNITS))
  return into
}

/**
 * Brings the spectral shape of the noise, which is followed unit by unit and so is uneven, half way (in decibels) to its mean over some seconds around.
 * How loud the noise is in all is left as it was followed: rooms swell faster than they change their colour.
 *
 * @param into is filled
 */
function smoothNoiseShape(
  { power, frames }: Spectrum,
  noise: Float32Array,
  into: Float32Array<ArrayBuffer>,
): Float32Array<ArrayBuffer> {
  const loud = Float64Array.from({ length: frames }, (_, f) => {
    let logs = 0
    for (let u = 0; u < VOICE_UNITS; u++) logs += roughLog10(noise[f * UNITS + u]!)
    return 10 ** (logs / VOICE_UNITS)
  })
  const trust = Float64Array.from({ length: frames }, (_, f) => {
    let over = 0
    for (let u = 0; u < VOICE_UNITS; u++) over += power[f * UNITS + u]! / noise[f * UNITS + u]!
    return 1 / (1 + over / VOICE_UNITS)
  })
  const colour = new Float64Array(UNITS)
  let heard = 0
  const count = (f: number, sign: 1 | -1) => {
    heard += sign * trust[f]!
    const each = (sign * trust[f]!) / loud[f]!
    for (let u = 0; u < UNITS; u++) colour[u] = colour[u]! + each * noise[f * UNITS + u]!
  }
  for (let f = 0; f < Math.min(NOISE.steadyFrames, frames); f++) count(f, 1)
  for (let f = 0; f < frames; f++) {
    if (f + NOISE.steadyFrames < frames) count(f + NOISE.steadyFrames, 1)
    if (f > NOISE.steadyFrames) count(f - NOISE.steadyFrames - 1, -1)
    const from = f * UNITS
    for (let u = 0; u < UNITS; u++) {
      // where a colour has gone, what is left of the running sum is rounding, of either sign
      const steady = Math.max(NOISE.leastPower, loud[f]! * (colour[u]! / heard))
      into[from + u] = Math.sqrt(noise[from + u]! * steady)
    }
  }
  return into
}

/**
 * Noise power of every unit and frame: tracked backward, forward and backward again, the geometric mean of the last two;
 * then its colour is steadied.
 *
 * @param first where to begin, as `firstNoise` gives it
 * @returns row by row, `frames × UNITS`
 * @see Gerkmann & Hendriks 2012, IEEE Trans. ASLP 20(4), algorithm 1: prior ratio 15 dB, smoothing 0.8
 */
export function trackNoise(spectrum: Spectrum, first: Float64Array): Float32Array<ArrayBuffer> {
  const now = Float32Array.from(first)
  const beginning = now.slice()
  const silent = Uint8Array.from(energies(spectrum), (energy) => Number(energy <= NOISE.silentEnergy))
  const pass = (backward: boolean) => track(spectrum, beginning, silent, now, backward)
  pass(true)
  const forth = pass(false)
  const back = pass(true)
  for (let i = 0; i < forth.length; i++) forth[i] = Math.sqrt(forth[i]! * back[i]!) * NOISE.bias
  return smoothNoiseShape(spectrum, forth, back)
}
