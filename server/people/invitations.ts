/** Links that let somebody in once: to join, or to choose a new password where no mail is set up. */

import { createHash, randomBytes } from 'node:crypto'
import { and, eq, isNull } from 'drizzle-orm'
import type { Person } from '#core/people/person.ts'
import type { PersonRole } from '#core/people/rights.ts'
import { message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { invitations, people, spaceMembers } from '#server/db/people-schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { noteDown } from './audit.ts'
import { createPerson, noPerson, setPassword } from './people.ts'
import type { SignInLibrary } from './sign-in.ts'

const DAYS = 14
const RESET_HOURS = 24

const hashOf = (token: string) => createHash('sha256').update(token).digest('hex')

export interface NewInvitation {
  role: PersonRole
  email: string
  spaceId: string | null
}

/** @returns what the link says, which is kept nowhere */
export async function invite(db: Database, by: Person, { role, email, spaceId }: NewInvitation): Promise<string> {
  const token = randomBytes(24).toString('base64url')
  const now = Date.now()
  const row = { hash: hashOf(token), kind: 'join' as const, role, email: email.toLowerCase(), spaceId, invitedBy: by.id }
  await db.write(async (tx) => {
    if (email && (await tx.$count(people, eq(people.email, email.toLowerCase()))) > 0)
      throw new UserFacingError(message('Somebody with this address is here already.'), 409)
    await tx.insert(invitations).values({ ...row, createdAt: now, expiresAt: now + DAYS * 86_400_000 })
    await noteDown(tx, by.id, 'invited')
  })
  return token
}

/** A link by which somebody chooses a new password. Those that were made before open nothing any more. @param by null: whoever says they are it, and may be a stranger */
export async function inviteToReset(
  db: Database,
  by: Person | null,
  personId: string,
): Promise<{ token: string; email: string }> {
  const token = randomBytes(24).toString('base64url')
  const now = Date.now()
  const email = await db.write(async (tx) => {
    const [row] = await tx.select().from(people).where(eq(people.id, personId))
    if (!row) throw noPerson()
    const earlier = and(eq(invitations.kind, 'password'), eq(invitations.personId, personId), isNull(invitations.usedAt))
    await tx.update(invitations).set({ usedAt: now }).where(earlier)
    const made = {
      hash: hashOf(token),
      kind: 'password' as const,
      role: row.role,
      email: row.email,
      personId,
      invitedBy: by?.id ?? null,
    }
    await tx.insert(invitations).values({ ...made, createdAt: now, expiresAt: now + RESET_HOURS * 3_600_000 })
    await noteDown(tx, by?.id ?? null, by ? 'invited' : 'password-asked', personId)
    return row.email
  })
  return { token, email }
}

/** @throws UserFacingError when it is not there, was used, or is too old */
export async function readInvitation(read: Tables, token: string) {
  const [row] = await read
    .select()
    .from(invitations)
    .where(eq(invitations.hash, hashOf(token)))
  if (!row) throw new UserFacingError(message('There is no such invitation. Ask for a new one.'), 404)
  if (row.usedAt) throw new UserFacingError(message('This invitation was used already. Sign in, or ask for a new one.'), 409)
  if (row.expiresAt < Date.now()) throw new UserFacingError(message('This invitation is too old. Ask for a new one.'), 409)
  return row
}

/** Marks it as used, unless somebody was quicker. */
async function spend(db: Database, hash: string) {
  const [used] = await db.write((tx) =>
    tx
      .update(invitations)
      .set({ usedAt: Date.now() })
      .where(and(eq(invitations.hash, hash), isNull(invitations.usedAt)))
      .returning(),
  )
  if (!used) throw new UserFacingError(message('This invitation was used already. Sign in, or ask for a new one.'), 409)
}

const giveBack = (db: Database, hash: string) =>
  db.write((tx) => tx.update(invitations).set({ usedAt: null }).where(eq(invitations.hash, hash)))

/** Somebody comes by an invitation: as one of the people, or with a new password. @returns their address */
export async function accept(
  library: SignInLibrary,
  db: Database,
  token: string,
  given: { name: string; email: string; password: string },
): Promise<string> {
  const invitation = await readInvitation(db.read, token)
  await spend(db, invitation.hash)
  try {
    if (invitation.kind === 'password') {
      await setPassword(library, db, invitation.personId!, given.password)
      return invitation.email
    }
    const email = invitation.email || given.email
    const person = await createPerson(library, db, { ...given, email, role: invitation.role, isVouched: invitation.email !== '' })
    const { spaceId, role } = invitation
    await db.write(async (tx) => {
      const right = role === 'reviewer' ? 'comment' : 'edit'
      if (spaceId) await tx.insert(spaceMembers).values({ spaceId, personId: person.id, right }).onConflictDoNothing()
      await noteDown(tx, person.id, 'joined')
    })
    return person.email
  } catch (error) {
    await giveBack(db, invitation.hash)
    throw error
  }
}
