/** What there is to know of a take before anything is changed. */

import type { Samples } from '#core/audio/signal/sample-source.ts'
import { findSpeech, roomLevel } from '#core/audio/speech/voice-activity.ts'
import { trailingUtterance } from '#core/audio/tidy-up/trim-pauses.ts'
import type { TakeAnalysis } from '#core/model/take.ts'
import { takeFigures } from './take-measurements.ts'

/**
 * @param samples the whole take, mono, 48 kHz
 * @param speechProbability probability that words are said in it, as `clean` tells it
 * @param humHz mains hum in it, as `findHum` tells it
 * @param figures of it, when they are known already
 */
export function analyse(
  samples: Samples,
  speechProbability: Float32Array,
  humHz: number | null,
  figures = takeFigures(samples),
): TakeAnalysis {
  const speech = findSpeech(speechProbability, samples.length)
  return { speech, noiseFloorDb: roomLevel(samples, speech), ...figures, humHz, trailingUtterance: trailingUtterance(speech) }
}
