/** Tables of learning platforms that open lectures within their own pages (LTI). */
import { index, integer, real, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core'
import { links } from './schema.ts'

/** Platforms that were registered: whose messages are believed, and where they are asked. */
export const ltiPlatforms = sqliteTable(
  'ltiPlatforms',
  {
    id: text().primaryKey(),
    name: text().notNull(),
    issuer: text().notNull(),
    clientId: text().notNull(),
    deploymentIds: text({ mode: 'json' }).$type<string[]>().notNull(),
    /** Where a launch is asked for, where a token is, and where the platform's public keys are. */
    authorizationUrl: text().notNull(),
    tokenUrl: text().notNull(),
    keysUrl: text().notNull(),
    createdAt: integer().notNull(),
    deletedAt: integer(),
  },
  (t) => [index('ltiPlatforms_by_issuer').on(t.issuer, t.clientId)],
)

/** The app's own key, with which it signs what it sends to platforms. */
export const ltiKeys = sqliteTable('ltiKeys', {
  id: text().primaryKey(),
  privateKey: text({ mode: 'json' }).$type<Record<string, unknown>>().notNull(),
  createdAt: integer().notNull(),
})

/** Launches that were begun and not finished: each is good for one, and not for long. */
export const ltiLogins = sqliteTable('ltiLogins', {
  state: text().primaryKey(),
  nonce: text().notNull(),
  platformId: text()
    .notNull()
    .references(() => ltiPlatforms.id, { onDelete: 'cascade' }),
  createdAt: integer().notNull(),
})

/** Somebody in a lecture that a platform opened: how far they have come, and what of it the platform was told. */
export const ltiLaunches = sqliteTable(
  'ltiLaunches',
  {
    id: text().primaryKey(),
    platformId: text()
      .notNull()
      .references(() => ltiPlatforms.id, { onDelete: 'cascade' }),
    /** The link of the lecture that it opens. */
    token: text()
      .notNull()
      .references(() => links.token, { onDelete: 'cascade' }),
    /** Who it is to the platform; nothing else is kept of them. */
    subject: text().notNull(),
    /** Where their result goes; null where the platform wants none. */
    lineItem: text(),
    /** How much of the lecture must be heard, 0 to 1. */
    share: real().notNull(),
    /** As `packListening` writes it. */
    heard: text().notNull().default(''),
    /** 0 to 1: how much of what must be heard was. */
    result: real().notNull().default(0),
    isCompleted: integer({ mode: 'boolean' }).notNull().default(false),
    /** What the platform has taken of it; null for nothing yet. */
    toldResult: real(),
    /** How often in a row it did not answer, when it is asked next, and what it said last. */
    failures: integer().notNull().default(0),
    nextTryAt: integer().notNull().default(0),
    problem: text(),
    createdAt: integer().notNull(),
    changedAt: integer().notNull(),
  },
  (t) => [uniqueIndex('ltiLaunches_by_place').on(t.platformId, t.token, t.subject, t.lineItem)],
)
