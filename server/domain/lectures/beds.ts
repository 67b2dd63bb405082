/** Music and room sound under slides. */
import { and, asc, eq, isNull, type SQL } from 'drizzle-orm'
import { type Bed, BedSettings, DEFAULT_BED } from '#core/model/bed.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { beds } from '#server/db/schema.ts'
import { gone, touch } from './edit.ts'

/** What one request may change. */
export const BedChange = BedSettings.partial()

/** @returns the beds of lectures by their ids, in the order they were added */
export async function readBeds(db: Tables, ofLectures: SQL): Promise<Map<string, Bed[]>> {
  const rows = await db
    .select()
    .from(beds)
    .where(and(ofLectures, isNull(beds.deletedAt)))
    .orderBy(asc(beds.createdAt))
  const byLecture = new Map<string, Bed[]>()
  for (const { lectureId, settings, id, name, sound, peaks, samples, loudnessLufs } of rows) {
    const bed = { id, name, sound, peaks, samples, loudnessLufs, ...BedSettings.parse({ ...DEFAULT_BED, ...settings }) }
    byLecture.set(lectureId, [...(byLecture.get(lectureId) ?? []), bed])
  }
  return byLecture
}

/** Keeps a bed whose sound is in the store already. Doing it again with the same id changes nothing. */
export async function keepBed(
  db: Database,
  run: Pick<BedSettings, 'fromSlideId' | 'toSlideId'>,
  bed: Pick<typeof beds.$inferInsert, 'id' | 'lectureId' | 'name' | 'sound' | 'peaks' | 'samples' | 'loudnessLufs'>,
) {
  await db.write(async (tx) => {
    const row = { ...bed, settings: { ...DEFAULT_BED, ...run }, createdAt: Date.now() }
    await tx.insert(beds).values(row).onConflictDoNothing()
    await touch(tx, bed.lectureId)
  })
}

/** @returns id of the lecture */
export async function changeBed(db: Database, id: string, change: Partial<BedSettings>): Promise<string> {
  return db.write(async (tx) => {
    const [bed] = await tx.select().from(beds).where(eq(beds.id, id))
    if (!bed) throw gone('bed')
    await tx
      .update(beds)
      .set({ settings: { ...bed.settings, ...change } })
      .where(eq(beds.id, id))
    await touch(tx, bed.lectureId)
    return bed.lectureId
  })
}

/** Marks a bed as deleted, or brings it back. @returns id of the lecture */
export async function setBedDeleted(db: Database, id: string, deleted: boolean): Promise<string> {
  return db.write(async (tx) => {
    const [bed] = await tx
      .update(beds)
      .set({ deletedAt: deleted ? Date.now() : null })
      .where(eq(beds.id, id))
      .returning()
    if (!bed) throw gone('bed')
    await touch(tx, bed.lectureId)
    return bed.lectureId
  })
}
