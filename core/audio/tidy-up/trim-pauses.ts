/** Long pauses, made shorter by taking out their middle. */
import type { SampleRange } from '#core/model/sample-range.ts'
import { toSamples } from '#core/timing/clocks.ts'

/**
 * What to cut so that no pause between words is longer than allowed.
 *
 * @param speech where the voice is, samples of the take, in order
 * @param longestSeconds longest pause that stays; pauses up to it are not touched
 * @returns cuts in samples of the take, each in the middle of its pause; none before the first or after the last word
 */
export function pauseCuts(speech: readonly SampleRange[], longestSeconds: number): SampleRange[] {
  const longest = toSamples(longestSeconds)
  return speech.slice(1).flatMap((next, i) => {
    const before = speech[i]!
    const pause = next.start - before.end
    if (pause <= longest) return []
    const start = before.end + Math.floor(longest / 2)
    return [{ start, end: start + pause - longest }]
  })
}

/** Common practice, no published source: a burst after so long a silence at the very end was not meant for the learners. */
const FALSE_STOP_AFTER_S = 1
const FALSE_STOP_LONGEST_S = 2.5

/**
 * Words said to oneself before pressing stop: a short last stretch after a long pause. It is offered for removal, never removed.
 *
 * @returns the stretch in samples; null when there is none
 */
export function trailingUtterance(speech: readonly SampleRange[]): SampleRange | null {
  const last = speech.at(-1)
  const before = speech.at(-2)
  if (!last || !before) return null
  const apart = last.start - before.end > toSamples(FALSE_STOP_AFTER_S)
  return apart && last.end - last.start < toSamples(FALSE_STOP_LONGEST_S) ? last : null
}
