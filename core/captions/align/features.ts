/** How speech sounds, every hundredth of a second: mel spectrum, cepstrum, and whether anybody speaks at all. */

import { realFft } from '#core/audio/signal/fft.ts'
import { SPEAKING_HOP } from '#core/audio/speech/voice-activity.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { runsOf } from './runs.ts'

/** Frames a second of both the recording and the reference. */
export const FRAMES_A_SECOND = 100
export const BANDS = 24
const CEPSTRA = 12
/** Cepstra and their slopes. */
export const DIMENSIONS = 2 * CEPSTRA

const WINDOW_S = 0.025
const PRE_EMPHASIS = 0.97
const [LOWEST_HZ, HIGHEST_HZ] = [80, 7000]

/** @see Davis & Mermelstein 1980, IEEE Trans. ASSP 28(4); mel scale of O'Shaughnessy 1987: 2595 log10(1 + f/700) */
export const melOf = (hz: number) => 2595 * Math.log10(1 + hz / 700)
export const hzOf = (mel: number) => 700 * (10 ** (mel / 2595) - 1)

/** Edges of the triangular mel filters, Hz: filter b rises from edge b to b + 1 and falls to b + 2. */
export function melEdges(): number[] {
  const [low, high] = [melOf(LOWEST_HZ), melOf(HIGHEST_HZ)]
  return Array.from({ length: BANDS + 2 }, (_, i) => hzOf(low + ((high - low) * i) / (BANDS + 1)))
}

export interface MelSpectrum {
  frames: number
  /** Power of each band, frame after frame. */
  power: Float32Array
}

/**
 * Mel power spectrum; frame n is centred on n / 100 s.
 *
 * @param samples mono, full scale ±1
 * @param rate samples a second, 14,000 at least
 */
export function melSpectrum(samples: Float32Array, rate: number): MelSpectrum {
  const frames = Math.floor((samples.length / rate) * FRAMES_A_SECOND)
  const width = Math.round(WINDOW_S * rate)
  const fft = realFft(2 ** Math.ceil(Math.log2(width)))
  const window = Float64Array.from({ length: width }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / width))
  const edges = melEdges().map((hz) => (hz * fft.size) / rate)
  // each band's bins lie beside each other
  const bands = Array.from({ length: BANDS }, (_, band) => {
    const [low, middle, high] = [edges[band]!, edges[band + 1]!, edges[band + 2]!]
    const first = Math.ceil(low)
    const last = Math.min(fft.bins - 1, Math.floor(high))
    const shares = Float64Array.from({ length: last - first + 1 }, (_, i) =>
      first + i <= middle ? (first + i - low) / (middle - low) : (high - first - i) / (high - middle),
    )
    return { first, shares }
  })
  const input = new Float64Array(fft.size)
  const [re, im] = [new Float64Array(fft.bins), new Float64Array(fft.bins)]
  const power = new Float32Array(frames * BANDS)
  // the frame with one sample before it, and silence beyond the ends
  const piece = new Float64Array(width + 1)
  for (let n = 0; n < frames; n++) {
    const from = Math.round((n * rate) / FRAMES_A_SECOND) - (width >> 1) - 1
    const [begin, end] = [Math.max(0, from), Math.min(samples.length, from + width + 1)]
    if (end - begin <= width) piece.fill(0)
    piece.set(samples.subarray(begin, end), begin - from)
    for (let i = 0; i < width; i++) input[i] = (piece[i + 1]! - PRE_EMPHASIS * piece[i]!) * window[i]!
    fft.forward(input, re, im)
    for (let bin = 0; bin < fft.bins; bin++) re[bin] = re[bin]! * re[bin]! + im[bin]! * im[bin]!
    for (let band = 0; band < BANDS; band++) {
      const { first, shares } = bands[band]!
      let sum = 0
      for (let i = 0; i < shares.length; i++) sum += shares[i]! * re[first + i]!
      power[n * BANDS + band] = sum
    }
  }
  return { frames, power }
}

/** Level of each frame, dB. */
export function frameLevels({ frames, power }: MelSpectrum): Float32Array {
  return Float32Array.from({ length: frames }, (_, n) => {
    let sum = 0
    for (let b = 0; b < BANDS; b++) sum += power[n * BANDS + b]!
    return 10 * Math.log10(sum + 1e-12)
  })
}

export const percentile = (values: Float32Array, part: number) =>
  values.length === 0 ? 0 : Float32Array.from(values).sort()[Math.min(values.length - 1, Math.floor(part * values.length))]!

/** Runs shorter than this are clicks; gaps shorter than this are stops inside words. Frames. */
const SHORTEST_RUN = 3
const SHORTEST_GAP = 5

/** Frames on, with clicks dropped and short gaps filled. */
export function cleanRuns(on: Uint8Array): Uint8Array {
  const out = on.slice()
  const runs = (value: 0 | 1, shorter: number, edges: boolean) => {
    let start = 0
    for (let n = 1; n <= out.length; n++) {
      if (n < out.length && out[n] === out[start]) continue
      const inside = start > 0 && n < out.length
      if (out[start] === value && n - start < shorter && (inside || edges)) out.fill(value ? 0 : 1, start, n)
      start = n
    }
  }
  runs(0, SHORTEST_GAP, false)
  runs(1, SHORTEST_RUN, true)
  return out
}

/** Words may be said where the voice model gives them this much, or nearly beside it (frames); they surely are above the other. */
const [PERHAPS, PERHAPS_REACH, SURELY, CLEARLY] = [0.1, 4, 0.6, 0.85]

/** What the voice model knows of each frame. */
export interface Said {
  /** 0 where surely no words are said, however loud it is: breaths, and what the room answers. */
  possible: Uint8Array
  /** 1 where words are said, however soft. */
  sure: Uint8Array
  /** 1 where there is no doubt of it; everywhere where nothing is known. */
  clear: Uint8Array
}

/** @param speechProbability probability that words are said, as `clean` tells it; null where it is not known */
export function saidFrames(speechProbability: Float32Array | null, frames: number): Said {
  const said = { possible: new Uint8Array(frames), sure: new Uint8Array(frames), clear: new Uint8Array(frames) }
  if (!speechProbability) return { ...said, possible: said.possible.fill(1), clear: said.clear.fill(1) }
  const hop = (SPEAKING_HOP / SAMPLE_RATE) * FRAMES_A_SECOND
  for (let s = 0; s < speechProbability.length; s++) {
    const middle = Math.round((s + 0.5) * hop)
    if (speechProbability[s]! > PERHAPS) said.possible.fill(1, Math.max(0, middle - PERHAPS_REACH), middle + PERHAPS_REACH + 1)
    if (speechProbability[s]! > SURELY) said.sure.fill(1, middle, middle + 2)
    if (speechProbability[s]! > CLEARLY) said.clear.fill(1, middle, middle + 2)
  }
  return said
}

const FLATTEST_DB = 6

/**
 * In which frames somebody speaks, told from their level. Meant for tidied sound, whose pauses are nearly silent.
 *
 * @returns 1 where somebody speaks
 */
export function activeFrames(levels: Float32Array, { possible }: Said): Uint8Array {
  const [low, high] = [percentile(levels, 0.08), percentile(levels, 0.92)]
  // speech is never as even as this: silence, a hum, a running tap
  if (high - low < FLATTEST_DB) return new Uint8Array(levels.length)
  const threshold = high - Math.min(32, Math.max(12, 0.6 * (high - low)))
  const on = cleanRuns(Uint8Array.from(levels, (level, n) => (level > threshold ? possible[n]! : 0)))
  return withoutBreaths(on, levels, high - BREATH_DB)
}

/** Words standing alone are nearly as loud as the loudest; breaths are not, and are short. */
const BREATH_DB = 18
const LONGEST_BREATH = 60
const LONGEST_CONSONANT = 20

/** Drops quiet runs that belong to what comes after them: a breath is drawn before words, a weak last syllable stands after them. */
function withoutBreaths(on: Uint8Array, levels: Float32Array, loud: number): Uint8Array {
  const runs = runsOf((n) => on[n] === 1, 0, on.length)
  for (const [i, { start, end }] of runs.entries()) {
    const level = levels.subarray(start, end).reduce((sum, l) => sum + l, 0) / (end - start)
    const before = start - (runs[i - 1]?.end ?? Number.NEGATIVE_INFINITY)
    const after = (runs[i + 1]?.start ?? Number.POSITIVE_INFINITY) - end
    if (level < loud && end - start < LONGEST_BREATH && after < before) on.fill(0, start, end)
    // a breath may run into the words: quiet for longer than any consonant is
    let rise = start
    while (rise < end && levels[rise]! < loud) rise++
    if (rise < end && rise - start >= LONGEST_CONSONANT && rise - start < LONGEST_BREATH && before >= LONGEST_CONSONANT) {
      let weakest = rise - 1
      for (let n = rise - 1; n >= start + SHORTEST_RUN; n--) if (levels[n]! < levels[weakest]!) weakest = n
      on.fill(0, start, weakest)
    }
  }
  return on
}

/** From where somebody surely speaks, how far soft edges are followed, frames. */
const [SOFT_START, SOFT_END] = [5, 35]
/** What is so far below the loudest is no part of a word. */
const FAINTEST_DB = 40
/** What swells by so much is no longer fading: somebody draws breath. */
const SWELL_DB = 6

/**
 * The same with soft beginnings and fading ends: outwards from where somebody surely speaks, as long as it is louder than the room, or
 * the voice model is sure of it.
 *
 * @param active as `activeFrames` tells it
 */
export function audibleFrames(levels: Float32Array, active: Uint8Array, { possible, sure }: Said): Uint8Array {
  const [low, high] = [percentile(levels, 0.08), percentile(levels, 0.92)]
  const least = high - FAINTEST_DB
  const threshold = Math.max(low + 7, least)
  const isAudible = (n: number) => (sure[n] === 1 && levels[n]! > least) || (possible[n] === 1 && levels[n]! > threshold)
  const out = active.slice()
  for (let n = 1; n < active.length; n++) {
    if (active[n - 1] && !active[n]) {
      let k = n
      let lowest = n
      while (k < Math.min(active.length, n + SOFT_END) && isAudible(k) && !active[k]) {
        if (levels[k]! < levels[lowest]!) lowest = k
        if (!sure[k] && levels[k]! > levels[lowest]! + SWELL_DB) {
          k = lowest
          break
        }
        k++
      }
      // what fades into the next words is no end; a breath before them is not theirs
      if (!active[k]) out.fill(1, n, k)
    }
    if (!active[n - 1] && active[n]) {
      let k = n - 1
      while (k >= Math.max(0, n - SOFT_START) && isAudible(k) && !active[k]) k--
      if (!active[k]) out.fill(1, k + 1, n)
    }
  }
  return out
}

/** Power that both sides are given before the logarithm, of the mean of speech: what is under it does not count. */
const FLOOR = 10 ** -3.2

/**
 * Cepstra and slopes, normalised to mean 0 and variance 1 over the frames in which somebody speaks.
 *
 * @param active as `activeFrames` tells it
 * @returns `DIMENSIONS` values a frame
 * @see Davis & Mermelstein 1980: cosine transform of the log mel spectrum
 */
export function cepstra({ frames, power }: MelSpectrum, active: Uint8Array): Float32Array {
  const mean = new Float64Array(BANDS)
  let count = 0
  for (let n = 0; n < frames; n++) {
    if (!active[n]) continue
    count++
    for (let b = 0; b < BANDS; b++) mean[b] = mean[b]! + power[n * BANDS + b]!
  }
  const floor = mean.map((sum) => (sum / Math.max(1, count)) * FLOOR + 1e-12)
  const basis = Float64Array.from({ length: CEPSTRA * BANDS }, (_, i) => {
    const [c, b] = [Math.floor(i / BANDS) + 1, i % BANDS]
    return Math.cos((Math.PI * c * (b + 0.5)) / BANDS)
  })
  const out = new Float32Array(frames * DIMENSIONS)
  const logs = new Float64Array(BANDS)
  for (let n = 0; n < frames; n++) {
    for (let b = 0; b < BANDS; b++) logs[b] = Math.log(power[n * BANDS + b]! + floor[b]!)
    for (let c = 0; c < CEPSTRA; c++) {
      let sum = 0
      for (let b = 0; b < BANDS; b++) sum += logs[b]! * basis[c * BANDS + b]!
      out[n * DIMENSIONS + c] = sum
    }
  }
  const at = (n: number, c: number) => out[Math.min(frames - 1, Math.max(0, n)) * DIMENSIONS + c]!
  for (let n = 0; n < frames; n++) {
    for (let c = 0; c < CEPSTRA; c++)
      out[n * DIMENSIONS + CEPSTRA + c] = (2 * (at(n + 2, c) - at(n - 2, c)) + at(n + 1, c) - at(n - 1, c)) / 10
  }
  normalise(out, active)
  return out
}

/** To mean 0 and variance 1 in each dimension over the frames that are on, in place. */
export function normalise(values: Float32Array, on: Uint8Array) {
  for (let d = 0; d < DIMENSIONS; d++) {
    let [sum, square, count] = [0, 0, 0]
    for (let n = 0; n < on.length; n++) {
      if (!on[n]) continue
      const value = values[n * DIMENSIONS + d]!
      sum += value
      square += value * value
      count++
    }
    const mean = sum / Math.max(1, count)
    const deviation = Math.sqrt(Math.max(1e-9, square / Math.max(1, count) - mean * mean))
    for (let n = 0; n < on.length; n++)
      values[n * DIMENSIONS + d] = Math.max(-4, Math.min(4, (values[n * DIMENSIONS + d]! - mean) / deviation))
  }
}
