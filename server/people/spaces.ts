/** Courses and departments: lectures and people that belong together. */

import { randomUUID } from 'node:crypto'
import { and, asc, eq, isNull } from 'drizzle-orm'
import type { Person } from '#core/people/person.ts'
import { rightBySpace, type SpaceRight } from '#core/people/rights.ts'
import { message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { people, spaceMembers, spaces } from '#server/db/people-schema.ts'
import { lectures } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { noteDown } from './audit.ts'
import { changeRights } from './lecture-rights.ts'
import { noPerson } from './people.ts'

const noSpace = () => new UserFacingError(message('This space is not here any more.'), 404)

/** @returns what somebody may do in a space; an administrator looks after all of them */
export async function rightInSpace(read: Tables, { id: personId, role }: Person, spaceId: string): Promise<SpaceRight | null> {
  const [space] = await read
    .select()
    .from(spaces)
    .where(and(eq(spaces.id, spaceId), isNull(spaces.deletedAt)))
  if (!space) return null
  if (role === 'administrator') return 'manage'
  const [own] = await read
    .select()
    .from(spaceMembers)
    .where(and(eq(spaceMembers.spaceId, spaceId), eq(spaceMembers.personId, personId)))
  return own?.right ?? null
}

/** @returns spaces somebody belongs to; all of them for an administrator */
export async function readSpaces(read: Tables, person: Person) {
  const rows = await read.select().from(spaces).where(isNull(spaces.deletedAt)).orderBy(asc(spaces.name))
  const members = await read
    .select({ spaceId: spaceMembers.spaceId, personId: people.id, name: people.name, right: spaceMembers.right })
    .from(spaceMembers)
    .innerJoin(people, eq(people.id, spaceMembers.personId))
    .orderBy(asc(people.name))
  return rows.flatMap(({ id, name }) => {
    const of = members.filter((one) => one.spaceId === id).map(({ spaceId: _, ...member }) => member)
    const own = of.find((one) => one.personId === person.id)?.right ?? null
    if (!own && person.role !== 'administrator') return []
    return [{ id, name, right: person.role === 'administrator' ? ('manage' as const) : own!, members: of }]
  })
}

/** @returns its id; who makes it manages it */
export async function makeSpace(db: Database, by: Person, name: string): Promise<string> {
  const id = randomUUID()
  await changeRights(db, async (tx) => {
    await tx.insert(spaces).values({ id, name, createdAt: Date.now() })
    await tx.insert(spaceMembers).values({ spaceId: id, personId: by.id, right: 'manage' })
    await noteDown(tx, by.id, 'space', id)
  })
  return id
}

/** Its lectures stay with those who own them. */
export async function changeSpace(db: Database, by: Person, id: string, change: { name?: string; deleted?: boolean }) {
  const { name, deleted } = change
  await changeRights(db, async (tx) => {
    const set = {
      ...(name === undefined ? {} : { name }),
      ...(deleted === undefined ? {} : { deletedAt: deleted ? Date.now() : null }),
    }
    const [row] = await tx.update(spaces).set(set).where(eq(spaces.id, id)).returning()
    if (!row) throw noSpace()
    await noteDown(tx, by.id, 'space', id)
  })
}

/** @param right null: they belong to it no more */
export async function setSpaceMember(db: Database, by: Person, spaceId: string, personId: string, right: SpaceRight | null) {
  await changeRights(db, async (tx) => {
    if ((await tx.$count(people, eq(people.id, personId))) === 0) throw noPerson()
    const one = and(eq(spaceMembers.spaceId, spaceId), eq(spaceMembers.personId, personId))
    if (right === null) await tx.delete(spaceMembers).where(one)
    else
      await tx
        .insert(spaceMembers)
        .values({ spaceId, personId, right })
        .onConflictDoUpdate({ target: [spaceMembers.spaceId, spaceMembers.personId], set: { right } })
    await noteDown(tx, by.id, 'space-member', spaceId)
  })
}

/** Lays a lecture into a space, whose people get their rights to it; null takes it out. */
export async function layIntoSpace(db: Database, by: Person, lectureId: string, spaceId: string | null) {
  const right = spaceId === null ? null : await rightInSpace(db.read, by, spaceId)
  if (spaceId !== null && (right === null || !['edit', 'own'].includes(rightBySpace(right))))
    throw new UserFacingError(message('You may put lectures only into spaces whose lectures you may change.'), 403)
  await changeRights(db, async (tx) => {
    await tx.update(lectures).set({ spaceId }).where(eq(lectures.id, lectureId))
    await noteDown(tx, by.id, 'shared', lectureId)
  })
}
