/** Editions as their author sees them. */

import { and, count, desc, eq, inArray, isNull, notInArray } from 'drizzle-orm'
import { videosOf } from '#core/edition/manifest.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { editionFiles, editions } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { safeName } from '#server/storage/zip-stream.ts'
import { readWatching } from './watching.ts'

export async function readEditions(db: Tables, lectureId: string) {
  const rows = await db
    .select()
    .from(editions)
    .where(and(eq(editions.lectureId, lectureId), isNull(editions.deletedAt)))
    .orderBy(desc(editions.number))
  const ids = rows.map((row) => row.id)
  const files = await db.select().from(editionFiles).where(inArray(editionFiles.editionId, ids))
  const watched = await readWatching(db, ids)
  const named = files.filter((file) => !file.contentType.startsWith('image/webp'))
  return rows.map(({ id, number, createdAt, manifest }) => ({
    id,
    number,
    createdAt,
    lengthSamples: manifest.lengthSamples,
    loudnessLufs: manifest.loudnessLufs ?? null,
    videos: videosOf(manifest),
    /** What each slide was, for telling what changed since. */
    slides: manifest.chapters.flatMap(({ slideId, fingerprint, title }) =>
      slideId === undefined || fingerprint === undefined ? [] : [{ slideId, fingerprint, title }],
    ),
    /** The same of all that is no slide's; null in early editions. */
    settings: manifest.settings ?? null,
    /** What is watched of it, and where its slides begin, seconds; null where nothing was counted. */
    watching: watched.get(id) ?? null,
    slideStarts: manifest.chapters.map(({ startSamples }) => toSeconds(startSamples)),
    files: named.filter((file) => file.editionId === id).map(({ name, bytes }) => ({ name, bytes })),
  }))
}

/** How many editions each lecture has that are not deleted. */
export async function countEditions(db: Tables, lectureIds: readonly string[]): Promise<Map<string, number>> {
  const rows = await db
    .select({ lectureId: editions.lectureId, count: count() })
    .from(editions)
    .where(and(inArray(editions.lectureId, [...lectureIds]), isNull(editions.deletedAt)))
    .groupBy(editions.lectureId)
  return new Map(rows.map((row) => [row.lectureId, row.count]))
}

/** Lays all but the newest editions of a lecture into the trash. */
export async function keepNewestEditions(tx: Tables, lectureId: string, kept: number) {
  const newest = tx
    .select({ id: editions.id })
    .from(editions)
    .where(and(eq(editions.lectureId, lectureId), isNull(editions.deletedAt)))
    .orderBy(desc(editions.number))
    .limit(kept)
  await tx
    .update(editions)
    .set({ deletedAt: Date.now() })
    .where(and(eq(editions.lectureId, lectureId), isNull(editions.deletedAt), notInArray(editions.id, newest)))
}

/** Takes an edition away, or brings it back. @returns id of its lecture */
export async function setEditionDeleted(db: Database, id: string, deleted: boolean): Promise<string> {
  const [row] = await db.write((tx) =>
    tx
      .update(editions)
      .set({ deletedAt: deleted ? Date.now() : null })
      .where(eq(editions.id, id))
      .returning(),
  )
  if (!row) throw new UserFacingError(message('This edition is not here any more.'), 404)
  return row.lectureId
}

/** The name under which a file of an edition is kept: "Rain gauge.mp4", "Rain gauge, small.mp4", "Rain gauge, captions.en.vtt". */
export function downloadName(title: string, name: string): string {
  const video = /^video(?:-([a-z]+))?(\.[a-z0-9]+)$/.exec(name)
  return video ? `${safeName(title)}${video[1] ? `, ${video[1]}` : ''}${video[2]}` : `${safeName(title)}, ${name}`
}

/** @throws UserFacingError (404) when there is none */
export async function readEdition(db: Tables, id: string) {
  const [row] = await db.select().from(editions).where(eq(editions.id, id))
  if (!row) throw new UserFacingError(message('This edition is not here any more.'), 404)
  return row
}

/** Names and sizes of an edition's files. */
export const filesOfEdition = (db: Tables, editionId: string) =>
  db
    .select({ name: editionFiles.name, bytes: editionFiles.bytes })
    .from(editionFiles)
    .where(eq(editionFiles.editionId, editionId))

/** One file of an edition. */
export async function editionFile(db: Tables, editionId: string, name: string) {
  const [row] = await db
    .select()
    .from(editionFiles)
    .where(and(eq(editionFiles.editionId, editionId), eq(editionFiles.name, name)))
  if (!row) throw new UserFacingError(message('This edition has no such file.'), 404)
  return row
}

/** That of the first captions, or of a further language of them. */
export const isTranscriptPage = (name: string) => /^transcript(\.[\w-]+)?\.html$/.test(name)
