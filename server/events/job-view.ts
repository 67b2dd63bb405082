/** What a job is, in the database and as the web side sees it. */
import type { jobs } from '#server/db/schema.ts'

export type JobKind = (typeof jobs.kind.enumValues)[number]
export type JobRow = typeof jobs.$inferSelect
/** A job as the web side sees it. */
export type JobView = Pick<
  JobRow,
  'id' | 'kind' | 'lectureId' | 'state' | 'progress' | 'stage' | 'result' | 'error' | 'createdAt'
> & {
  /** The slide it works on; null for all that is not about one. */
  slideId: string | null
}

export const viewOf = ({ id, kind, lectureId, payload, state, progress, stage, result, error, createdAt }: JobRow): JobView => ({
  id,
  kind,
  lectureId,
  state,
  progress,
  stage,
  result,
  error,
  createdAt,
  slideId: (payload as { slideId?: string } | null)?.slideId ?? null,
})
