/** A recipe for a take in which a stretch was replaced by another: what was decided about the rest stays. */

import type { Mark } from '#core/model/marks.ts'
import { type FootageCut, footageLater, footageWithin } from '#core/model/moving/footage.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'

/** A stretch that was taken out, samples of the take before, and how long what stands there now is. */
export interface Replaced {
  stretch: SampleRange
  length: number
}

/** @returns where a moment is in the new take; one in what was replaced is at the beginning of what stands there now */
export function momentAfter({ stretch, length }: Replaced, at: number): number {
  if (at < stretch.start) return at
  return at < stretch.end ? stretch.start : at + length - (stretch.end - stretch.start)
}

/** Parts of a stretch that are outside what was replaced, where they are now. */
function partsAfter(replaced: Replaced, { start, end }: SampleRange): SampleRange[] {
  const { stretch } = replaced
  const shift = replaced.length - (stretch.end - stretch.start)
  return [
    { start, end: Math.min(end, stretch.start) },
    { start: Math.max(start, stretch.end) + shift, end: end + shift },
  ].filter((part) => part.end > part.start)
}

/** @param tidyUp of the take before @returns the same of the new take: cuts, silences and gains inside what was replaced are gone with it */
export function tidyUpAfter(replaced: Replaced, tidyUp: TidyUp): TidyUp {
  const { stretch, length } = replaced
  const all = (list: readonly SampleRange[]) => list.flatMap((part) => partsAfter(replaced, part))
  const isInside = (at: number) => at > stretch.start && at < stretch.end
  const { kept, roomTone } = tidyUp
  const [room] = roomTone ? partsAfter(replaced, roomTone) : []
  return {
    ...tidyUp,
    // a curtain inside what was replaced opens for all of what stands there now
    kept: {
      start: momentAfter(replaced, kept.start),
      end: isInside(kept.end) ? stretch.start + length : kept.end <= stretch.start ? kept.end : momentAfter(replaced, kept.end),
    },
    cuts: all(tidyUp.cuts),
    pauseCuts: all(tidyUp.pauseCuts),
    silenced: all(tidyUp.silenced),
    gains: tidyUp.gains.flatMap(({ stretch: part, db }) => partsAfter(replaced, part).map((own) => ({ stretch: own, db }))),
    roomTone: room ?? null,
  }
}

/** @returns marks as they stand in the new take; what told of a slip that was replaced is gone with it */
export function marksAfter(replaced: Replaced, marks: readonly Mark[]): Mark[] {
  const { start, end } = replaced.stretch
  return marks
    .filter((mark) => !((mark.kind === 'wrong' || mark.kind === 'pick-up') && mark.at >= start && mark.at < end))
    .map((mark) => ({
      ...mark,
      at: momentAfter(replaced, mark.at),
      ...('from' in mark ? { from: momentAfter(replaced, mark.from) } : {}),
    }))
}

/** @param own footage of what stands there now @returns footage of the new take: where nobody recorded any the last picture stays */
export function footageAfter(
  { stretch, length }: Replaced,
  footage: readonly FootageCut[],
  own: readonly FootageCut[],
): FootageCut[] {
  const after = { start: stretch.end, end: Number.MAX_SAFE_INTEGER }
  return [
    ...footageWithin(footage, { start: 0, end: stretch.start }),
    ...footageLater(own, stretch.start),
    ...footageLater(footageWithin(footage, after), stretch.start + length),
  ]
}
