/** What the network is shown of a recording, and what it should answer: a byte a value. */

import { type Spectrum, spectrumOf, UNIT_EDGES, UNITS, VOICE_UNITS } from '#core/audio/denoise/bands.ts'
import { BAND_EDGES, BANDS, FEATURES, OUTPUTS, STRIDE, stepFeatures } from '#core/audio/denoise/model-features.ts'
import { firstNoise, trackNoise } from '#core/audio/denoise/noise-estimate.ts'
import { rms } from '#core/audio/signal/pcm.ts'
import { SPEAKING_HOP } from '#core/audio/speech/voice-activity.ts'
import { roomLevels, type TrainingVoice } from '../../bench/tidy/training-rooms.ts'
import type { Truth } from './loss.ts'

/** Steps of a recording that are kept. */
export const STEPS = 832
/** Samples of a recording: a few steps more. */
export const LENGTH = (STEPS + 12) * SPEAKING_HOP
/** Frames below the loudest by more than this are no speech. */
const LEAST_SPOKEN_DB = -43
/** Amplitudes are kept between these levels, relative to the loudest frame. */
const [SOFTEST_DB, LOUDEST_DB] = [-80, 22]
const [LEAST_FEATURE, MOST_FEATURE] = [-1, 2.5]

export const ROW = FEATURES + OUTPUTS + 2 * BANDS

const inByte = (value: number, least: number, most: number) =>
  Math.max(0, Math.min(255, Math.round(((value - least) / (most - least)) * 255)))
const fromByte = (byte: number, least: number, most: number) => least + (byte / 255) * (most - least)

/** Powers of every step's bands, step by step. */
function bandPowers({ power, frames }: Spectrum): Float32Array {
  const out = new Float32Array(Math.floor(frames / STRIDE) * BANDS)
  for (let i = 0; i < out.length; i++) {
    const [row, b] = [Math.floor(i / BANDS) * STRIDE * UNITS, i % BANDS]
    for (let u = BAND_EDGES[b]!; u < BAND_EDGES[b + 1]!; u++)
      out[i] = out[i]! + power[row + u]! * (UNIT_EDGES[u + 1]! - UNIT_EDGES[u]!)
  }
  return out
}

/** Power below 8 kHz of every step. */
const stepPowers = ({ power }: Spectrum) =>
  Float64Array.from({ length: STEPS }, (_, s) => {
    let sum = 0
    for (let u = 2; u < VOICE_UNITS; u++) sum += power[s * STRIDE * UNITS + u]!
    return sum
  })

const largest = (values: Float64Array) => values.reduce((most, v) => Math.max(most, v), 0)

/** A voice with what is known of it, to be laid into one room after another. */
export interface StudiedVoice {
  sound: Float32Array
  /** Root mean square of the words. */
  level: number
  /** Of every step's bands. */
  powers: Float32Array
  /** Of its steps. */
  loudestDb: number
  /** For each step whether somebody is heard, and whether words are said: 255 or 0. */
  spoken: Uint8Array[]
}

export function studyVoice({ voice, heard, said }: TrainingVoice): StudiedVoice {
  const alone = spectrumOf(voice)
  const spoken = [heard, said].map((sound) => {
    const powers = stepPowers(spectrumOf(sound))
    const least = largest(powers) * 10 ** (LEAST_SPOKEN_DB / 10)
    return Uint8Array.from(powers, (power) => (power > least ? 255 : 0))
  })
  const loudestDb = 10 * Math.log10(largest(stepPowers(alone)))
  return { sound: voice, level: rms(said), powers: bandPowers(alone), loudestDb, spoken }
}

/**
 * Lays a voice into rooms, as loud as chance has it. Each room is two of those given laid over each other, from any sample on: what is heard
 * of it is never the same again.
 *
 * @param rooms of unit root mean square, longer than a recording
 * @returns `STEPS × ROW`
 */
export function mixedExample(voice: StudiedVoice, rooms: readonly Float32Array[], next: () => number): Uint8Array {
  const around = new Float32Array(LENGTH)
  for (const ratio of roomLevels(next)) {
    const turn = next() * 2 * Math.PI
    for (const share of [Math.cos(turn), Math.sin(turn)]) {
      const room = rooms[Math.floor(next() * rooms.length)]!
      const gain = voice.level * ratio * share
      const from = Math.floor(next() * (room.length - LENGTH))
      for (let i = 0; i < LENGTH; i++) around[i] = around[i]! + gain * room[from + i]!
    }
  }
  const noisy = voice.sound.map((v, i) => v + around[i]!)
  const roomPowers = bandPowers(spectrumOf(around))
  const everything = spectrumOf(noisy)
  const features = stepFeatures(everything, trackNoise(everything, firstNoise(everything, null)))
  const all = bandPowers(everything)
  const out = new Uint8Array(STEPS * ROW)
  let at = 0
  for (let s = 0; s < STEPS; s++) {
    for (let i = 0; i < FEATURES; i++) out[at++] = inByte(features.values[s * FEATURES + i]!, LEAST_FEATURE, MOST_FEATURE)
    for (let i = s * BANDS; i < (s + 1) * BANDS; i++)
      out[at++] = inByte((voice.powers[i]! / (voice.powers[i]! + roomPowers[i]!)) ** 0.25, 0, 1)
    for (const is of voice.spoken) out[at++] = is[s]!
    for (const powers of [voice.powers, all])
      for (let i = s * BANDS; i < (s + 1) * BANDS; i++)
        out[at++] = inByte(10 * Math.log10(powers[i]!) - voice.loudestDb, SOFTEST_DB, LOUDEST_DB)
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
