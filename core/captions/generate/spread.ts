/** Captions spread over the speech by their length: until the words were found in the recording, or where they cannot be. */
import type { SampleRange } from '#core/model/sample-range.ts'
import { type TakeSeconds, takeSeconds, toSeconds } from '#core/timing/clocks.ts'

/** A cue boundary this near a pause is meant to be in it: sentences end where speakers breathe. */
const SNAP_SECONDS = 0.7
/** A caption stays this long after its words, if the pause allows. */
const LINGER_SECONDS = 0.3

/**
 * @param texts in the order in which they are spoken
 * @param speech where the voice is, samples of the take, in order
 * @returns spans in take time, one a text, in order, not overlapping; none without texts or without speech
 */
export function spreadOverSpeech(
  texts: readonly string[],
  speech: readonly SampleRange[],
): { start: TakeSeconds; end: TakeSeconds }[] {
  const intervals = speech.map((s) => ({ start: toSeconds(s.start), end: toSeconds(s.end) }))
  const spoken = intervals.reduce((sum, s) => sum + s.end - s.start, 0)
  const last = intervals.at(-1)
  if (texts.length === 0 || !last) return []

  const characters = texts.reduce((sum, text) => sum + text.length + 1, 0)
  /** The moment at which so much of the spoken time has gone by, and where the words before it ended. */
  const edgeAt = (spokenSeconds: number) => {
    let left = spokenSeconds
    for (const [i, s] of intervals.entries()) {
      const length = s.end - s.start
      const next = intervals[i + 1]
      if (left > length + SNAP_SECONDS && next) {
        left -= length
        continue
      }
      if (next && Math.abs(left - length) <= Math.min(SNAP_SECONDS, length / 2)) return { ends: s.end, starts: next.start }
      if (left <= length || !next) return { ends: Math.min(s.start + left, s.end), starts: Math.min(s.start + left, s.end) }
      left -= length
    }
    return { ends: last.end, starts: last.end }
  }

  const spans: { start: TakeSeconds; end: TakeSeconds }[] = []
  let said = 0
  let start = intervals[0]!.start
  for (const [i, text] of texts.entries()) {
    const before = said
    said += text.length + 1
    const isLast = i === texts.length - 1
    let edge = isLast ? { ends: last.end, starts: last.end } : edgeAt((said / characters) * spoken)
    if (edge.ends <= start) {
      // two boundaries were drawn into one pause: no words are lost, what is left of the voice is shared out instead
      const share = start + ((last.end - start) * (said - before)) / (characters - before)
      edge = { ends: share, starts: share }
    }
    const pause = edge.starts - edge.ends
    const end = edge.ends + (isLast ? LINGER_SECONDS : Math.min(LINGER_SECONDS, pause))
    spans.push({ start: takeSeconds(start), end: takeSeconds(end) })
    start = Math.max(start, edge.starts)
  }
  return spans
}
