/** Takes, tidied: the one rendering that worker, server and command line share. */
import type { ClipFigures, Stretch, TakeAnalysis, TidyUp } from '#core/lecture.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { keptStretches } from '#core/timing/time-map.ts'
import { findSpeech, roomLevel } from './activity.ts'
import { analyse, suggestTidyUp } from './analyse.ts'
import { type Block, blocksOf, type Cleaned, type CleanedBlock, cleanBlock, joinBlocks, roomNoise } from './cleaning/clean.ts'
import { takeClicksAway } from './clicks.ts'
import { findHum, takeHumAway } from './hum.ts'
import { levelled } from './level.ts'
import { heardLoudnessOfSteps, stepPowers } from './loudness.ts'
import { applyGains, silence } from './passages.ts'
import type { SampleStore, Samples } from './samples.ts'
import type { TakeFigures } from './take-figures.ts'
import { changeTempo } from './tempo.ts'
import { truePeak } from './true-peak.ts'

/** Part of every clip's name: raise it when the same recipe would give other samples. */
export const ENGINE_VERSION = 9

const JOIN_FADE = toSamples(0.012)

const finite = (value: number) => (Number.isFinite(value) ? value : null)

/** Joins the kept stretches; each join is an equal-power cross-fade that borrows its overlap from what was cut out. */
function joinKept(samples: Float32Array, pieces: readonly Stretch[]): Float32Array<ArrayBuffer> {
  const out = new Float32Array(pieces.reduce((sum, p) => sum + p.end - p.start, 0))
  const half = JOIN_FADE / 2
  let at = 0
  pieces.forEach((piece, i) => {
    out.set(samples.subarray(piece.start, Math.min(piece.end, samples.length)), at)
    const before = pieces[i - 1]
    if (before) {
      for (let n = -half; n < half; n++) {
        const to = at + n
        if (to < 0 || to >= out.length) continue
        const turn = ((n + half + 0.5) / JOIN_FADE) * (Math.PI / 2)
        out[to] = (samples[before.end + n] ?? 0) * Math.cos(turn) + (samples[piece.start + n] ?? 0) * Math.sin(turn)
      }
    }
    at += piece.end - piece.start
  })
  return out
}

/** In place. @param piece of a clip so long, which begins at a sample of it */
export function fadeEdges(
  piece: Float32Array,
  { fadeIn, fadeOut }: Pick<TidyUp, 'fadeIn' | 'fadeOut'>,
  length = piece.length,
  from = 0,
) {
  const shape = (part: number, kind: TidyUp['fadeIn']['shape']) => (kind === 'linear' ? part : Math.sin((part * Math.PI) / 2))
  const atMostHalf = (seconds: number) => Math.min(toSamples(seconds), Math.floor(length / 2))
  const [rise, fall] = [atMostHalf(fadeIn.seconds), atMostHalf(fadeOut.seconds)]
  for (let i = from; i < Math.min(rise, from + piece.length); i++)
    piece[i - from] = piece[i - from]! * shape((i + 0.5) / rise, fadeIn.shape)
  for (let i = Math.max(from, length - fall); i < from + piece.length; i++)
    piece[i - from] = piece[i - from]! * shape((length - i - 0.5) / fall, fadeOut.shape)
}

/** Where speech lies in the clip. */
function speechInClip(speech: readonly Stretch[], pieces: readonly Stretch[], tempo: number): Stretch[] {
  let at = 0
  const inPieces = pieces.flatMap((piece) => {
    const inside = speech
      .map((s) => ({ start: at + Math.max(0, s.start - piece.start), end: at + Math.min(piece.end, s.end) - piece.start }))
      .filter((s) => s.end > s.start)
    at += piece.end - piece.start
    return inside
  })
  return inPieces.map((s) => ({ start: Math.round(s.start / tempo), end: Math.round(s.end / tempo) }))
}

/** What is not a number, as a broken device may send it, is silence. */
export function numbersOnly(samples: Float32Array): Float32Array {
  // any that is none makes the sum none
  let sum = 0
  for (let i = 0; i < samples.length; i++) sum += samples[i]! * 0
  return sum === 0 ? samples : samples.map((v) => (Number.isFinite(v) ? v : 0))
}

/** The part of a recipe that decides how the whole take is cleaned, before anything is cut. */
export type CleaningRecipe = Pick<TidyUp, 'cleaning' | 'highPassHz' | 'hum' | 'clicks' | 'roomTone'>

/** All there is to know of a take before any part of it can be cleaned by itself. */
export interface TakeCleaning {
  recipe: CleaningRecipe
  /** Mains hum in it, as `findHum` tells it; it is taken away where the recipe says so. */
  humHz: number | null
  /** What the room was found to be like where it was pointed at. */
  noise: Float64Array | null
}

const withoutHum = (samples: Float32Array, { hum }: CleaningRecipe, humHz: number | null) =>
  hum && humHz !== null ? takeHumAway(samples, humHz) : samples

/** @param take mono, 48 kHz */
export function cleaningOf(take: Float32Array, recipe: CleaningRecipe, humHz: number | null): TakeCleaning {
  const { roomTone, highPassHz } = recipe
  const noise = roomTone && roomNoise(withoutHum(numbersOnly(take), recipe, humHz), roomTone, highPassHz)
  return { recipe, humHz, noise }
}

/** One block of a take by itself. @param recorded the samples it is heard from, `from` up to `to`; they are not changed */
export function cleanTakeBlock(recorded: Float32Array, block: Block, cleaning: TakeCleaning): CleanedBlock {
  const { recipe, humHz, noise } = cleaning
  const samples = withoutHum(numbersOnly(recorded), recipe, humHz)
  return cleanBlock(samples, block, { strength: recipe.cleaning, highPassHz: recipe.highPassHz, noise })
}

/** @param blocks all of the take, in order @param length of the take in samples @param into what it is laid into, as long as the take */
export function joinTake<S extends SampleStore>(
  blocks: Iterable<CleanedBlock>,
  length: number,
  recipe: Pick<CleaningRecipe, 'clicks'>,
  into: S,
): Cleaned<S> {
  const cleaned = joinBlocks(blocks, length, into)
  if (recipe.clicks) takeClicksAway(cleaned.samples, findSpeech(cleaned.speaking, cleaned.samples.length))
  return cleaned
}

/**
 * Cleans the whole take, so that a moved curtain changes nothing in the middle: block by block.
 *
 * @returns as long as the take
 */
export function cleanTake(take: Float32Array, recipe: CleaningRecipe, humHz: number | null): Cleaned {
  const cleaning = cleaningOf(take, recipe, humHz)
  // one after the other: each is let go when it is joined
  function* cleaned() {
    for (const block of blocksOf(take.length)) yield cleanTakeBlock(take.subarray(block.from, block.to), block, cleaning)
  }
  return joinTake(cleaned(), take.length, recipe, new Float32Array(take.length))
}

/** A clip before it is measured. */
export interface RenderedClip<S extends Samples = Float32Array> {
  /** As long as `clipSamples(tidyUp)`; mono, 48 kHz. */
  clip: S
  gainDb: number
  limitedDb: number
}

/**
 * Renders a take through its tidyUp. Order: hum, rumble and noise, clicks, passages, cuts, tempo, fades at the
 * edges, level.
 *
 * @param samples the whole take, mono, 48 kHz
 * @param analysis what was found in it
 * @param cleaned what `cleanTake` makes of it, when it is known already
 */
export function render(
  samples: Float32Array,
  tidyUp: TidyUp,
  analysis: Pick<TakeAnalysis, 'speech' | 'humHz'>,
  cleaned: Cleaned = cleanTake(samples, tidyUp, analysis.humHz),
): RenderedClip {
  const byHand = tidyUp.gains.length + tidyUp.silenced.length > 0
  const whole = byHand ? cleaned.samples.slice() : cleaned.samples
  applyGains(whole, tidyUp.gains)
  silence(whole, tidyUp.silenced, analysis.speech, tidyUp.roomTone)
  const pieces = keptStretches(tidyUp)
  const joined = changeTempo(joinKept(whole, pieces), tidyUp.tempo)
  fadeEdges(joined, tidyUp)
  return tidyUp.level ? levelled(joined, tidyUp.level) : { clip: joined, gainDb: 0, limitedDb: 0 }
}

/** What is told of a clip. @param speech where the voice lies in the take @param powers of the clip's steps, as `stepPowers` gives them */
export function clipFigures(
  { clip, gainDb, limitedDb }: RenderedClip<Samples>,
  tidyUp: Pick<TidyUp, 'kept' | 'cuts' | 'pauseCuts' | 'tempo'>,
  speech: readonly Stretch[],
  powers = stepPowers(clip),
): ClipFigures {
  return {
    loudnessLufs: finite(heardLoudnessOfSteps(powers)),
    truePeakDbtp: finite(truePeak(clip)),
    roomDb: roomLevel(clip, speechInClip(speech, keptStretches(tidyUp), tidyUp.tempo)),
    gainDb,
    limitedDb,
  }
}

type Change = (suggested: TidyUp, analysis: TakeAnalysis) => TidyUp

/** How a take is cleaned of which nothing is known yet. */
export const usualCleaning = (): CleaningRecipe => suggestTidyUp({ speech: [] }, 1)

/**
 * A fresh take that was cleaned the usual way: what is to know of it, its recipe and its clip.
 *
 * @param humHz mains hum in it, as `findHum` tells it
 * @param change of the recipe that is suggested
 * @param figures as `takeFigures` gives them, when they are known already
 */
export function tidyCleaned(
  samples: Float32Array,
  cleaned: Cleaned,
  humHz: number | null,
  change: Change = (s) => s,
  figures?: TakeFigures,
) {
  const numbers = numbersOnly(samples)
  const analysis = analyse(numbers, cleaned.saying, humHz, figures)
  const tidyUp = change(suggestTidyUp(analysis, samples.length), analysis)
  const usual = usualCleaning()
  const same = (['cleaning', 'highPassHz', 'hum', 'clicks', 'roomTone'] as const).every((key) => tidyUp[key] === usual[key])
  return { analysis, tidyUp, ...render(samples, tidyUp, analysis, same ? cleaned : undefined) }
}

/** A fresh take: cleaned once, and from that both what is to know of it and its clip. */
export function tidyFresh(samples: Float32Array, change?: Change) {
  const humHz = findHum(numbersOnly(samples))
  const tidied = tidyCleaned(samples, cleanTake(samples, usualCleaning(), humHz), humHz, change)
  return { ...tidied, figures: clipFigures(tidied, tidied.tidyUp, tidied.analysis.speech) }
}
