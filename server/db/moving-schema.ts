/** Tables of what moves on slides: films, and what screen and camera recorded. */
import { index, integer, sqliteTable, text } from 'drizzle-orm/sqlite-core'
import type { FilmSettings, FilmTrim, ShownFilm } from '#core/model/moving/film.ts'
import { FOOTAGE_KINDS } from '#core/model/moving/footage.ts'
import type { Message } from '#core/words/say.ts'
import { lectures, steps } from './schema.ts'

const created = integer().notNull()

/** Films on steps: the file as it came, and what came of it. */
export const films = sqliteTable(
  'films',
  {
    id: text().primaryKey(),
    stepId: text()
      .notNull()
      .references(() => steps.id, { onDelete: 'cascade' }),
    position: integer().notNull(),
    name: text().notNull(),
    original: text().notNull(),
    hasPoster: integer({ mode: 'boolean' }).notNull().default(false),
    isOfDeck: integer({ mode: 'boolean' }).notNull().default(false),
    settings: text({ mode: 'json' }).$type<Partial<FilmSettings> & FilmTrim>().notNull(),
    /** Null until it is ready. */
    proxy: text(),
    sound: text(),
    strip: text(),
    facts: text({ mode: 'json' }).$type<Omit<ShownFilm, 'proxy' | 'sound' | 'strip'>>(),
    problem: text({ mode: 'json' }).$type<Message>(),
    createdAt: created,
    deletedAt: integer(),
  },
  (t) => [index('films_by_step').on(t.stepId), index('films_by_original').on(t.original)],
)

/** Screen and camera as they were recorded with a take; takes say which part of it is theirs. */
export const footage = sqliteTable(
  'footage',
  {
    id: text().primaryKey(),
    lectureId: text()
      .notNull()
      .references(() => lectures.id, { onDelete: 'cascade' }),
    /** The take that it was recorded with; parts of it may belong to others. */
    takeId: text().notNull(),
    kind: text({ enum: FOOTAGE_KINDS }).notNull(),
    codec: text({ enum: ['avc', 'vp8'] }).notNull(),
    width: integer().notNull(),
    height: integer().notNull(),
    /** Of the practice screen or camera. */
    isPractice: integer({ mode: 'boolean' }).notNull().default(false),
    state: text({ enum: ['recording', 'sealed'] }).notNull(),
    recovered: integer({ mode: 'boolean' }).notNull().default(false),
    /** How many pieces it was sealed with. */
    pieces: integer(),
    /** From its first picture to the end of its last one. */
    samples: integer().notNull().default(0),
    /** Null until it is sealed, and where nothing came. */
    original: text(),
    proxy: text(),
    strip: text(),
    facts: text({ mode: 'json' }).$type<Omit<ShownFilm, 'proxy' | 'sound' | 'strip'>>(),
    problem: text({ mode: 'json' }).$type<Message>(),
    description: text().notNull().default(''),
    createdAt: created,
  },
  (t) => [index('footage_by_take').on(t.takeId), index('footage_by_lecture').on(t.lectureId)],
)
