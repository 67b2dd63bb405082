/** What is measured of a take as it was recorded. It is worked in the blocks that are cleaned, so that it need not wait for the whole. */
import { type Block, blocksOf } from '#core/audio/denoise/denoise.ts'
import { heardLoudnessOfSteps, STEP, stepPowers } from '#core/audio/loudness/loudness.ts'
import { highestPeak } from '#core/audio/loudness/true-peak.ts'
import { toDb } from '#core/audio/signal/pcm.ts'
import type { Samples } from '#core/audio/signal/sample-source.ts'

export interface BlockFigures {
  /** Mean squares of its steps, K-weighted, as `stepPowers` gives them. */
  powers: Float64Array
  /** The largest level, between samples too: amplitude. */
  peak: number
  clippedSamples: number
}

export interface TakeFigures {
  /** null for silence. */
  loudnessLufs: number | null
  truePeakDbtp: number | null
  clippedSamples: number
}

const finite = (value: number) => (Number.isFinite(value) ? value : null)

/** Samples that stand at full scale in runs of three or more that begin in a stretch: the mark of a microphone set too high. */
function countClipped(samples: Float32Array, start: number, end: number): number {
  const full = (i: number) => Math.abs(samples[i] ?? 0) >= 0.9995
  let i = start
  // what began before the stretch is counted there
  while (i > 0 && i < end && full(i) && full(i - 1)) i++
  let clipped = 0
  for (let run = 0; i < end || run > 0; i++) {
    if (full(i)) run++
    else {
      if (run >= 3) clipped += run
      run = 0
    }
  }
  return clipped
}

/** @param recorded the samples the block is heard from, `from` up to `to`, mono, 48 kHz; its filters have settled in the margin */
export function blockFigures(recorded: Float32Array, { start, end, from }: Block): BlockFigures {
  const stretch = { start: start - from, end: end - from }
  return {
    powers: stepPowers(recorded).slice(stretch.start / STEP, Math.floor(stretch.end / STEP)),
    peak: highestPeak(recorded, stretch),
    clippedSamples: countClipped(recorded, stretch.start, stretch.end),
  }
}

/** @param blocks of a whole take, in order */
export function joinFigures(blocks: readonly BlockFigures[]): TakeFigures {
  return {
    loudnessLufs: finite(heardLoudnessOfSteps(blocks.flatMap(({ powers }) => [...powers]))),
    truePeakDbtp: finite(toDb(blocks.reduce((most, { peak }) => Math.max(most, peak), 0))),
    clippedSamples: blocks.reduce((sum, { clippedSamples }) => sum + clippedSamples, 0),
  }
}

/** @param samples the whole take, mono, 48 kHz */
export const takeFigures = (samples: Samples): TakeFigures =>
  joinFigures(blocksOf(samples.length).map((block) => blockFigures(samples.subarray(block.from, block.to), block)))
