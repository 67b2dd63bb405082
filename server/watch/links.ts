/** Links: the way in for viewers. A link shows the newest edition of its lecture until it is closed or has run out. */
import { and, desc, eq, isNull } from 'drizzle-orm'
import type { Database, Tables } from '#server/db/database.ts'
import { editionFiles, editions, lectures, links } from '#server/db/schema.ts'
import { newToken } from '#server/jobs/publish.ts'
import { Sentence } from '#server/sentence.ts'

export async function readEditions(db: Tables, lectureId: string) {
  const rows = await db
    .select()
    .from(editions)
    .where(and(eq(editions.lectureId, lectureId), isNull(editions.deletedAt)))
    .orderBy(desc(editions.number))
  return Promise.all(
    rows.map(async ({ id, number, createdAt, manifest }) => ({
      id,
      number,
      createdAt,
      lengthSamples: manifest.lengthSamples,
      /** What each slide was, for telling what changed since. */
      slides: manifest.chapters.flatMap(({ slideId, fingerprint }) =>
        slideId === undefined || fingerprint === undefined ? [] : [{ slideId, fingerprint }],
      ),
      files: (await db.select().from(editionFiles).where(eq(editionFiles.editionId, id)))
        .filter((file) => !file.contentType.startsWith('image/'))
        .map(({ name, bytes }) => ({ name, bytes })),
    })),
  )
}

export const readLinks = (db: Tables, lectureId: string) =>
  db.select().from(links).where(eq(links.lectureId, lectureId)).orderBy(desc(links.createdAt))

export async function makeLink(db: Database, lectureId: string, name: string): Promise<string> {
  const token = newToken()
  await db.write((tx) => tx.insert(links).values({ token, lectureId, name, createdAt: Date.now() }))
  return token
}

/** Closes a link, or opens it again. */
export async function setLinkRevoked(db: Database, token: string, revoked: boolean) {
  const [row] = await db.write((tx) =>
    tx
      .update(links)
      .set({ revokedAt: revoked ? Date.now() : null })
      .where(eq(links.token, token))
      .returning(),
  )
  if (!row) throw new Sentence('This link is not here any more.', 404)
}

/** The same words whether a link never was, was closed or has run out: a stranger learns nothing from them. */
const closed = () =>
  new Sentence('This link does not open anything. It may have been closed by the teacher who gave it to you.', 404)

/**
 * @param editionId a certain edition of the link's lecture; without it, the newest
 * @throws Sentence (404) when the link opens none
 */
export async function openLink(db: Tables, token: string, editionId?: string) {
  const [row] = await db
    .select({ link: links, edition: editions })
    .from(links)
    .innerJoin(lectures, and(eq(lectures.id, links.lectureId), isNull(lectures.deletedAt)))
    .innerJoin(editions, and(eq(editions.lectureId, links.lectureId), isNull(editions.deletedAt)))
    .where(and(eq(links.token, token), isNull(links.revokedAt), editionId === undefined ? undefined : eq(editions.id, editionId)))
    .orderBy(desc(editions.number))
    .limit(1)
  if (!row || (row.link.expiresAt !== null && row.link.expiresAt < Date.now())) throw closed()
  return row.edition
}

/** One file of an edition. */
export async function editionFile(db: Tables, editionId: string, name: string) {
  const [row] = await db
    .select()
    .from(editionFiles)
    .where(and(eq(editionFiles.editionId, editionId), eq(editionFiles.name, name)))
  if (!row) throw new Sentence('This edition has no such file.', 404)
  return row
}
