/** Tables of those who lend a lecture their voices by a link. */
import { index, integer, sqliteTable, text } from 'drizzle-orm/sqlite-core'
import { VOICE_LINK_KINDS } from '#core/voices/voice-link.ts'
import { lectures } from './schema.ts'

export const voiceLinks = sqliteTable(
  'voiceLinks',
  {
    token: text().primaryKey(),
    lectureId: text()
      .notNull()
      .references(() => lectures.id, { onDelete: 'cascade' }),
    kind: text({ enum: VOICE_LINK_KINDS }).notNull(),
    name: text().notNull(),
    slideIds: text({ mode: 'json' }).$type<string[]>().notNull(),
    createdAt: integer().notNull(),
    expiresAt: integer(),
    revokedAt: integer(),
    /** Salt and hash of what must be typed before it opens; null for none. */
    passcode: text(),
    /** When all that was recorded by it goes; null: never by itself. */
    recordingsEndAt: integer(),
  },
  (t) => [index('voiceLinks_by_lecture').on(t.lectureId)],
)

/** Who records by a link: a name, and the hash of what their browser shows to be them. */
export const voices = sqliteTable(
  'voices',
  {
    id: text().primaryKey(),
    token: text()
      .notNull()
      .references(() => voiceLinks.token, { onDelete: 'cascade' }),
    name: text().notNull(),
    keyHash: text().notNull(),
    /** Who they are to the learning platform that they came from; null for who typed a name. */
    subject: text(),
    createdAt: integer().notNull(),
  },
  (t) => [index('voices_by_link').on(t.token)],
)
