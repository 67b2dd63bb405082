/** Long recordings over several slides: kept whole, divided into takes. */

import { and, desc, eq, inArray, isNull } from 'drizzle-orm'
import type { Division } from '#core/jobs/job.ts'
import { message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { recordings, slides } from '#server/db/schema.ts'
import { isShownSlide } from '#server/db/shown.ts'
import { gone } from '#server/domain/lectures/edit.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

/** @returns the recordings of a lecture, the newest first */
export async function readRecordings(db: Tables, lectureId: string) {
  const rows = await db
    .select()
    .from(recordings)
    .where(and(eq(recordings.lectureId, lectureId), isNull(recordings.deletedAt)))
    .orderBy(desc(recordings.createdAt))
  return rows.map(({ lectureId: _, deletedAt: __, ...recording }) => recording)
}

/** Keeps a recording whose sound is in the store already. Doing it again with the same id, as when more of it came, keeps the newer one. */
export async function keepRecording(db: Database, recording: Omit<typeof recordings.$inferInsert, 'createdAt'>) {
  await db.write((tx) =>
    tx
      .insert(recordings)
      .values({ ...recording, createdAt: Date.now() })
      .onConflictDoUpdate({ target: recordings.id, set: recording }),
  )
}

/**
 * What a division would cut, checked.
 *
 * @returns the recording and one stretch a slide
 * @throws UserFacingError when boundaries and slides do not go together
 */
export async function readDivision(db: Tables, id: string, { slideIds, boundaries }: Division) {
  const [recording] = await db.select().from(recordings).where(eq(recordings.id, id))
  if (!recording) throw gone('recording')
  if (boundaries.length !== slideIds.length - 1)
    throw new UserFacingError(
      message('{slides} slides need {wanted} changes; there are {given}.', {
        slides: slideIds.length,
        wanted: slideIds.length - 1,
        given: boundaries.length,
      }),
      422,
    )
  const edges = [0, ...boundaries, recording.samples]
  if (edges.some((edge, i) => i > 0 && edge <= edges[i - 1]!))
    throw new UserFacingError(
      message('The changes are not in order, or lie past the end of the recording. Put them in order.'),
      422,
    )
  const known = await db
    .select({ id: slides.id })
    .from(slides)
    .where(and(eq(slides.lectureId, recording.lectureId), inArray(slides.id, slideIds), isShownSlide))
  // a slide that was gone back to in a session has several parts
  if (known.length !== new Set(slideIds).size)
    throw new UserFacingError(message('The slides changed in another window meanwhile. Look at the division again.'), 409)
  return { recording, stretches: slideIds.map((slideId, i) => ({ slideId, start: edges[i]!, end: edges[i + 1]! })) }
}

export async function markDivided(db: Database, id: string) {
  await db.write((tx) => tx.update(recordings).set({ dividedAt: Date.now() }).where(eq(recordings.id, id)))
}

/** Marks a recording as deleted, or brings it back. Its takes stay. @returns id of the lecture */
export async function setRecordingDeleted(db: Database, id: string, deleted: boolean): Promise<string> {
  const [row] = await db.write((tx) =>
    tx
      .update(recordings)
      .set({ deletedAt: deleted ? Date.now() : null })
      .where(eq(recordings.id, id))
      .returning(),
  )
  if (!row) throw gone('recording')
  return row.lectureId
}
