/** The short-time spectrum the cleaner works on: complex bins to be weighted, and powers in units that are cheap to follow. */
import { BINS, frameStart, SIZE, type Stft, stft } from '#core/audio/signal/stft.ts'

export const BIN_HZ = 48_000 / SIZE
/** Up to 4 kHz each bin is a unit; above, where harmonics can hardly be told apart, two are one, and above 8 kHz eight. */
const SINGLES_END = 86
const PAIRS_END = 172
const WIDE = 8

/** First bins of all units, and one past the last. */
export const UNIT_EDGES: readonly number[] = (() => {
  const edges: number[] = []
  for (let k = 0; k < BINS; k += k < SINGLES_END ? 1 : k < PAIRS_END ? 2 : WIDE) edges.push(k)
  return [...edges, BINS]
})()
export const UNITS = UNIT_EDGES.length - 1
/** Units below 8 kHz, where the voice model has its say. */
export const VOICE_UNITS = UNIT_EDGES.indexOf(PAIRS_END)

export interface Spectrum {
  stft: Stft
  frames: number
  /** Mean power of each unit, row by row: `frames × UNITS`; never 0. */
  power: Float32Array
}

const LEAST = 1e-14

/** @param samples mono, 48 kHz */
export function spectrumOf(samples: Float32Array): Spectrum {
  const s = stft(samples)
  const { frames, re, im } = s
  const power = new Float32Array(frames * UNITS)
  for (let f = 0; f < frames; f++) {
    const row = f * BINS
    const out = f * UNITS
    for (let k = 0; k < SINGLES_END; k++) power[out + k] = re[row + k]! * re[row + k]! + im[row + k]! * im[row + k]! + LEAST
    for (let u = SINGLES_END; u < UNITS; u++) {
      let sum = 0
      const from = UNIT_EDGES[u]!
      const to = UNIT_EDGES[u + 1]!
      for (let k = from; k < to; k++) sum += re[row + k]! * re[row + k]! + im[row + k]! * im[row + k]!
      power[out + u] = sum / (to - from) + LEAST
    }
  }
  return { stft: s, frames, power }
}

/** First sample under the middle of a frame's window. */
export const frameMiddle = (frame: number) => frameStart(frame) + SIZE / 2
