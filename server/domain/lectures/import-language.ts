/** The language of a lecture while its deck is still read: whoever brought it may say it. */
import { and, eq, inArray, notExists, sql } from 'drizzle-orm'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import type { Tables } from '#server/db/database.ts'
import { jobs, lectures } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { type JobView, viewOf } from '#server/events/job-view.ts'

const lectureIdOf = sql<string>`json_extract(${jobs.payload}, '$.lectureId')`

/** @returns what was chosen for the lecture that a deck becomes; null where it is to be found */
export async function chosenLanguage(db: Tables, lectureId: string): Promise<string | null> {
  const ofLecture = and(eq(jobs.kind, 'import'), eq(lectureIdOf, lectureId))
  const [row] = await db.select({ payload: jobs.payload }).from(jobs).where(ofLecture)
  return (row?.payload as { chosenLanguage?: string | null } | undefined)?.chosenLanguage ?? null
}

/**
 * @param language BCP 47; null to find it
 * @throws when its lecture is there already, and is changed itself from now on
 */
export async function chooseLanguage({ db, events }: AppContext, jobId: string, language: string | null): Promise<JobView> {
  const isBeingRead = and(
    eq(jobs.id, jobId),
    eq(jobs.kind, 'import'),
    inArray(jobs.state, ['queued', 'running']),
    notExists(db.read.select().from(lectures).where(eq(lectures.id, lectureIdOf))),
  )
  const chosen = language === null ? sql`null` : sql`${language}`
  const [row] = await db.write((tx) =>
    tx
      .update(jobs)
      .set({ payload: sql`json_set(${jobs.payload}, '$.chosenLanguage', ${chosen})` })
      .where(isBeingRead)
      .returning(),
  )
  if (!row) throw new UserFacingError(message('The deck has been read. Choose the language on the sheet.'), 409)
  events.tell({ type: 'job', job: viewOf(row) })
  return viewOf(row)
}
