/** Links: the way in for viewers. A link shows the newest edition of its lecture until it is closed or has run out. */

import { and, desc, eq, isNull, sql } from 'drizzle-orm'
import { z } from 'zod'
import { message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { DOWNLOADS, editions, lectures, links } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { type EmbedIn, Site } from './embedding.ts'
import { admit, hashPasscode, isAdmission, type PasscodeTries } from './passcode.ts'
import { newToken } from './token.ts'

/** They stand in a header of each answer, and forwarders bound those. */
const MOST_SITES = 20

export const LinkChange = z.object({
  name: z.string().trim().min(1, message('A link needs a name.').id).max(100).optional(),
  revoked: z.boolean().optional(),
  /** Milliseconds since 1970; null: it never runs out. */
  expiresAt: z.number().int().positive().nullable().optional(),
  /** null takes the passcode away. */
  passcode: z.string().min(4, message('A passcode has 4 characters at least.').id).max(200).nullable().optional(),
  downloads: z.array(z.enum(DOWNLOADS)).optional(),
  /** Sites that may show its page within their own: null for none, all of them where the list is empty. */
  embedIn: z.array(Site).max(MOST_SITES, message('A list has 20 sites at most.').id).nullable().optional(),
  /** Only people of the school may watch. */
  needsSignIn: z.boolean().optional(),
})
export type LinkChange = z.infer<typeof LinkChange>

export async function readLinks(db: Tables, lectureId: string) {
  const rows = await db.select().from(links).where(eq(links.lectureId, lectureId)).orderBy(desc(links.createdAt))
  return rows.map(({ token, name, createdAt, expiresAt, revokedAt, passcode, views, downloads, embedIn, needsSignIn }) => ({
    token,
    name,
    createdAt,
    expiresAt,
    revokedAt,
    hasPasscode: passcode !== null,
    views,
    downloads: downloads ?? [...DOWNLOADS],
    embedIn,
    needsSignIn,
  }))
}

export async function makeLink(db: Database, lectureId: string, name: string): Promise<string> {
  const token = newToken()
  await db.write((tx) => tx.insert(links).values({ token, lectureId, name, createdAt: Date.now() }))
  return token
}

/** @returns id of the link's lecture */
export async function changeLink(db: Database, token: string, change: LinkChange): Promise<string> {
  const { revoked, passcode, ...rest } = change
  const hashed = passcode ? await hashPasscode(passcode) : passcode
  const [row] = await db.write((tx) =>
    tx
      .update(links)
      .set({
        ...rest,
        // an update needs one value at least
        token,
        ...(revoked === undefined ? {} : { revokedAt: revoked ? Date.now() : null }),
        ...(hashed === undefined ? {} : { passcode: hashed }),
      })
      .where(eq(links.token, token))
      .returning(),
  )
  if (!row) throw new UserFacingError(message('This link is not here any more.'), 404)
  return row.lectureId
}

/** The same words whether a link never was, was closed or has run out: a stranger learns nothing from them. */
export const closed = () =>
  new UserFacingError(
    message('This link does not open anything. It may have been closed by the teacher who gave it to you.'),
    404,
  )

/** What a browser has to show for itself. */
export interface Shown {
  /** Of a passcode given before. */
  admitted: string | undefined
  isSignedIn: boolean
}

const unknown = () =>
  new UserFacingError(message('Only people of this school may watch this lecture. Sign in first.'), 401, { needsSignIn: true })

const locked = () =>
  new UserFacingError(message('This lecture opens with a passcode. Ask the teacher who gave you the link.'), 401)

type Link = typeof links.$inferSelect

/** @throws UserFacingError (404) when it has run out, (401) when it wants a passcode or a sign-in first */
export function mustAdmit(link: Link, { admitted, isSignedIn }: Shown) {
  if (link.expiresAt !== null && link.expiresAt < Date.now()) throw closed()
  if (link.needsSignIn && !isSignedIn) throw unknown()
  if (link.passcode !== null && !isAdmission(link.token, link.passcode, admitted)) throw locked()
}

/** @returns a link that leads to an edition, without what the edition says; null where it leads to none */
export async function linkTo(db: Tables, token: string, editionId: string): Promise<Link | null> {
  const [row] = await db
    .select({ link: links })
    .from(links)
    .innerJoin(lectures, and(eq(lectures.id, links.lectureId), isNull(lectures.deletedAt)))
    .innerJoin(editions, and(eq(editions.lectureId, links.lectureId), isNull(editions.deletedAt)))
    .where(and(eq(links.token, token), isNull(links.revokedAt), eq(editions.id, editionId)))
  return row?.link ?? null
}

/** An open link and the edition it shows, whether or not a passcode was given yet. */
async function findLink(db: Tables, token: string, editionId?: string) {
  const [row] = await db
    .select({ link: links, edition: editions })
    .from(links)
    .innerJoin(lectures, and(eq(lectures.id, links.lectureId), isNull(lectures.deletedAt)))
    .innerJoin(editions, and(eq(editions.lectureId, links.lectureId), isNull(editions.deletedAt)))
    .where(and(eq(links.token, token), isNull(links.revokedAt), editionId === undefined ? undefined : eq(editions.id, editionId)))
    .orderBy(desc(editions.number))
    .limit(1)
  if (!row || (row.link.expiresAt !== null && row.link.expiresAt < Date.now())) throw closed()
  return row
}

/**
 * @param editionId a certain edition of the link's lecture; without it, the newest
 * @throws UserFacingError (404) when the link opens none, (401) when it wants a passcode or a sign-in first
 */
export async function openLink(db: Tables, token: string, shown: Shown, editionId?: string) {
  const { link, edition } = await findLink(db, token, editionId)
  mustAdmit(link, shown)
  return { ...edition, downloads: link.downloads ?? [...DOWNLOADS], embedIn: link.embedIn }
}

/** @returns which sites may show the page; undefined where there is nothing to open, with a passcode or without */
export const sitesOf = (db: Tables, token: string): Promise<EmbedIn | undefined> =>
  findLink(db, token).then(
    ({ link }) => link.embedIn,
    () => undefined,
  )

/** @throws UserFacingError (404) when there is nothing to open */
export const mustBeOpen = (db: Tables, token: string) => findLink(db, token)

/**
 * @param address who sent it
 * @returns what the browser shows from now on
 * @throws UserFacingError (401) for a wrong passcode, (429) while none is taken
 */
export async function unlock(db: Tables, tries: PasscodeTries, token: string, address: string, given: string): Promise<string> {
  const { link } = await findLink(db, token)
  return admit(tries, { token, kept: link.passcode }, address, given)
}

/** One more who began to watch. */
export async function countView(db: Database, token: string) {
  await db.write((tx) =>
    tx
      .update(links)
      .set({ views: sql`${links.views} + 1` })
      .where(eq(links.token, token)),
  )
}
