/** The recipe that follows from what is known of a take. By itself, because pages need it and nothing of the sound. */
import type { TakeAnalysis } from '#core/model/take.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples } from '#core/timing/clocks.ts'

/** Room left before the first and after the last word, inside the clip; lead and tail come on top. */
const ROOM_BEFORE = toSamples(0.04)
const ROOM_AFTER = toSamples(0.08)

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
