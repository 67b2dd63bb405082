/** Takes, tidied: the one rendering that worker, server and command line share. */

import { analyse } from '#core/audio/analysis/analyse.ts'
import {
  type Block,
  blocksOf,
  type Cleaned,
  type CleanedBlock,
  cleanBlock,
  joinBlocks,
  roomNoise,
} from '#core/audio/denoise/denoise.ts'
import { heardLoudnessOfSteps, stepPowers } from '#core/audio/loudness/loudness.ts'
import { normaliseLoudness } from '#core/audio/loudness/normalise.ts'
import { truePeak } from '#core/audio/loudness/true-peak.ts'
import { declick } from '#core/audio/repair/clicks.ts'
import { findHum, removeHum } from '#core/audio/repair/hum.ts'
import { copySamples, inMemory, type SampleAllocator, type SampleStore, type Samples } from '#core/audio/signal/sample-source.ts'
import { findSpeech, roomLevel } from '#core/audio/speech/voice-activity.ts'
import { applyGains, silence } from '#core/audio/tidy-up/gain-and-silence.ts'
import { suggestTidyUp } from '#core/audio/tidy-up/suggest.ts'
import { changeTempo } from '#core/audio/tidy-up/tempo.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { ClipFigures, TakeAnalysis } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { keptStretches } from '#core/timing/time-map.ts'

/** Part of every clip's name: raise it when the same recipe would give other samples. */
export const ENGINE_VERSION = 11

const JOIN_FADE = toSamples(0.012)

const finite = (value: number) => (Number.isFinite(value) ? value : null)

/** The kept stretches, joined; each join is an equal-power cross-fade that borrows its overlap from what was cut out. */
function joinKept(whole: Samples, pieces: readonly SampleRange[]): Samples {
  const half = JOIN_FADE / 2
  let length = 0
  const placed = pieces.map(({ start, end }) => {
    const at = length
    length += end - start
    return { start, end, at }
  })
  /** What lies around a place; beyond the ends there is silence. */
  const around = (place: number) => {
    const out = new Float32Array(JOIN_FADE)
    const from = Math.max(0, place - half)
    const found = whole.subarray(from, Math.min(whole.length, place + half))
    out.set(found, from - place + half)
    return out
  }
  return {
    length,
    subarray(from, to) {
      const out = new Float32Array(Math.max(0, Math.min(to, length) - from))
      for (const { start, end, at } of placed) {
        const [first, last] = [Math.max(from, at), Math.min(to, at + end - start)]
        if (last > first) out.set(whole.subarray(start + first - at, Math.min(start + last - at, whole.length)), first - from)
      }
      for (const [i, { start, at }] of placed.entries()) {
        if (i === 0 || at + half <= from || at - half >= to) continue
        const [earlier, later] = [around(placed[i - 1]!.end), around(start)]
        for (let n = 0; n < JOIN_FADE; n++) {
          const place = at - half + n
          if (place < from || place >= from + out.length) continue
          const turn = ((n + 0.5) / JOIN_FADE) * (Math.PI / 2)
          out[place - from] = earlier[n]! * Math.cos(turn) + later[n]! * Math.sin(turn)
        }
      }
      return out
    },
  }
}

/** Soft edges. */
function faded(sound: Samples, { fadeIn, fadeOut }: Pick<TidyUp, 'fadeIn' | 'fadeOut'>): Samples {
  const { length } = sound
  const shape = (part: number, kind: TidyUp['fadeIn']['shape']) => (kind === 'linear' ? part : Math.sin((part * Math.PI) / 2))
  const atMostHalf = (seconds: number) => Math.min(toSamples(seconds), Math.floor(length / 2))
  const [rise, fall] = [atMostHalf(fadeIn.seconds), atMostHalf(fadeOut.seconds)]
  return {
    length,
    subarray(from, to) {
      const piece = sound.subarray(from, to).slice()
      for (let i = from; i < Math.min(rise, from + piece.length); i++)
        piece[i - from] = piece[i - from]! * shape((i + 0.5) / rise, fadeIn.shape)
      for (let i = Math.max(from, length - fall); i < from + piece.length; i++)
        piece[i - from] = piece[i - from]! * shape((length - i - 0.5) / fall, fadeOut.shape)
      return piece
    },
  }
}

/** Where speech lies in the clip. */
function speechInClip(speech: readonly SampleRange[], pieces: readonly SampleRange[], tempo: number): SampleRange[] {
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
export function replaceNonFinite(samples: Float32Array): Float32Array {
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
  hum && humHz !== null ? removeHum(samples, humHz) : samples

/** Hum in a room that was pointed at is followed from so long before. */
const HUM_FOLLOWED = toSamples(4)

/** @param take mono, 48 kHz */
export function cleaningOf(take: Samples, recipe: CleaningRecipe, humHz: number | null): TakeCleaning {
  const { roomTone, highPassHz } = recipe
  if (!roomTone) return { recipe, humHz, noise: null }
  const from = Math.max(0, roomTone.start - HUM_FOLLOWED)
  const around = take.subarray(from, Math.min(take.length, roomTone.end + HUM_FOLLOWED))
  const room = { start: roomTone.start - from, end: roomTone.end - from }
  return { recipe, humHz, noise: roomNoise(withoutHum(replaceNonFinite(around), recipe, humHz), room, highPassHz) }
}

/** One block of a take by itself. @param recorded the samples it is heard from, `from` up to `to`; they are not changed */
export function cleanTakeBlock(recorded: Float32Array, block: Block, cleaning: TakeCleaning): CleanedBlock {
  const { recipe, humHz, noise } = cleaning
  const samples = withoutHum(replaceNonFinite(recorded), recipe, humHz)
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
  if (recipe.clicks) declick(cleaned.samples, findSpeech(cleaned.voiceProbability, cleaned.samples.length))
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
  gainReductionDb: number
}

/**
 * Renders a cleaned take through its tidyUp. Order, after hum, rumble and noise, clicks: passages, cuts, tempo, fades at the edges, level.
 * Of sound of any length little is in memory, except where the tempo is another than 1: then the kept part and its clip are.
 *
 * @param cleaned the whole take, as `cleanTake` gives it; it is not changed
 * @param speech where somebody speaks in it
 */
export function render<S extends SampleStore>(
  cleaned: S,
  tidyUp: TidyUp,
  speech: readonly SampleRange[],
  allocate: SampleAllocator<S>,
): RenderedClip<S> {
  let whole = cleaned
  if (tidyUp.gains.length + tidyUp.silenced.length > 0) {
    whole = allocate(cleaned.length)
    copySamples(cleaned, whole)
    applyGains(whole, tidyUp.gains)
    silence(whole, tidyUp.silenced, speech, tidyUp.roomTone)
  }
  const joined = joinKept(whole, keptStretches(tidyUp))
  const spoken = tidyUp.tempo === 1 ? joined : changeTempo(joined.subarray(0, joined.length), tidyUp.tempo)
  const unlevelled = faded(spoken, tidyUp)
  const clip = allocate(unlevelled.length)
  const gains = tidyUp.level && normaliseLoudness(unlevelled, tidyUp.level, clip)
  if (!gains) copySamples(unlevelled, clip)
  return { clip, ...(gains ?? { gainDb: 0, gainReductionDb: 0 }) }
}

/** What is told of a clip. @param speech where the voice lies in the take @param powers of the clip's steps, as `stepPowers` gives them */
export function clipFigures(
  { clip, gainDb, gainReductionDb }: RenderedClip<Samples>,
  tidyUp: Pick<TidyUp, 'kept' | 'cuts' | 'pauseCuts' | 'tempo'>,
  speech: readonly SampleRange[],
  powers = stepPowers(clip),
): ClipFigures {
  return {
    loudnessLufs: finite(heardLoudnessOfSteps(powers)),
    truePeakDbtp: finite(truePeak(clip)),
    noiseFloorDb: roomLevel(clip, speechInClip(speech, keptStretches(tidyUp), tidyUp.tempo)),
    gainDb,
    gainReductionDb,
  }
}

type Change = (suggested: TidyUp, analysis: TakeAnalysis) => TidyUp

/** How a take is cleaned of which nothing is known yet. */
export const usualCleaning = (): CleaningRecipe => suggestTidyUp({ speech: [] }, 1)

/** A fresh take: cleaned once, and from that both what is to know of it and its clip. */
export function tidyFresh(samples: Float32Array, change: Change = (s) => s) {
  const take = replaceNonFinite(samples)
  const humHz = findHum(take)
  const usual = usualCleaning()
  const cleaned = cleanTake(take, usual, humHz)
  const analysis = analyse(take, cleaned.speechProbability, humHz)
  const tidyUp = change(suggestTidyUp(analysis, samples.length), analysis)
  const same = (['cleaning', 'highPassHz', 'hum', 'clicks', 'roomTone'] as const).every((key) => tidyUp[key] === usual[key])
  const used = same ? cleaned : cleanTake(take, tidyUp, humHz)
  const rendered = render<Float32Array<ArrayBufferLike>>(used.samples, tidyUp, analysis.speech, inMemory)
  return { analysis, tidyUp, ...rendered, figures: clipFigures(rendered, tidyUp, analysis.speech) }
}
