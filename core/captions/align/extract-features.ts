/** What aligning hears of a take: how it sounds when it is tidied, and when words are said. Block by block, so that a long take costs little memory. */
import { blocksOf, joinBlocks } from '#core/audio/denoise/denoise.ts'
import { type CleaningRecipe, cleaningOf, cleanTakeBlock } from '#core/audio/render/render.ts'
import type { Samples } from '#core/audio/signal/sample-source.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { type MelSpectrum, melSpectrum } from './features.ts'

/** Weak words are found only where the room is quiet, whatever strength was chosen for the ear. */
const LEAST_CLEANING = 0.6

export interface HeardTake {
  mel: MelSpectrum
  /** What that was made of: the tidied take, mono, 16 kHz. */
  sixteen: Float32Array
  /** As `clean` tells it; null where it is not known. */
  speechProbability: Float32Array | null
}

/**
 * Samples as aligning wants them: every third one, after the higher half was taken away by a short mean.
 *
 * @param samples mono, 48 kHz @returns at 16 kHz
 */
export function toSixteen(samples: Float32Array): Float32Array {
  const out = new Float32Array(Math.floor(samples.length / 3))
  // a triangle over five samples: −6 dB at 11 kHz, far above what the mel bands look at
  for (let i = 0; i < out.length; i++) {
    const at = 3 * i
    out[i] =
      ((samples[at - 2] ?? 0) +
        2 * (samples[at - 1] ?? 0) +
        3 * samples[at]! +
        2 * (samples[at + 1] ?? 0) +
        (samples[at + 2] ?? 0)) /
      9
  }
  return out
}

/** @param sixteen mono, 16 kHz */
export const melOfSixteen = (sixteen: Float32Array) => melSpectrum(sixteen, SAMPLE_RATE / 3)

/**
 * @param take mono, 48 kHz
 * @param recipe the take is cleaned by
 * @param humHz mains hum in it, as `findHum` tells it
 */
export function extractFeatures(take: Samples, recipe: CleaningRecipe, humHz: number | null): HeardTake {
  const enough = { ...recipe, cleaning: Math.max(LEAST_CLEANING, recipe.cleaning) }
  const cleaning = cleaningOf(take, enough, humHz)
  function* blocks() {
    for (const block of blocksOf(take.length)) {
      const cleaned = cleanTakeBlock(take.subarray(block.from, block.to), block, cleaning)
      yield { ...cleaned, samples: toSixteen(cleaned.samples) }
    }
  }
  // clicks are left in: no words are said in them
  const { samples, speechProbability } = joinBlocks(blocks(), take.length, new Float32Array(Math.floor(take.length / 3)), 3)
  return { mel: melOfSixteen(samples), sixteen: samples, speechProbability }
}
