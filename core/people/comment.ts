/** What somebody says of a moment of a lecture, for those who make it. */
import { keptTake } from '#core/model/kept-take.ts'
import type { Slide } from '#core/model/slide.ts'
import { type LectureSeconds, slideSeconds, takeSeconds, toSeconds } from '#core/timing/clocks.ts'
import { toLecture } from '#core/timing/schedule.ts'
import type { ScheduledSlide } from '#core/timing/scheduled.ts'
import { timeMap } from '#core/timing/time-map.ts'

export interface Comment {
  id: string
  slideId: string
  /** Whose seconds `at` is; null: it is about the slide as a whole. */
  takeId: string | null
  /** Seconds of the take: it stays on its word when the take is trimmed or moved. */
  at: number | null
  text: string
  personId: string | null
  /** Null where they were erased. */
  name: string | null
  /** The comment it answers; null where it answers none. */
  answerTo: string | null
  /** Milliseconds since 1970. */
  createdAt: number
  /** When it was settled; null while it is open. Answers are settled with what they answer. */
  settledAt: number | null
}

const mapOf = (slide: Pick<Slide, 'keptTakeId' | 'takes'>, scheduled: Pick<ScheduledSlide, 'leadSamples'>) => {
  const take = keptTake(slide)
  return take?.tidyUp ? { take, map: timeMap(take.tidyUp, toSeconds(scheduled.leadSamples)) } : null
}

/** @returns where a comment stands in the lecture; null where it is about the whole slide, another take, or what was cut out */
export function momentOfComment(
  { takeId, at }: Pick<Comment, 'takeId' | 'at'>,
  slide: Pick<Slide, 'keptTakeId' | 'takes'>,
  scheduled: Pick<ScheduledSlide, 'leadSamples' | 'startSamples'>,
): LectureSeconds | null {
  const kept = mapOf(slide, scheduled)
  if (at === null || kept?.take.id !== takeId) return null
  const moment = kept.map.toSlide(takeSeconds(at))
  return moment === null ? null : toLecture(scheduled, moment)
}

/**
 * The place of a moment of the lecture, as a comment keeps it.
 *
 * @returns null where the moment is not on the slide, or nobody speaks to it
 */
export function placeOfComment(
  moment: LectureSeconds,
  slide: Pick<Slide, 'keptTakeId' | 'takes'>,
  scheduled: Pick<ScheduledSlide, 'leadSamples' | 'startSamples' | 'lengthSamples'>,
): { takeId: string; at: number } | null {
  const kept = mapOf(slide, scheduled)
  const onSlide = moment - toSeconds(scheduled.startSamples)
  if (!kept || onSlide < 0 || onSlide >= toSeconds(scheduled.lengthSamples)) return null
  const at = kept.map.toTake(slideSeconds(onSlide))
  return at === null ? null : { takeId: kept.take.id, at }
}

/** @returns comments that begin a talk, each with its answers, both in the order they were made */
export function talksOf(comments: readonly Comment[]): { comment: Comment; answers: Comment[] }[] {
  const inOrder = [...comments].sort((a, b) => a.createdAt - b.createdAt)
  return inOrder
    .filter(({ answerTo }) => answerTo === null)
    .map((comment) => ({ comment, answers: inOrder.filter(({ answerTo }) => answerTo === comment.id) }))
}
