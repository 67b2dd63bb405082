/** Empty captions over speech without a script: each is listened to and typed into. */
import { SHOWN } from './break-lines.ts'

/** Pauses this long end a caption: a speaker who rests has ended something. */
const PAUSE_S = 0.35
/** As much as one remembers while typing it down. */
const USUAL_S = 4

/**
 * @param speech where somebody speaks, seconds of the take, in order
 * @returns spans that together hold all speech, none longer than about six seconds, divided in pauses where there are some
 */
export function spansByEar(speech: readonly { start: number; end: number }[]): { start: number; end: number }[] {
  const spans: { start: number; end: number }[] = []
  for (const stretch of speech) {
    const last = spans.at(-1)
    const joined = last && stretch.start - last.end < PAUSE_S && stretch.end - last.start <= USUAL_S
    if (joined) last.end = stretch.end
    else spans.push({ ...stretch })
  }
  return spans.flatMap(({ start, end }) => {
    const parts = end - start > SHOWN.mostSeconds ? Math.ceil((end - start) / USUAL_S) : 1
    return Array.from({ length: parts }, (_, i) => ({
      start: start + ((end - start) * i) / parts,
      end: start + ((end - start) * (i + 1)) / parts,
    }))
  })
}
