/** Finds the voice in a take: where speech is, where only the room is, and what is only a click. */
import type { Stretch } from '#core/lecture.ts'
import { SAMPLE_RATE, toSamples } from '#core/timing/clocks.ts'
import { realFft } from './fft.ts'

const SIZE = 1024
const HOP = SAMPLE_RATE / 100
/** Bands in which a voice is looked for; the last one holds f, s and sh. Rumble and hum stay below the first. */
const BANDS_HZ = [
  [180, 500],
  [500, 1500],
  [1500, 4000],
  [4000, 9000],
] as const

/** A voice begins where a band stands this far above its own room … */
const ENTER_DB = 9
/** … and is followed outwards as long as it stands this far above it. */
const STAY_DB = 4
const SHORTEST_SPEECH = 7 // frames of 10 ms; a key click is shorter
const SHORTEST_PAUSE = 20
const LONE_BURST = 20 // a burst this short, standing alone, is a knock and not a word
const LONE_GAP = 30
const PAD_START = 3
const PAD_END = 6
/** Below this the loudest frames do not stand out of the room enough to be called a voice. */
const LEAST_RANGE_DB = 9

const QUIET_SHARE = 0.12 // share of frames taken for the room alone

/** @returns value below which a share of the values lies */
function quantile(values: Float64Array, share: number): number {
  const sorted = Float64Array.from(values).sort()
  return sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))] ?? 0
}

/** Level of each band in each 10 ms frame, dB, smoothed over three frames. */
function bandLevels(samples: Float32Array): Float64Array[] {
  const frames = Math.max(0, Math.ceil(samples.length / HOP))
  const fft = realFft(SIZE)
  const window = Float64Array.from({ length: SIZE }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / SIZE))
  const input = new Float64Array(SIZE)
  const [re, im] = [new Float64Array(fft.bins), new Float64Array(fft.bins)]
  const power = BANDS_HZ.map(() => new Float64Array(frames))
  const binHz = SAMPLE_RATE / SIZE
  for (let f = 0; f < frames; f++) {
    const start = f * HOP + HOP / 2 - SIZE / 2
    for (let i = 0; i < SIZE; i++) {
      // beyond the edges the sound is mirrored: silence there would look like a very quiet room
      let at = start + i
      if (at < 0) at = -at
      if (at >= samples.length) at = 2 * samples.length - 2 - at
      input[i] = (samples[at] ?? 0) * window[i]!
    }
    fft.forward(input, re, im)
    BANDS_HZ.forEach(([low, high], b) => {
      let sum = 0
      for (let k = Math.ceil(low / binHz); k < high / binHz; k++) sum += re[k]! * re[k]! + im[k]! * im[k]!
      power[b]![f] = sum
    })
  }
  return power.map((band) =>
    band.map((value, f) => 10 * Math.log10((value + (band[f - 1] ?? value) + (band[f + 1] ?? value)) / 3 + 1e-9)),
  )
}

interface Run {
  from: number
  to: number
}

/** Runs of frames for which `is` holds. */
function runs(count: number, is: (frame: number) => boolean): Run[] {
  const out: Run[] = []
  for (let f = 0; f < count; f++) {
    if (!is(f)) continue
    const last = out.at(-1)
    if (last && last.to === f) last.to = f + 1
    else out.push({ from: f, to: f + 1 })
  }
  return out
}

/**
 * Speech intervals of a take.
 *
 * Each band is compared with its own room level, taken from the quietest frames; a run that somewhere stands
 * well above it (hysteresis of 9 and 4 dB) is a voice, unless it is too short or a lone knock. Intervals are widened a
 * little so that soft consonants and fading last words stay inside.
 *
 * @param samples mono, 48 kHz, any level
 * @returns stretches in samples, in order, not overlapping; empty when no voice stands out of the room
 */
export function findSpeech(samples: Float32Array): Stretch[] {
  const levels = bandLevels(samples)
  const frames = levels[0]?.length ?? 0
  if (frames < SHORTEST_SPEECH) return []
  const total = new Float64Array(frames)
  const above = new Float64Array(frames)
  for (const band of levels) {
    const room = quantile(band, QUIET_SHARE)
    for (let f = 0; f < frames; f++) {
      above[f] = Math.max(above[f]!, band[f]! - room)
      total[f] = total[f]! + 10 ** (band[f]! / 10)
    }
  }
  if (quantile(above, 0.98) < LEAST_RANGE_DB) return []

  const voiced = runs(frames, (f) => above[f]! > STAY_DB).filter((run) => {
    let strong = 0
    for (let f = run.from; f < run.to; f++) if (above[f]! > ENTER_DB) strong++
    return strong >= 3 && run.to - run.from >= SHORTEST_SPEECH
  })
  const joined: Run[] = []
  for (const run of voiced) {
    const last = joined.at(-1)
    if (last && run.from - last.to < SHORTEST_PAUSE) last.to = run.to
    else joined.push({ ...run })
  }
  return joined
    .filter((run, i) => {
      const before = run.from - (joined[i - 1]?.to ?? Number.NEGATIVE_INFINITY)
      const after = (joined[i + 1]?.from ?? Number.POSITIVE_INFINITY) - run.to
      return run.to - run.from > LONE_BURST || before < LONE_GAP || after < LONE_GAP
    })
    .map((run) => ({
      start: Math.max(0, (run.from - PAD_START) * HOP),
      end: Math.min(samples.length, (run.to + PAD_END) * HOP),
    }))
}

/**
 * Level of the room: the quietest 100 ms pieces outside speech.
 *
 * @param samples mono, 48 kHz
 * @param speech as `findSpeech` returns it
 * @returns dBFS, root mean square; null when speech leaves no pause of 100 ms; −120 for digital silence
 */
export function roomLevel(samples: Float32Array, speech: readonly Stretch[]): number | null {
  const piece = toSamples(0.1)
  const powers: number[] = []
  let at = 0
  for (const edge of [...speech, { start: samples.length, end: samples.length }]) {
    for (; at + piece <= edge.start; at += piece) {
      let sum = 0
      for (let i = at; i < at + piece; i++) sum += samples[i]! * samples[i]!
      powers.push(sum / piece)
    }
    at = edge.end
  }
  if (powers.length === 0) return null
  powers.sort((a, b) => a - b)
  const median = powers[Math.floor(powers.length / 2)]!
  return Math.max(-120, 10 * Math.log10(median + 1e-12))
}
