/** Tables of a school's server: who may sign in, with what, and what each may do. With one person alone they stay empty. */

import { index, integer, primaryKey, real, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core'
import { AUDITED } from '#core/people/audited.ts'
import type { Quota } from '#core/people/quota.ts'
import { PERSON_ROLES, RIGHTS, SPACE_RIGHTS } from '#core/people/rights.ts'
import { lectures, slides } from './schema.ts'

/** Moments as the library that signs people in wants them. */
const moment = () => integer({ mode: 'timestamp_ms' })
const created = () => moment().notNull()

export const people = sqliteTable('people', {
  id: text().primaryKey(),
  name: text().notNull(),
  email: text().notNull().unique(),
  /** Somebody who looks after the server gave it: the school's sign-in by it leads here. */
  emailVerified: integer({ mode: 'boolean' }).notNull().default(false),
  image: text(),
  role: text({ enum: PERSON_ROLES }).notNull(),
  /** A second proof is asked for after the password. */
  twoFactorEnabled: integer({ mode: 'boolean' }).notNull().default(false),
  createdAt: created(),
  updatedAt: created(),
  /** Since when they may not sign in any more. */
  leftAt: moment(),
})

const person = () =>
  text()
    .notNull()
    .references(() => people.id, { onDelete: 'cascade' })

export const sessions = sqliteTable(
  'sessions',
  {
    id: text().primaryKey(),
    personId: person(),
    token: text().notNull().unique(),
    expiresAt: created(),
    ipAddress: text(),
    userAgent: text(),
    createdAt: created(),
    updatedAt: created(),
  },
  (t) => [index('sessions_by_person').on(t.personId)],
)

/** What proves who somebody is: a password, or an account at the school's identity provider. */
export const accounts = sqliteTable(
  'accounts',
  {
    id: text().primaryKey(),
    personId: person(),
    accountId: text().notNull(),
    providerId: text().notNull(),
    accessToken: text(),
    refreshToken: text(),
    idToken: text(),
    accessTokenExpiresAt: moment(),
    refreshTokenExpiresAt: moment(),
    scope: text(),
    /** Hashed by Argon2id, salt and cost included. */
    password: text(),
    createdAt: created(),
    updatedAt: created(),
  },
  (t) => [uniqueIndex('accounts_by_provider').on(t.providerId, t.accountId), index('accounts_by_person').on(t.personId)],
)

/** Signing in that has begun and waits for its next step. */
export const verifications = sqliteTable(
  'verifications',
  {
    id: text().primaryKey(),
    identifier: text().notNull(),
    value: text().notNull(),
    expiresAt: created(),
    createdAt: created(),
    updatedAt: created(),
  },
  (t) => [index('verifications_by_identifier').on(t.identifier)],
)

/** Keys of devices (W3C Web Authentication). */
export const passkeys = sqliteTable(
  'passkeys',
  {
    id: text().primaryKey(),
    personId: person(),
    name: text(),
    publicKey: text().notNull(),
    credentialID: text().notNull(),
    counter: integer().notNull(),
    deviceType: text().notNull(),
    backedUp: integer({ mode: 'boolean' }).notNull(),
    transports: text(),
    aaguid: text(),
    createdAt: moment(),
  },
  (t) => [index('passkeys_by_person').on(t.personId)],
)

/** Secrets of one-time codes (RFC 6238), encrypted. */
export const twoFactors = sqliteTable('twoFactors', {
  id: text().primaryKey(),
  personId: person(),
  secret: text().notNull(),
  backupCodes: text().notNull(),
  verified: integer({ mode: 'boolean' }).notNull().default(true),
  failedVerificationCount: integer().notNull().default(0),
  lockedUntil: moment(),
})

/** What the server made for itself once, such as the key it signs with. */
export const serverKeys = sqliteTable('serverKeys', { name: text().primaryKey(), value: text().notNull() })

/** Links that let somebody in once: to become one of the people, or to choose a new password. */
export const invitations = sqliteTable('invitations', {
  /** SHA-256 of what the link says: who reads the database cannot use it. */
  hash: text().primaryKey(),
  kind: text({ enum: ['join', 'password'] }).notNull(),
  role: text({ enum: PERSON_ROLES }).notNull(),
  /** The address that is invited; '' leaves it to who comes. */
  email: text().notNull().default(''),
  /** Whose password is chosen anew. */
  personId: text().references(() => people.id, { onDelete: 'cascade' }),
  spaceId: text(),
  invitedBy: text(),
  createdAt: integer().notNull(),
  expiresAt: integer().notNull(),
  usedAt: integer(),
})

/** How much somebody or a space may use, by their id, and how much everybody may. */
export const quotas = sqliteTable('quotas', {
  of: text().primaryKey(),
  quota: text({ mode: 'json' }).$type<Quota>().notNull(),
})

/** A course, a department: lectures and people that belong together. */
export const spaces = sqliteTable('spaces', {
  id: text().primaryKey(),
  name: text().notNull(),
  createdAt: integer().notNull(),
  deletedAt: integer(),
})

export const spaceMembers = sqliteTable(
  'spaceMembers',
  {
    spaceId: text()
      .notNull()
      .references(() => spaces.id, { onDelete: 'cascade' }),
    personId: person(),
    right: text({ enum: SPACE_RIGHTS }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.spaceId, t.personId] }), index('spaceMembers_by_person').on(t.personId)],
)

/** Who may do what to a lecture; who owns it is one of them. */
export const lectureMembers = sqliteTable(
  'lectureMembers',
  {
    /** Not a reference: it is written when a deck arrives, before there is a lecture of it. */
    lectureId: text().notNull(),
    personId: person(),
    right: text({ enum: RIGHTS }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.lectureId, t.personId] }), index('lectureMembers_by_person').on(t.personId)],
)

/** What people say of moments of a lecture. */
export const comments = sqliteTable(
  'comments',
  {
    id: text().primaryKey(),
    lectureId: text()
      .notNull()
      .references(() => lectures.id, { onDelete: 'cascade' }),
    slideId: text()
      .notNull()
      .references(() => slides.id, { onDelete: 'cascade' }),
    takeId: text(),
    at: real(),
    text: text().notNull(),
    personId: text().references(() => people.id, { onDelete: 'set null' }),
    answerTo: text(),
    createdAt: integer().notNull(),
    settledAt: integer(),
    deletedAt: integer(),
  },
  (t) => [index('comments_by_lecture').on(t.lectureId)],
)

/** Who did what to what; of what was written or said nothing is kept. */
export const auditEntries = sqliteTable(
  'auditEntries',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    at: integer().notNull(),
    /** Not a reference: it stays when a person is erased, who is then nobody's. */
    personId: text(),
    act: text({ enum: AUDITED }).notNull(),
    /** What it was done to: a lecture, a space, a person. */
    thing: text(),
  },
  (t) => [index('auditEntries_by_time').on(t.at)],
)
