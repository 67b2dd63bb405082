/** Where somebody speaks in a recording of any length, a piece at a time. */

import { clean } from '#core/audio/denoise/denoise.ts'
import type { Samples } from '#core/audio/signal/sample-source.ts'
import { findSpeech, SPEAKING_HOP } from '#core/audio/speech/voice-activity.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { toSamples } from '#core/timing/clocks.ts'

/** Pieces are whole steps of the voice finding; each is heard with some of its neighbours, so that no edge shows. */
const PIECE = Math.round(toSamples(40) / SPEAKING_HOP) * SPEAKING_HOP
const MARGIN = Math.round(toSamples(1) / SPEAKING_HOP) * SPEAKING_HOP

/**
 * Speech intervals of a recording, in little memory: an hour needs no more than a minute does.
 *
 * @param samples mono, 48 kHz
 * @param report how far it is, 0 to 1
 * @returns stretches in samples, in order, not overlapping
 */
export function speechIn(samples: Samples, report: (part: number) => void = () => {}): SampleRange[] {
  const speechProbability = new Float32Array(Math.ceil(samples.length / SPEAKING_HOP))
  for (let start = 0; start < samples.length; start += PIECE) {
    const from = Math.max(0, start - MARGIN)
    const end = Math.min(samples.length, start + PIECE)
    const heard = clean(samples.subarray(from, Math.min(samples.length, end + MARGIN)), {
      strength: 0,
      highPassHz: null,
      noise: null,
    }).speechProbability
    const first = (start - from) / SPEAKING_HOP
    speechProbability.set(heard.subarray(first, first + Math.ceil((end - start) / SPEAKING_HOP)), start / SPEAKING_HOP)
    report(end / samples.length)
  }
  return findSpeech(speechProbability, samples.length)
}
