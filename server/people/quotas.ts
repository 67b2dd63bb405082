/** How much people and spaces use of a school's server, how much they may, and what happens where it is all used. */

import { and, asc, eq, isNotNull, isNull, sum } from 'drizzle-orm'
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

const EVERYBODY = 'everybody'
const NOTHING: Use = { recordedSeconds: 0, editionsBytes: 0 }

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

/**
 * What is used by each of those that lectures count for.
 *
 * @param of whom: owners of lectures, or the spaces they lie in
 * @param only one of them; absent: all
 */
async function usedBy(read: Tables, of: 'owner' | 'space', only?: string): Promise<Map<string, Use>> {
  const key = of === 'owner' ? lectureMembers.personId : lectures.spaceId
  const which = only === undefined ? isNotNull(key) : eq(key, only)
  const owner = and(eq(lectureMembers.lectureId, lectures.id), eq(lectureMembers.right, 'own'))
  const recorded = await read
    .select({ key, samples: sum(takes.samples) })
    .from(takes)
    .innerJoin(slides, eq(slides.id, takes.slideId))
    .innerJoin(lectures, eq(lectures.id, slides.lectureId))
    .leftJoin(lectureMembers, owner)
    .where(and(which, isShownTake))
    .groupBy(key)
  const published = await read
    .select({ key, bytes: sum(editionFiles.bytes) })
    .from(editionFiles)
    .innerJoin(editions, and(eq(editions.id, editionFiles.editionId), isNull(editions.deletedAt)))
    .innerJoin(lectures, eq(lectures.id, editions.lectureId))
    .leftJoin(lectureMembers, owner)
    .where(which)
    .groupBy(key)
  const used = new Map<string, Use>()
  for (const { key: id, samples } of recorded) used.set(id!, { recordedSeconds: toSeconds(Number(samples)), editionsBytes: 0 })
  for (const { key: id, bytes } of published) used.set(id!, { ...(used.get(id!) ?? NOTHING), editionsBytes: Number(bytes) })
  return used
}

/** @returns what somebody uses and may use, in the lectures they own */
export async function roomOf(read: Tables, personId: string): Promise<{ use: Use; quota: Quota }> {
  const quota = quotaOf(await readQuota(read, personId), await readQuota(read, EVERYBODY))
  return { use: (await usedBy(read, 'owner', personId)).get(personId) ?? NOTHING, quota }
}

type Named = { id: string; name: string } & Use

/** @returns what all people use, by their names */
export async function usedByPeople(read: Tables): Promise<Named[]> {
  const all = await read.select({ id: people.id, name: people.name }).from(people).orderBy(asc(people.name))
  const used = await usedBy(read, 'owner')
  return all.map((one) => ({ ...one, ...(used.get(one.id) ?? NOTHING) }))
}

/** @returns what each space uses that is there */
export async function usedBySpaces(read: Tables): Promise<Named[]> {
  const isThere = isNull(spaces.deletedAt)
  const all = await read.select({ id: spaces.id, name: spaces.name }).from(spaces).where(isThere).orderBy(asc(spaces.name))
  const used = await usedBy(read, 'space')
  return all.map((one) => ({ ...one, ...(used.get(one.id) ?? NOTHING) }))
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
  const use = (await usedBy(read, 'space', spaceId)).get(spaceId) ?? NOTHING
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
