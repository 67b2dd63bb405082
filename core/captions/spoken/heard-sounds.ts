/** Filled pauses (er, um) and coughs, by their sound alone: no words need to be known. */

import type { HeardTake } from '#core/captions/align/extract-features.ts'
import { activeFrames, BANDS, FRAMES_A_SECOND, frameLevels, saidFrames } from '#core/captions/align/features.ts'
import { type Run, runsOf } from '#core/captions/align/runs.ts'
import { type HeardSound, SURELY_NO_WORDS } from '#core/model/take.ts'
import { pitchAt } from './pitch.ts'

/** Part of what is kept with a take: raise it when the same take would give other sounds. */
export const SOUNDS_VERSION = 1

/** Frames, of 10 ms. */
const seconds = (s: number) => Math.round(s * FRAMES_A_SECOND)

/** Filled pauses are no shorter and no longer; what is longer is speech. */
const [SHORTEST, LONGEST] = [seconds(0.1), seconds(1.3)]
/** So far under the loud half of the speech a sound is no voice of this take's. dB. */
const FAINTEST_DB = 20
/** Frames of a sound that are so far under its loudest are its edges. dB. */
const CORE_DB = 20
/** Bands so far under the whole say nothing of a sound's colour. dB. */
const COLOUR_DB = -25
/** Frames this far apart are compared for how fast the colour changes. */
const REACH = 3
/** Above this the colour strays too far for any filled pause, whatever else is heard: its pitch needs no look. dB. */
const MOST_SPREAD = 3.5

/** What is measured of a sound that stands by itself between rests, in the order of the weights. */
export const MEASURES = ['spread', 'change', 'tones', 'length', 'rest'] as const

/**
 * What makes such a sound a filled pause: one colour, which does not change fast, one tone, and rests on both sides.
 * Found by logistic regression (`npm run bench -- words-fit`), on another half of the recordings than figures are told of.
 */
const WEIGHTS = { measures: [-1.672, -0.13, -0.342, 2.385, 2.933], constant: -3.829 }
const LEAST_SCORE = -1
/** What has a pitch in less of it is noise. */
const LEAST_VOICED = 0.4

/** Sounds that are surely no words: none are sought in them. */
export const surelyNoWords = (sounds: readonly HeardSound[]) => sounds.filter(({ certainty }) => certainty >= SURELY_NO_WORDS)

/** A cough is a burst of no pitch, nearly as loud as the voice, alone between rests. */
const COUGH = { shortest: seconds(0.08), longest: seconds(0.8), rest: seconds(0.12), loudDb: 14, voiced: 0.35 }

interface Listened {
  levels: Float32Array
  /** Level of each band of each frame, dB. */
  bands: Float32Array
  sixteen: Float32Array
}

/** How far the colour of a sound strays from its mean, and how far it changes at most within six frames. dB. */
function colourOf({ levels, bands }: Listened, { start, end }: Run): { spread: number; change: number } {
  const colour = (n: number, b: number) => Math.max(COLOUR_DB, bands[n * BANDS + b]! - levels[n]!)
  let top = -1e9
  for (let n = start; n < end; n++) top = Math.max(top, levels[n]!)
  const core = Array.from({ length: end - start }, (_, i) => start + i).filter((n) => levels[n]! > top - CORE_DB)
  let spread = 0
  for (let b = 0; b < BANDS; b++) {
    const mean = core.reduce((sum, n) => sum + colour(n, b), 0) / core.length
    spread += core.reduce((sum, n) => sum + Math.abs(colour(n, b) - mean), 0) / core.length
  }
  let change = 0
  for (let n = start + REACH; n < end - REACH; n++) {
    let sum = 0
    for (let b = 0; b < BANDS; b++) sum += Math.abs(colour(n + REACH, b) - colour(n - REACH, b))
    change = Math.max(change, sum / BANDS)
  }
  return { spread: spread / BANDS, change }
}

/** Of a sorted list, the value so far up. */
const quantile = (sorted: readonly number[], part: number) => sorted[Math.round(part * (sorted.length - 1))] ?? 0

/** In what share of its frames a pitch is heard, and over how many semitones it goes. */
function voiceOf({ sixteen }: Listened, { start, end }: Run): { voiced: number; tones: number } {
  const tones: number[] = []
  for (let n = start; n < end; n++) {
    const hz = pitchAt(sixteen, (n * 16_000) / FRAMES_A_SECOND, 16_000)
    if (hz !== null) tones.push(12 * Math.log2(hz))
  }
  const share = tones.length / (end - start)
  tones.sort((a, b) => a - b)
  return { voiced: share, tones: quantile(tones, 0.95) - quantile(tones, 0.05) }
}

/** What is measured of a sound; null where it surely is no filled pause. */
function measuresOf(heard: Listened, run: Run, rest: number): number[] | null {
  const length = run.end - run.start
  if (length < SHORTEST || length > LONGEST) return null
  const { spread, change } = colourOf(heard, run)
  if (spread > MOST_SPREAD) return null
  const { voiced, tones } = voiceOf(heard, run)
  if (voiced < LEAST_VOICED) return null
  return [spread, change, Math.min(15, tones), Math.log(length / 10), Math.log(Math.max(1, Math.min(60, rest)))]
}

const scoreOf = (measures: readonly number[]) =>
  measures.reduce((sum, value, i) => sum + value * WEIGHTS.measures[i]!, WEIGHTS.constant)

/** Rest on the side of a run that has less of it. */
function shorterRest(runs: readonly Run[], i: number, frames: number): number {
  const { start, end } = runs[i]!
  return Math.min(start - (runs[i - 1]?.end ?? 0), (runs[i + 1]?.start ?? frames) - end)
}

function meanLevel(levels: Float32Array, { start, end }: Run): number {
  let sum = 0
  for (let n = start; n < end; n++) sum += levels[n]!
  return sum / (end - start)
}

interface Take extends Listened {
  /** Level of the loud half of the speech, dB. */
  loud: number
  active: Uint8Array
}

/** @returns null where nobody speaks */
function listenTo({ mel, sixteen, speechProbability }: HeardTake): Take | null {
  const levels = frameLevels(mel)
  const active = activeFrames(levels, saidFrames(speechProbability, mel.frames))
  const spoken = [...levels.keys()]
    .filter((n) => active[n])
    .map((n) => levels[n]!)
    .sort((a, b) => a - b)
  if (spoken.length === 0) return null
  return { levels, bands: mel.power.map((p) => 10 * Math.log10(p + 1e-12)), sixteen, loud: quantile(spoken, 0.75), active }
}

/** Sounds between rests that may be filled pauses. */
function standing(take: Take): { run: Run; measures: number[] }[] {
  const { levels, active, loud } = take
  const runs = runsOf((n) => active[n] === 1, 0, levels.length)
  return runs.flatMap((run, i) => {
    if (meanLevel(levels, run) <= loud - FAINTEST_DB) return []
    const measures = measuresOf(take, run, shorterRest(runs, i, levels.length))
    return measures ? [{ run, measures }] : []
  })
}

/** What is measured of the sounds of a take that may be filled pauses, seconds: for fitting the weights. */
export function measuredSounds(heard: HeardTake): { start: number; end: number; measures: number[] }[] {
  const take = listenTo(heard)
  return take ? standing(take).map(({ run, measures }) => ({ ...inSeconds(run), measures })) : []
}

const inSeconds = ({ start, end }: Run) => ({ start: start / FRAMES_A_SECOND, end: end / FRAMES_A_SECOND })

/** @returns filled pauses and coughs, in order, seconds of the take */
export function heardSounds(heard: HeardTake): HeardSound[] {
  const take = listenTo(heard)
  if (!take) return []
  const { levels, loud } = take
  const frames = levels.length
  const filled = standing(take).flatMap(({ run, measures }): HeardSound[] => {
    const score = scoreOf(measures)
    return score > LEAST_SCORE ? [{ kind: 'filled-pause', ...inSeconds(run), certainty: Math.round(100 * score) / 100 }] : []
  })
  const sounding = runsOf((n) => levels[n]! > loud - FAINTEST_DB, 0, frames).reduce<Run[]>((runs, run) => {
    const last = runs.at(-1)
    if (last && run.start - last.end < seconds(0.06)) last.end = run.end
    else runs.push({ ...run })
    return runs
  }, [])
  const coughs = sounding.filter((run, i) => {
    const length = run.end - run.start
    if (length < COUGH.shortest || length > COUGH.longest || shorterRest(sounding, i, frames) < COUGH.rest) return false
    let top = -1e9
    for (let n = run.start; n < run.end; n++) top = Math.max(top, levels[n]!)
    return top > loud - COUGH.loudDb && voiceOf(take, run).voiced < COUGH.voiced
  })
  return [...filled, ...coughs.map((run): HeardSound => ({ kind: 'cough', ...inSeconds(run), certainty: 0 }))].sort(
    (a, b) => a.start - b.start,
  )
}
