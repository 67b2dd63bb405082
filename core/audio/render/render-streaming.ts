/** A fresh take of any length, tidied with little in memory: a block at a time, everything between the steps spilled to disk. */

import { analyse } from '#core/audio/analysis/analyse.ts'
import { type BlockFigures, blockFigures, joinFigures } from '#core/audio/analysis/take-measurements.ts'
import { blocksOf } from '#core/audio/denoise/denoise.ts'
import { findHum, HUM_HEARD } from '#core/audio/repair/hum.ts'
import type { SampleAllocator, Samples } from '#core/audio/signal/sample-source.ts'
import { suggestTidyUp } from '#core/audio/tidy-up/suggest.ts'
import type { TakeAnalysis } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { type CleaningRecipe, cleaningOf, cleanTakeBlock, clipFigures, joinTake, render, replaceNonFinite } from './render.ts'

/** What may be asked for beforehand; cuts, passages and another tempo are made by hand, and come later. */
export interface LongTidy {
  cleaning: CleaningRecipe
  /** null keeps the whole take; else what is suggested is kept. */
  kept: 'suggested' | null
  level: TidyUp['level']
}

export interface TidiedLong {
  analysis: TakeAnalysis
  tidyUp: TidyUp
  clip: Samples
  gainDb: number
  gainReductionDb: number
  figures: ReturnType<typeof clipFigures>
}

/**
 * @param recorded the whole take, mono, 48 kHz
 * @param wanted what is asked for, given what is suggested
 * @param allocate gives room for so many samples; asked for twice
 */
export function tidyLong(recorded: Samples, { cleaning: recipe, kept, level }: LongTidy, allocate: SampleAllocator): TidiedLong {
  const { length } = recorded
  const take: Samples = { length, subarray: (from, to) => replaceNonFinite(recorded.subarray(from, to)) }
  const humHz = findHum(take.subarray(0, Math.min(length, HUM_HEARD)))
  const cleaning = cleaningOf(take, { ...recipe, roomTone: null }, humHz)
  const measured: BlockFigures[] = []
  function* blocks() {
    for (const block of blocksOf(length)) {
      const samples = take.subarray(block.from, block.to)
      measured.push(blockFigures(samples, block))
      yield cleanTakeBlock(samples, block, cleaning)
    }
  }
  const cleaned = joinTake(blocks(), length, recipe, allocate(length))
  const analysis = analyse(take, cleaned.speechProbability, humHz, joinFigures(measured))
  const suggested = suggestTidyUp(analysis, length)
  const tidyUp = { ...suggested, ...recipe, kept: kept === null ? { start: 0, end: length } : suggested.kept, level }
  const clip = render(cleaned.samples, tidyUp, analysis.speech, allocate)
  return { analysis, tidyUp, ...clip, figures: clipFigures(clip, tidyUp, analysis.speech) }
}
