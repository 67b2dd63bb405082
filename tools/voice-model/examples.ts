/** What the network is shown of a recording, and what it should answer: a byte a value. */
import { BAND_EDGES, BANDS, FEATURES, OUTPUTS, STRIDE, stepFeatures } from '#core/audio/cleaning/features.ts'
import { firstNoise, trackNoise } from '#core/audio/cleaning/noise.ts'
import { type Spectrum, spectrumOf, UNIT_EDGES, UNITS, VOICE_UNITS } from '#core/audio/cleaning/spectrum.ts'
import type { TrainingRecording } from '../../bench/tidy/training-rooms.ts'
import type { Truth } from './loss.ts'

/** Steps of a recording that are kept. */
export const STEPS = 832
/** Frames below the loudest by more than this are no speech. */
const LEAST_SPOKEN_DB = -43
/** Amplitudes are kept between these levels, relative to the loudest frame. */
const [SOFTEST_DB, LOUDEST_DB] = [-80, 22]
const [LEAST_FEATURE, MOST_FEATURE] = [-1, 2.5]

export const ROW = FEATURES + OUTPUTS + 2 * BANDS

const inByte = (value: number, least: number, most: number) =>
  Math.max(0, Math.min(255, Math.round(((value - least) / (most - least)) * 255)))
const fromByte = (byte: number, least: number, most: number) => least + (byte / 255) * (most - least)

/** Powers of a step's bands. */
function bandPowers({ power }: Spectrum, step: number): number[] {
  return Array.from({ length: BANDS }, (_, b) => {
    let sum = 0
    for (let u = BAND_EDGES[b]!; u < BAND_EDGES[b + 1]!; u++)
      sum += power[step * STRIDE * UNITS + u]! * (UNIT_EDGES[u + 1]! - UNIT_EDGES[u]!)
    return sum
  })
}

/** Power below 8 kHz of every step. */
const stepPowers = ({ power }: Spectrum) =>
  Float64Array.from({ length: STEPS }, (_, s) => {
    let sum = 0
    for (let u = 2; u < VOICE_UNITS; u++) sum += power[s * STRIDE * UNITS + u]!
    return sum
  })

const largest = (values: Float64Array) => values.reduce((most, v) => Math.max(most, v), 0)

/** @returns `STEPS × ROW` */
export function examplesOf({ noisy, voice, heard, said }: TrainingRecording): Uint8Array {
  const everything = spectrumOf(noisy)
  const features = stepFeatures(everything, trackNoise(everything, firstNoise(everything, null)))
  const alone = spectrumOf(voice)
  const rest = spectrumOf(noisy.map((v, i) => v - voice[i]!))
  const spoken = [heard, said].map((sound) => {
    const powers = stepPowers(spectrumOf(sound))
    const least = largest(powers) * 10 ** (LEAST_SPOKEN_DB / 10)
    return powers.map((power) => (power > least ? 255 : 0))
  })
  const loudestDb = 10 * Math.log10(largest(stepPowers(alone)))
  const out = new Uint8Array(STEPS * ROW)
  let at = 0
  for (let s = 0; s < STEPS; s++) {
    for (let i = 0; i < FEATURES; i++) out[at++] = inByte(features.values[s * FEATURES + i]!, LEAST_FEATURE, MOST_FEATURE)
    const [v, n, all] = [bandPowers(alone, s), bandPowers(rest, s), bandPowers(everything, s)]
    for (let b = 0; b < BANDS; b++) out[at++] = inByte((v[b]! / (v[b]! + n[b]!)) ** 0.25, 0, 1)
    for (const is of spoken) out[at++] = is[s]!
    for (const powers of [v, all])
      for (const power of powers) out[at++] = inByte(10 * Math.log10(power) - loudestDb, SOFTEST_DB, LOUDEST_DB)
  }
  return out
}

const FEATURE_OF = Float32Array.from({ length: 256 }, (_, byte) => fromByte(byte, LEAST_FEATURE, MOST_FEATURE))
const AMPLITUDE_OF = Float32Array.from({ length: 256 }, (_, byte) => 10 ** (fromByte(byte, SOFTEST_DB, LOUDEST_DB) / 20))

/** @param features is filled, a step a row */
export function unpack(examples: Uint8Array, features: Float32Array): Truth {
  const targets = new Float32Array(STEPS * OUTPUTS)
  const [voice, all] = [new Float32Array(STEPS * BANDS), new Float32Array(STEPS * BANDS)]
  let at = 0
  for (let s = 0; s < STEPS; s++) {
    for (let i = 0; i < FEATURES; i++) features[s * FEATURES + i] = FEATURE_OF[examples[at++]!]!
    for (let o = 0; o < OUTPUTS; o++) targets[s * OUTPUTS + o] = examples[at++]! / 255
    for (const amplitudes of [voice, all])
      for (let b = 0; b < BANDS; b++) amplitudes[s * BANDS + b] = AMPLITUDE_OF[examples[at++]!]!
  }
  return { targets, voice, all }
}
