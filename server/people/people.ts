/** People of a school: who they are, who came, who left. */

import { and, asc, count, eq, isNull, ne } from 'drizzle-orm'
import type { Person } from '#core/people/person.ts'
import type { PersonRole } from '#core/people/rights.ts'
import { message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { accounts, auditEntries, invitations, lectureMembers, people, quotas, sessions } from '#server/db/people-schema.ts'
import { lectures } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { noteDown } from './audit.ts'
import { changeRights, handOver } from './lecture-rights.ts'
import type { SignInLibrary } from './sign-in.ts'

export const noPerson = () => new UserFacingError(message('This person is not here any more.'), 404)

interface NewPerson {
  name: string
  email: string
  role: PersonRole
  password: string
  isVouched?: boolean
}

const LAST_ADMINISTRATOR = message('Nobody else is an administrator. Make somebody one first.')

/** Keeps at least one administrator who may sign in. */
async function keepAdministrator(tx: Tables, but: string) {
  const others = and(eq(people.role, 'administrator'), isNull(people.leftAt), ne(people.id, but))
  if ((await tx.$count(people, others)) === 0) throw new UserFacingError(LAST_ADMINISTRATOR, 409)
}

/**
 * Makes somebody one of the people, with a password.
 *
 * @param isVouched somebody who looks after the server gave the address: only then the school's sign-in may lead to the same person. Else
 * whoever typed another's address would wait there for them
 * @throws UserFacingError when the address is taken
 */
export async function createPerson(
  library: SignInLibrary,
  db: Database,
  { name, email, role, password, isVouched = false }: NewPerson,
): Promise<Person> {
  const address = email.toLowerCase()
  if ((await db.read.$count(people, eq(people.email, address))) > 0)
    throw new UserFacingError(
      message('Somebody with this address is here already. Sign in instead, or ask for a new password.'),
      409,
    )
  const context = await library.$context
  const hashed = await context.password.hash(password)
  const id = crypto.randomUUID()
  const now = new Date()
  const row = { id, name, email: address, emailVerified: isVouched, role, createdAt: now, updatedAt: now }
  await db.write(async (tx) => {
    await tx.insert(people).values(row)
    const account = { id: crypto.randomUUID(), personId: id, accountId: id, providerId: 'credential', password: hashed }
    await tx.insert(accounts).values({ ...account, createdAt: now, updatedAt: now })
  })
  return { id, name, email: address, role }
}

/** Gives somebody another password and ends all their sessions. */
export async function setPassword(library: SignInLibrary, db: Database, personId: string, password: string) {
  const hashed = await (await library.$context).password.hash(password)
  const now = new Date()
  await db.write(async (tx) => {
    const own = and(eq(accounts.personId, personId), eq(accounts.providerId, 'credential'))
    const [had] = await tx.update(accounts).set({ password: hashed, updatedAt: now }).where(own).returning()
    const account = { id: crypto.randomUUID(), personId, accountId: personId, providerId: 'credential', password: hashed }
    if (!had) await tx.insert(accounts).values({ ...account, createdAt: now, updatedAt: now })
    await tx.delete(sessions).where(eq(sessions.personId, personId))
    await noteDown(tx, personId, 'password', personId)
  })
}

/** @returns everybody, with how many lectures each owns */
export async function readPeople(read: Tables) {
  const rows = await read.select().from(people).orderBy(asc(people.name))
  const owned = await read
    .select({ personId: lectureMembers.personId, lectures: count() })
    .from(lectureMembers)
    .innerJoin(lectures, eq(lectures.id, lectureMembers.lectureId))
    .where(and(eq(lectureMembers.right, 'own'), isNull(lectures.deletedAt)))
    .groupBy(lectureMembers.personId)
  const byPerson = new Map(owned.map((row) => [row.personId, row.lectures]))
  return rows.map(({ id, name, email, role, createdAt, leftAt, twoFactorEnabled }) => ({
    ...{ id, name, email, role, hasSecondProof: twoFactorEnabled },
    createdAt: createdAt.getTime(),
    leftAt: leftAt?.getTime() ?? null,
    lectures: byPerson.get(id) ?? 0,
  }))
}

/** @throws UserFacingError when they are not there, or have left */
export async function someoneHere(read: Tables, id: string) {
  const row = await personRow(read, id)
  if (row.leftAt) throw noPerson()
  return row
}

async function personRow(tx: Tables, id: string) {
  const [row] = await tx.select().from(people).where(eq(people.id, id))
  if (!row) throw noPerson()
  return row
}

async function mustOwnNothing(tx: Tables, id: string) {
  const owned = await tx.$count(lectureMembers, and(eq(lectureMembers.personId, id), eq(lectureMembers.right, 'own')))
  if (owned > 0)
    throw new UserFacingError(
      message('{count, plural, one {# lecture is} other {# lectures are}} still theirs. Hand them over first.', {
        count: owned,
      }),
      409,
    )
}

export async function setRole(db: Database, by: Person, id: string, role: PersonRole) {
  await changeRights(db, async (tx) => {
    const row = await personRow(tx, id)
    if (row.role === 'administrator' && role !== 'administrator') await keepAdministrator(tx, id)
    // a reviewer could do nothing to them
    if (role === 'reviewer') await mustOwnNothing(tx, id)
    await tx.update(people).set({ role, updatedAt: new Date() }).where(eq(people.id, id))
    await noteDown(tx, by.id, 'role', id)
  })
}

/** Somebody leaves: they are signed out everywhere and cannot sign in; or they come back. */
export async function setLeft(db: Database, by: Person, id: string, left: boolean) {
  await changeRights(db, async (tx) => {
    const row = await personRow(tx, id)
    if (left && row.role === 'administrator') await keepAdministrator(tx, id)
    await tx
      .update(people)
      .set({ leftAt: left ? new Date() : null, updatedAt: new Date() })
      .where(eq(people.id, id))
    if (left) await tx.delete(sessions).where(eq(sessions.personId, id))
    await noteDown(tx, by.id, left ? 'left' : 'returned', id)
  })
}

/** All lectures of one become another's. @returns how many */
export async function handAllOver(db: Database, by: Person, from: string, to: string): Promise<number> {
  return changeRights(db, async (tx) => {
    await personRow(tx, from)
    const heir = await personRow(tx, to)
    if (heir.role === 'reviewer' || heir.leftAt)
      throw new UserFacingError(message('Lectures can be handed over only to a teacher who is here.'), 422)
    const own = and(eq(lectureMembers.personId, from), eq(lectureMembers.right, 'own'))
    const rows = await tx.select().from(lectureMembers).where(own)
    for (const { lectureId } of rows) {
      await handOver(tx, lectureId, to)
      await noteDown(tx, by.id, 'handed-over', lectureId)
    }
    return rows.length
  })
}

/** Takes somebody and all that is known of them away; lectures must have been handed over before. */
export async function erasePerson(db: Database, by: Person, id: string) {
  await changeRights(db, async (tx) => {
    const row = await personRow(tx, id)
    if (row.role === 'administrator') await keepAdministrator(tx, id)
    await mustOwnNothing(tx, id)
    await tx.update(auditEntries).set({ personId: null }).where(eq(auditEntries.personId, id))
    await tx.update(auditEntries).set({ thing: null }).where(eq(auditEntries.thing, id))
    await tx.update(invitations).set({ invitedBy: null }).where(eq(invitations.invitedBy, id))
    await tx.delete(quotas).where(eq(quotas.of, id))
    await tx.delete(people).where(eq(people.id, id))
    await noteDown(tx, by.id, 'erased')
  })
}
