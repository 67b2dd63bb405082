/** A recording made straight through: the marks of one session, and what they make of it. */
import type { Mark } from '#core/model/marks.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { SAMPLE_RATE } from '../clocks.ts'
import { type Boundary, proposeBoundaries } from './split.ts'

/** A part this short in which nobody speaks was passed over, not presented. */
const PASSED_OVER_S = 1.5

/** One slide's part of a session; a slide that was gone back to has several. */
export interface Visit {
  slideId: string
  /** Sample of the recording at which it was gone to. */
  pressed: number
}

/** @returns where the presenter was, in the order of the session; the first visit begins with the recording */
export function visitsOf(firstSlideId: string, marks: readonly Mark[]): Visit[] {
  const visits: Visit[] = [{ slideId: firstSlideId, pressed: 0 }]
  for (const mark of marks) if (mark.kind === 'slide') visits.push({ slideId: mark.slideId, pressed: mark.at })
  return visits
}

/**
 * Where the parts of a session begin: each mark moved to the likeliest real pause within a second and a half of the key press.
 *
 * @returns one boundary for every visit but the first, in order
 */
export function boundariesOf(visits: readonly Visit[], speech: readonly SampleRange[]): Boundary[] {
  return proposeBoundaries(speech, { from: 'marks', marks: visits.slice(1).map((visit) => visit.pressed) })
}

export interface Part extends SampleRange {
  slideId: string
  /** Of this part, in its own samples. */
  marks: Mark[]
}

/**
 * Divides a session at boundaries, with every mark going to the part in which its key was pressed.
 *
 * @param boundaries samples, one for every visit but the first, ascending
 * @param length of the recording, samples
 * @returns parts that together hold the whole recording, but for those that were passed over in silence
 */
export function splitSession(
  firstSlideId: string,
  marks: readonly Mark[],
  boundaries: readonly number[],
  speech: readonly SampleRange[],
  length: number,
): Part[] {
  const visits = visitsOf(firstSlideId, marks)
  const edges = [0, ...boundaries, length]
  let visit = 0
  const perVisit: Mark[][] = visits.map(() => [])
  for (const mark of marks) {
    if (mark.kind === 'slide') visit++
    else perVisit[visit]!.push(mark)
  }
  return visits.flatMap(({ slideId }, i): Part[] => {
    const [start, end] = [edges[i]!, edges[i + 1]!]
    const speaks = speech.some((s) => s.end > start && s.start < end)
    if (end <= start || (!speaks && end - start < PASSED_OVER_S * SAMPLE_RATE)) return []
    const within = (at: number) => Math.min(Math.max(at - start, 0), end - start)
    const own = perVisit[i]!.map((mark) =>
      mark.kind === 'pick-up' ? { ...mark, at: within(mark.at), from: within(mark.from) } : { ...mark, at: within(mark.at) },
    )
    return [{ slideId, start, end, marks: own }]
  })
}
