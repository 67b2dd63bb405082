/** What there is to know of a take before anything is changed, and the recipe that follows from it. */
import { type TakeAnalysis, TidyUp } from '#core/lecture.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { findSpeech, roomLevel } from './activity.ts'
import { falseStop } from './pauses.ts'
import type { Samples } from './samples.ts'
import { takeFigures } from './take-figures.ts'

/** Room left before the first and after the last word, inside the clip; lead and tail come on top. */
const ROOM_BEFORE = toSamples(0.04)
const ROOM_AFTER = toSamples(0.08)

/**
 * @param samples the whole take, mono, 48 kHz
 * @param saying probability that words are said in it, as `clean` tells it
 * @param humHz mains hum in it, as `findHum` tells it
 * @param figures of it, when they are known already
 */
export function analyse(
  samples: Samples,
  saying: Float32Array,
  humHz: number | null,
  figures = takeFigures(samples),
): TakeAnalysis {
  const speech = findSpeech(saying, samples.length)
  return { speech, roomDb: roomLevel(samples, speech), ...figures, humHz, falseStop: falseStop(speech) }
}

/**
 * The recipe a take gets without anybody asking: curtains around the speech, moderate cleaning, one loudness.
 *
 * @param samples length of the take
 * @returns a tidyUp that keeps the whole take when no voice was found in it
 */
export function suggestTidyUp(analysis: Pick<TakeAnalysis, 'speech'>, samples: number): TidyUp {
  const first = analysis.speech[0]
  const last = analysis.speech.at(-1)
  return TidyUp.parse({
    kept: {
      start: first ? Math.max(0, first.start - ROOM_BEFORE) : 0,
      end: last ? Math.min(samples, last.end + ROOM_AFTER) : Math.max(1, samples),
    },
  })
}
