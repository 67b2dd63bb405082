/** What a school's server keeps beside its lectures: who signs in with what, and who asks. */

import { randomBytes, randomInt, timingSafeEqual } from 'node:crypto'
import { and, asc, eq, isNull, lt, notInArray } from 'drizzle-orm'
import type { Person } from '#core/people/person.ts'
import { message } from '#core/words/say.ts'
import type { Config } from '#server/config/config.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { invitations, lectureMembers, people, serverKeys, sessions, verifications } from '#server/db/people-schema.ts'
import { lectures } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { noteDown } from './audit.ts'
import { giveRight } from './lecture-rights.ts'
import { createPerson } from './people.ts'
import { type LettersAsked, lettersAsked, type Mail, mailBy } from './sign-in/mail.ts'
import { type SignInTries, signInTries } from './sign-in/sign-in-tries.ts'
import { type SignInLibrary, signInLibrary } from './sign-in.ts'

/** For so long somebody's session is taken for what it was when it was last looked up. */
const REMEMBERED_MS = 5000
const MOST_REMEMBERED = 10_000
/** One that is too old says so for so long. */
const INVITATIONS_KEPT_MS = 90 * 24 * 3600_000
/** Read aloud and typed: no letter that looks like another. */
const CODE_LETTERS = 'ABCDEFGHJKMNPQRSTUVWXYZ23456789'

export interface School {
  library: SignInLibrary
  tries: SignInTries
  /** Null: nobody gets letters, and links are handed on by hand. */
  mail: Mail | null
  letters: LettersAsked
  /** Signs what browsers keep. */
  secret: string
  /** What the first visitor says to become the administrator; null once there is one. */
  setUpCode(): string | null
  /** Whether nobody looks after the server yet. */
  needsSetUp(): Promise<boolean>
  /** @returns who sent these headers, and what their browser is to keep from now on */
  whoSent(headers: Headers): Promise<{ person: Person | null; keep: string[] }>
  /** After a change of somebody's role, session or right to be here. */
  forget(): void
  /** @returns null where the code is wrong */
  setUp(code: string, given: { name: string; email: string; password: string }): Promise<Person | null>
}

async function secretOf(db: Database): Promise<string> {
  const named = eq(serverKeys.name, 'sign-in')
  const [known] = await db.read.select().from(serverKeys).where(named)
  if (known) return known.value
  const value = randomBytes(32).toString('base64')
  await db.write((tx) => tx.insert(serverKeys).values({ name: 'sign-in', value }).onConflictDoNothing())
  return (await db.read.select().from(serverKeys).where(named))[0]!.value
}

const sameText = (a: string, b: string) => {
  const [one, other] = [Buffer.from(a), Buffer.from(b)]
  return one.length === other.length && timingSafeEqual(one, other)
}

const isAdministrator = and(eq(people.role, 'administrator'), isNull(people.leftAt))
/** People of an identity provider may come before anybody looks after the server. */
const hasAdministrator = async (db: Database) => (await db.read.$count(people, isAdministrator)) > 0

/** The first administrator, who owns what was made here before there were people. */
async function firstAdministrator(
  library: SignInLibrary,
  db: Database,
  given: { name: string; email: string; password: string },
) {
  if (await hasAdministrator(db)) throw new UserFacingError(message('This server is set up already. Sign in.'), 409)
  const person = await createPerson(library, db, { ...given, role: 'administrator', isVouched: true })
  await db.write(async (tx) => {
    await adopt(tx, person.id)
    await noteDown(tx, person.id, 'set-up')
  })
  return person
}

/** Lectures that are nobody's, as those made before there were people, or brought by the command line, become an administrator's. */
async function adopt(tx: Tables, personId: string) {
  const owned = tx.select({ id: lectureMembers.lectureId }).from(lectureMembers).where(eq(lectureMembers.right, 'own'))
  const free = await tx.select({ id: lectures.id }).from(lectures).where(notInArray(lectures.id, owned))
  for (const { id } of free) {
    await giveRight(tx, id, personId, 'own')
    await noteDown(tx, personId, 'handed-over', id)
  }
}

/** Sessions, sign-ins that were begun, and invitations that ran out long ago. */
export async function clearOutdated(db: Database, now = new Date()) {
  await db.write(async (tx) => {
    await tx.delete(sessions).where(lt(sessions.expiresAt, now))
    await tx.delete(verifications).where(lt(verifications.expiresAt, now))
    await tx.delete(invitations).where(lt(invitations.expiresAt, now.getTime() - INVITATIONS_KEPT_MS))
  })
}

/** To whoever is an administrator for longest; where nobody is one yet they wait. */
export async function adoptByFirst(db: Database) {
  const oldest = asc(people.createdAt)
  const [first] = await db.read.select({ id: people.id }).from(people).where(isAdministrator).orderBy(oldest).limit(1)
  if (first) await db.write((tx) => adopt(tx, first.id))
}

export async function openSchool(config: Config, db: Database): Promise<School> {
  const secret = await secretOf(db)
  const library = signInLibrary(config, db, secret)
  const isNew = !(await hasAdministrator(db))
  let code = isNew ? Array.from({ length: 8 }, () => CODE_LETTERS[randomInt(CODE_LETTERS.length)]).join('') : null
  let setting: Promise<unknown> = Promise.resolve()
  const remembered = new Map<string, { person: Person | null; until: number }>()
  /** Another number after each time that all is forgotten. */
  let generation = 0
  return {
    library,
    tries: signInTries(),
    mail: config.mail && mailBy(config.mail),
    letters: lettersAsked(),
    secret,
    setUpCode: () => code,
    async needsSetUp() {
      // one may have come by the school's sign-in
      if (code !== null && (await hasAdministrator(db))) code = null
      return code !== null
    },
    async whoSent(headers) {
      const cookie = headers.get('cookie') ?? ''
      if (!cookie.includes('session_token')) return { person: null, keep: [] }
      const known = remembered.get(cookie)
      if (known && known.until > performance.now()) return { person: known.person, keep: [] }
      const asked = generation
      const { response, headers: answered } = await library.api.getSession({ headers, returnHeaders: true })
      const [row] = response
        ? await db.read
            .select()
            .from(people)
            .where(and(eq(people.id, response.user.id), isNull(people.leftAt)))
        : []
      const person = row ? { id: row.id, name: row.name, email: row.email, role: row.role } : null
      // what was looked up before a change is not remembered after it, and nothing of what strangers send
      if (person && asked === generation) {
        remembered.delete(cookie)
        remembered.set(cookie, { person, until: performance.now() + REMEMBERED_MS })
        if (remembered.size > MOST_REMEMBERED) remembered.delete(remembered.keys().next().value!)
      }
      return { person, keep: person ? answered.getSetCookie() : [] }
    },
    forget() {
      generation++
      remembered.clear()
    },
    setUp(given, who) {
      const result = setting.then(async () => {
        if (code === null) throw new UserFacingError(message('This server is set up already. Sign in.'), 409)
        if (!sameText(given.trim().toUpperCase(), code)) return null
        const person = await firstAdministrator(library, db, who)
        code = null
        return person
      })
      setting = result.catch(() => {})
      return result
    },
  }
}
