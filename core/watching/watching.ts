/** What is watched of an edition: how often each stretch was played, gone back to or left. Totals only: nothing tells who, or how many. */
import { z } from '#core/zod.ts'

/** Totals are counted by stretches of this length. */
export const BIN_S = 5
const MOST = 400

const second = z.number().min(0).max(100_000)
/** What one page tells, once. Seconds of the lecture. */
export const WatchReport = z.object({
  /** Each time that it was played on without a jump. */
  passes: z.array(z.tuple([second, second])).max(MOST),
  /** Where somebody went back to. */
  back: z.array(second).max(MOST),
  /** Where it was left before its end; null where it was not. */
  left: second.nullable(),
})
export type WatchReport = z.infer<typeof WatchReport>

/** A number for each bin. */
export interface Watching {
  /** How many times it was played, all parts of it added up. */
  played: number[]
  back: number[]
  left: number[]
}

const binsOf = (lengthSeconds: number) => Math.max(1, Math.ceil(lengthSeconds / BIN_S))

export const nothingWatched = (lengthSeconds: number): Watching => {
  const none = () => Array<number>(binsOf(lengthSeconds)).fill(0)
  return { played: none(), back: none(), left: none() }
}

/** @returns the totals with one report more; what of it lies outside the lecture is passed over */
export function withReport(before: Watching, { passes, back, left }: WatchReport, lengthSeconds: number): Watching {
  const totals = { played: [...before.played], back: [...before.back], left: [...before.left] }
  for (const [start, end] of passes) {
    for (let bin = Math.floor(start / BIN_S); bin < totals.played.length && bin * BIN_S < end; bin++) {
      const ends = Math.min((bin + 1) * BIN_S, lengthSeconds)
      const seconds = Math.max(0, Math.min(end, ends) - Math.max(start, bin * BIN_S))
      // a last bin that is shorter than the others is played once when all of it was
      totals.played[bin]! += seconds / Math.max(0.1, ends - bin * BIN_S)
    }
  }
  const count = (bins: number[], at: number) => {
    const bin = Math.floor(at / BIN_S)
    if (bin < bins.length) bins[bin]!++
  }
  for (const at of back) count(totals.back, at)
  if (left !== null) count(totals.left, left)
  return totals
}

/** So many are no chance any more. */
const WORTH_TELLING = 3

/** @param starts where slides begin, seconds @returns index of the slide with the most of what is counted; null where there is too little */
export function mostAt(counts: readonly number[], starts: readonly number[]): number | null {
  const bySlide = starts.map(() => 0)
  for (const [bin, count] of counts.entries()) {
    // by the middle of a bin, which may reach over a change of slides
    const slide = starts.findLastIndex((start) => start <= (bin + 0.5) * BIN_S)
    bySlide[Math.max(0, slide)]! += count
  }
  const most = Math.max(0, ...bySlide)
  return most >= WORTH_TELLING ? bySlide.indexOf(most) : null
}
