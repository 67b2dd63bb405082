/** What a job is, in the database and as the web side sees it. */

import { JOBS, type JobKind, type JobResult, type JobSoFar } from '#core/jobs/job.ts'
import { unpacked } from '#core/words/packed.ts'
import type { Message } from '#core/words/say.ts'
import type { jobs } from '#server/db/schema.ts'

export type JobRow = typeof jobs.$inferSelect

interface JobFields extends Pick<JobRow, 'id' | 'lectureId' | 'state' | 'progress' | 'createdAt'> {
  /** What it does now. */
  stage: Message
  /** Why it failed. */
  error: Message | null
  /** The slide it works on; null for all that is not about one. */
  slideId: string | null
  /** The lecture it is about, or the one it makes. */
  aboutLectureId: string | null
  /** That somebody chose for what it makes; null where it is found. */
  chosenLanguage: string | null
}
/** A job as the web side sees it: what it gave once it is done, and what is to be seen of it before. */
export type JobView = {
  [K in JobKind]: JobFields & { kind: K; result: JobResult<K> | null; soFar: JobSoFar<K> | null }
}[JobKind]

/** What a schema reads; null for what it does not, as in rows of an earlier version. */
const read = (schema: (typeof JOBS)[JobKind]['result' | 'soFar'], value: unknown) => schema.safeParse(value).data ?? null

export function viewOf(row: JobRow): JobView {
  const { id, kind, lectureId, payload, state, progress, stage, result, error, createdAt } = row
  const isDone = state === 'done'
  const given = payload as { slideId?: string; lectureId?: string; chosenLanguage?: string | null } | null
  return {
    id,
    kind,
    lectureId,
    state,
    progress,
    stage: unpacked(stage),
    error: error === null ? null : unpacked(error),
    createdAt,
    slideId: given?.slideId ?? null,
    aboutLectureId: lectureId ?? given?.lectureId ?? null,
    chosenLanguage: given?.chosenLanguage ?? null,
    result: isDone ? read(JOBS[kind].result, result) : null,
    soFar: isDone ? null : read(JOBS[kind].soFar, result),
  } as JobView
}
