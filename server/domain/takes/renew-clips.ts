/** After an upgrade the same recipe may give other samples: kept takes whose clip is of an earlier engine are tidied again. */
import { and, eq, inArray, isNotNull, isNull } from 'drizzle-orm'
import { TidyUp } from '#core/model/tidy-up.ts'
import type { AppContext } from '#server/context/context.ts'
import { clips, jobs, lectures, slides, takes, tidyUps } from '#server/db/schema.ts'
import { isShownSlide, isShownTake } from '#server/db/shown.ts'
import { clipKey } from '#server/domain/lectures/read.ts'
import type { JobAdder } from '#server/queue/queue.ts'

/** @returns how many takes were put into the queue */
export async function renewClips({ db }: Pick<AppContext, 'db'>, queue: JobAdder): Promise<number> {
  const rows = await db.read
    .select({ id: takes.id, sound: takes.sound, tidyUp: tidyUps.tidyUp, lectureId: slides.lectureId })
    .from(takes)
    .innerJoin(slides, and(eq(slides.keptTakeId, takes.id), isShownSlide))
    .innerJoin(lectures, and(eq(lectures.id, slides.lectureId), isNull(lectures.deletedAt)))
    .innerJoin(tidyUps, eq(tidyUps.takeId, takes.id))
    .where(and(isNotNull(takes.sound), isShownTake))
  const known = new Set((await db.read.select({ key: clips.key }).from(clips)).map((row) => row.key))
  const waiting = await db.read
    .select({ payload: jobs.payload })
    .from(jobs)
    .where(and(eq(jobs.kind, 'tidy'), inArray(jobs.state, ['queued', 'running'])))
  const queued = new Set(waiting.map((job) => (job.payload as { takeId: string }).takeId))
  const stale = rows.filter((row) => !queued.has(row.id) && !known.has(clipKey(row.sound!, TidyUp.parse(row.tidyUp))))
  for (const { id, lectureId } of stale) await queue.add('tidy', lectureId, { takeId: id })
  return stale.length
}
