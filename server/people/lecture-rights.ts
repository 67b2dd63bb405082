/** What somebody may do to which lecture: by what they were given on it, and by its space. */

import { and, eq, inArray, isNull, type SQL } from 'drizzle-orm'
import type { Person } from '#core/people/person.ts'
import { type Right, rightBySpace, rightOf } from '#core/people/rights.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { lectureMembers, people, spaceMembers, spaces } from '#server/db/people-schema.ts'
import { lectures } from '#server/db/schema.ts'

let version = 0
/** Another number after each change of anybody's rights by this process. */
export const rightsVersion = () => version

/** A transaction that may change what anybody may do. */
export async function changeRights<T>(db: Database, work: (tx: Tables) => Promise<T>): Promise<T> {
  // not before it is there: who looks meanwhile sees what was
  return db.write(work).finally(() => void version++)
}

/** @returns rights to lectures by their ids; what is not in it is none of theirs */
async function rights(
  read: Tables,
  { id: personId, role }: Person,
  ofMembers?: SQL,
  ofLectures?: SQL,
): Promise<Map<string, Right>> {
  const given = new Map<string, Right[]>()
  const give = (lectureId: string, right: Right) => given.set(lectureId, [...(given.get(lectureId) ?? []), right])
  const own = await read
    .select()
    .from(lectureMembers)
    .where(and(eq(lectureMembers.personId, personId), ofMembers))
  for (const { lectureId, right } of own) give(lectureId, right)
  const bySpace = await read
    .select({ lectureId: lectures.id, right: spaceMembers.right })
    .from(spaceMembers)
    .innerJoin(spaces, eq(spaces.id, spaceMembers.spaceId))
    .innerJoin(lectures, eq(lectures.spaceId, spaceMembers.spaceId))
    .where(and(eq(spaceMembers.personId, personId), isNull(spaces.deletedAt), ofLectures))
  for (const { lectureId, right } of bySpace) give(lectureId, rightBySpace(right))
  return new Map([...given].map(([lectureId, all]) => [lectureId, rightOf(role, all)!]))
}

/** @returns rights to all lectures somebody may see */
export const allRights = (read: Tables, person: Person) => rights(read, person)

/** @returns null for none, and for a lecture that is not there */
export async function rightTo(read: Tables, person: Person, lectureId: string): Promise<Right | null> {
  const found = await rights(read, person, eq(lectureMembers.lectureId, lectureId), eq(lectures.id, lectureId))
  return found.get(lectureId) ?? null
}

/** @returns ids of all who are here and may see a lecture, by themselves or by its space */
export async function peopleOf(read: Tables, lectureId: string): Promise<Set<string>> {
  const own = await read
    .select({ id: people.id })
    .from(lectureMembers)
    .innerJoin(people, and(eq(people.id, lectureMembers.personId), isNull(people.leftAt)))
    .where(eq(lectureMembers.lectureId, lectureId))
  const bySpace = await read
    .select({ id: people.id })
    .from(lectures)
    .innerJoin(spaces, and(eq(spaces.id, lectures.spaceId), isNull(spaces.deletedAt)))
    .innerJoin(spaceMembers, eq(spaceMembers.spaceId, spaces.id))
    .innerJoin(people, and(eq(people.id, spaceMembers.personId), isNull(people.leftAt)))
    .where(eq(lectures.id, lectureId))
  return new Set([...own, ...bySpace].map(({ id }) => id))
}

export interface LectureMember {
  personId: string
  name: string
  email: string
  right: Right
}

/** @returns those a lecture was shared with by itself, its owner first */
export async function readMembers(read: Tables, lectureId: string): Promise<LectureMember[]> {
  const rows = await read
    .select({ personId: people.id, name: people.name, email: people.email, right: lectureMembers.right })
    .from(lectureMembers)
    .innerJoin(people, eq(people.id, lectureMembers.personId))
    .where(eq(lectureMembers.lectureId, lectureId))
  return rows.sort((a, b) => Number(b.right === 'own') - Number(a.right === 'own') || a.name.localeCompare(b.name))
}

/** @returns names of the owners of lectures, by the lecture */
export async function readOwners(read: Tables, lectureIds: readonly string[]): Promise<Map<string, string>> {
  const rows = await read
    .select({ lectureId: lectureMembers.lectureId, name: people.name })
    .from(lectureMembers)
    .innerJoin(people, eq(people.id, lectureMembers.personId))
    .where(and(inArray(lectureMembers.lectureId, [...lectureIds]), eq(lectureMembers.right, 'own')))
  return new Map(rows.map(({ lectureId, name }) => [lectureId, name]))
}

/** Gives somebody a right to a lecture, in the place of what they had; null takes it away. */
export async function giveRight(tx: Tables, lectureId: string, personId: string, right: Right | null) {
  const one = and(eq(lectureMembers.lectureId, lectureId), eq(lectureMembers.personId, personId))
  if (right === null) await tx.delete(lectureMembers).where(one)
  else
    await tx
      .insert(lectureMembers)
      .values({ lectureId, personId, right })
      .onConflictDoUpdate({ target: [lectureMembers.lectureId, lectureMembers.personId], set: { right } })
}

/** A lecture gets another owner; who owned it before may still change it. */
export async function handOver(tx: Tables, lectureId: string, personId: string) {
  await tx
    .update(lectureMembers)
    .set({ right: 'edit' })
    .where(and(eq(lectureMembers.lectureId, lectureId), eq(lectureMembers.right, 'own')))
  await giveRight(tx, lectureId, personId, 'own')
}
