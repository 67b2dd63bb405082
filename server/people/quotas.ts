/** How much people and spaces use of a school's server, how much they may, and what happens where it is all used. */

import { and, asc, eq, inArray, isNull, type SQL, sum } from 'drizzle-orm'
import type { Person } from '#core/people/person.ts'
import { NO_QUOTA, Quota, quotaOf, sharesUsed, type Use } from '#core/people/quota.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { type Message, message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { lectureMembers, people, quotas, spaces } from '#server/db/people-schema.ts'
import { editionFiles, editions, lectures, slides, takes } from '#server/db/schema.ts'
import { isShownTake } from '#server/db/shown.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { noteDown } from './audit.ts'
import type { School } from './school.ts'

export const EVERYBODY = 'everybody'

async function readQuota(read: Tables, of: string): Promise<Quota> {
  const [row] = await read.select().from(quotas).where(eq(quotas.of, of))
  return row ? Quota.parse({ ...NO_QUOTA, ...row.quota }) : NO_QUOTA
}

/** @returns what was set, by who it holds for */
export async function readQuotas(read: Tables): Promise<Record<string, Quota>> {
  const rows = await read.select().from(quotas)
  return Object.fromEntries(rows.map(({ of, quota }) => [of, Quota.parse({ ...NO_QUOTA, ...quota })]))
}

/** @param of somebody's id, that of a space, or `everybody` @throws UserFacingError (404) where there is nobody of that name */
export async function setQuota(db: Database, by: Person, of: string, quota: Quota) {
  await db.write(async (tx) => {
    const known =
      of === EVERYBODY || (await tx.$count(people, eq(people.id, of))) + (await tx.$count(spaces, eq(spaces.id, of))) > 0
    if (!known) throw new UserFacingError(message('There is nobody and no space of this name any more.'), 404)
    const isNone = Object.values(quota).every((value) => value === null)
    if (isNone) await tx.delete(quotas).where(eq(quotas.of, of))
    else await tx.insert(quotas).values({ of, quota }).onConflictDoUpdate({ target: quotas.of, set: { quota } })
    await noteDown(tx, by.id, 'quota', of)
  })
}

/** @param which lectures */
async function usedIn(read: Tables, which: SQL): Promise<Use> {
  const chosen = read.select({ id: lectures.id }).from(lectures).where(which)
  const [recorded] = await read
    .select({ samples: sum(takes.samples) })
    .from(takes)
    .innerJoin(slides, eq(slides.id, takes.slideId))
    .where(and(inArray(slides.lectureId, chosen), isShownTake))
  const [published] = await read
    .select({ bytes: sum(editionFiles.bytes) })
    .from(editionFiles)
    .innerJoin(editions, eq(editions.id, editionFiles.editionId))
    .where(and(inArray(editions.lectureId, chosen), isNull(editions.deletedAt)))
  return { recordedSeconds: toSeconds(Number(recorded?.samples ?? 0)), editionsBytes: Number(published?.bytes ?? 0) }
}

/** @returns what somebody uses and may use, in the lectures they own */
export async function roomOf(read: Tables, personId: string): Promise<{ use: Use; quota: Quota }> {
  const owned = read
    .select({ id: lectureMembers.lectureId })
    .from(lectureMembers)
    .where(and(eq(lectureMembers.personId, personId), eq(lectureMembers.right, 'own')))
  const quota = quotaOf(await readQuota(read, personId), await readQuota(read, EVERYBODY))
  return { use: await usedIn(read, inArray(lectures.id, owned)), quota }
}

/** @returns what each space uses that is there */
export async function usedInSpaces(read: Tables) {
  const rows = await read
    .select({ id: spaces.id, name: spaces.name })
    .from(spaces)
    .where(isNull(spaces.deletedAt))
    .orderBy(asc(spaces.name))
  const used: ((typeof rows)[number] & Use)[] = []
  for (const row of rows) used.push({ ...row, ...(await usedIn(read, eq(lectures.spaceId, row.id))) })
  return used
}

/** Whom a lecture counts for: its owner, and the space it lies in. */
async function countsFor(read: Tables, lectureId: string) {
  const [row] = await read
    .select({ personId: lectureMembers.personId, spaceId: lectures.spaceId })
    .from(lectures)
    .leftJoin(lectureMembers, and(eq(lectureMembers.lectureId, lectures.id), eq(lectureMembers.right, 'own')))
    .where(eq(lectures.id, lectureId))
  return { personId: row?.personId ?? null, spaceId: row?.spaceId ?? null }
}

const FULL = {
  recorded: {
    owner: message(
      'All the hours of recordings that the owner of this lecture has are used. Delete takes that are not needed, or ask an administrator for more.',
    ),
    space: message(
      'All the hours of recordings that the space of this lecture has are used. Delete takes that are not needed, or ask an administrator for more.',
    ),
  },
  editions: {
    owner: message(
      'All the room for editions that the owner of this lecture has is used. Delete editions that are not needed, or ask an administrator for more.',
    ),
    space: message(
      'All the room for editions that the space of this lecture has is used. Delete editions that are not needed, or ask an administrator for more.',
    ),
  },
} satisfies Record<string, Record<string, Message>>

/**
 * Before files of sound are brought in, or an edition is made. Nobody asks before a recording: what was said cannot be said again.
 *
 * @throws UserFacingError (409) where all is used that who owns the lecture, or its space, may use
 */
export async function mustHaveRoom(
  { db, school }: { db: Database; school: School | null },
  lectureId: string,
  kind: keyof typeof FULL,
) {
  if (!school) return
  const { read } = db
  const { personId, spaceId } = await countsFor(read, lectureId)
  if (personId !== null) {
    const { use, quota } = await roomOf(read, personId)
    if ((sharesUsed(use, quota)[kind] ?? 0) >= 1) throw new UserFacingError(FULL[kind].owner, 409)
  }
  if (spaceId === null) return
  const quota = await readQuota(read, spaceId)
  const use = await usedIn(read, eq(lectures.spaceId, spaceId))
  if ((sharesUsed(use, quota)[kind] ?? 0) >= 1) throw new UserFacingError(FULL[kind].space, 409)
}

/** @returns how many editions of a lecture are kept; null for all of them */
export async function editionsKept(read: Tables, lectureId: string): Promise<number | null> {
  const { personId, spaceId } = await countsFor(read, lectureId)
  const own = personId === null ? NO_QUOTA : await readQuota(read, personId)
  const counts = [
    quotaOf(own, await readQuota(read, EVERYBODY)).editionsKept,
    spaceId === null ? null : (await readQuota(read, spaceId)).editionsKept,
  ].filter((kept) => kept !== null)
  return counts.length === 0 ? null : Math.min(...counts)
}
