/** Tables. A name of a file is its SHA-256 in the store; it is written only once the file is wholly on disk. */

import { sql } from 'drizzle-orm'
import { index, integer, real, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core'
import { LINE_CHARACTERS } from '#core/captions/generate/break-lines.ts'
import type { FoundReplacement } from '#core/deck/match/replace.ts'
import type { EditionManifest } from '#core/edition/manifest.ts'
import { JOB_KINDS } from '#core/jobs/job.ts'
import type { BedSettings } from '#core/model/bed.ts'
import { TRACK_KINDS } from '#core/model/caption.ts'
import type { ExportSettings } from '#core/model/export-settings.ts'
import type { Bookmark, Mark } from '#core/model/marks.ts'
import type { FootageCut } from '#core/model/moving/footage.ts'
import type { SmallPicture, SmallPictureException } from '#core/model/moving/small-picture.ts'
import type { Question } from '#core/model/question.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { Card } from '#core/model/slide.ts'
import type { ClipFigures, TakeAnalysis } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import type { TimingDefaults } from '#core/model/timing.ts'
import type { Transition } from '#core/model/transition.ts'
import { VOICE_STATES } from '#core/voices/voice-link.ts'
import type { Watching } from '#core/watching/watching.ts'
import type { Message } from '#core/words/say.ts'
import type { KeptAlignment, KeptDraft, KeptReading, KeptSounds, StoredSegmentFacts } from './kept.ts'

const created = integer().notNull()

export const lectures = sqliteTable(
  'lectures',
  {
    id: text().primaryKey(),
    title: text().notNull(),
    language: text().notNull(),
    timing: text({ mode: 'json' }).$type<TimingDefaults>().notNull(),
    transition: text({ mode: 'json' }).$type<Transition>(),
    /** How its editions are made; what is absent is as usual. */
    exportSettings: text({ mode: 'json' }).$type<Partial<ExportSettings>>(),
    /** How the teacher's picture is shown; what is absent is as usual. */
    smallPicture: text({ mode: 'json' }).$type<Partial<SmallPicture>>(),
    /** Whether it is counted what of its editions is watched. */
    countsWatching: integer({ mode: 'boolean' }).notNull().default(true),
    /** Characters a line of its captions. */
    lineCharacters: integer().notNull().default(LINE_CHARACTERS.usual),
    /** The space it lies in. */
    spaceId: text(),
    createdAt: created,
    updatedAt: integer().notNull(),
    deletedAt: integer(),
  },
  (t) => [index('lectures_by_space').on(t.spaceId)],
)

/** Triggers write down which of them have changed, for `word-index.ts`: a migration that makes this table anew makes those anew. */
export const slides = sqliteTable(
  'slides',
  {
    id: text().primaryKey(),
    lectureId: text()
      .notNull()
      .references(() => lectures.id, { onDelete: 'cascade' }),
    position: integer().notNull(),
    title: text().notNull(),
    altText: text().notNull(),
    /** The words on it were taken as its description, and nobody has looked at them yet. */
    isAltTextDraft: integer({ mode: 'boolean' }).notNull().default(false),
    script: text().notNull(),
    /** Of its script, where that is another than the lecture's. */
    language: text(),
    hidden: integer({ mode: 'boolean' }).notNull().default(false),
    keptTakeId: text(),
    timing: text({ mode: 'json' }).$type<Partial<TimingDefaults>>().notNull(),
    transition: text({ mode: 'json' }).$type<Transition>(),
    smallPicture: text({ mode: 'json' }).$type<SmallPictureException>(),
    card: text({ mode: 'json' }).$type<Card>(),
    /** What of its deck could not be taken over, one sentence each. */
    warnings: text({ mode: 'json' }).$type<(Message | string)[]>(),
    /** In its deck it shows all of the page before and something more. */
    buildsOn: integer({ mode: 'boolean' }).notNull().default(false),
    /** Heading of the section that begins with it; '' where none does. */
    section: text().notNull().default(''),
    /** What the lecture asks after it; null for nothing. */
    questions: text({ mode: 'json' }).$type<Question[]>(),
    /** False until an edit puts it into the lecture, as with a page of a newer deck. */
    isPlaced: integer({ mode: 'boolean' }).notNull().default(true),
    deletedAt: integer(),
  },
  (t) => [index('slides_by_lecture').on(t.lectureId, t.position)],
)

export const steps = sqliteTable(
  'steps',
  {
    id: text().primaryKey(),
    slideId: text()
      .notNull()
      .references(() => slides.id, { onDelete: 'cascade' }),
    position: integer().notNull(),
    picture: text().notNull(),
    thumbnail: text().notNull(),
    width: integer().notNull(),
    height: integer().notNull(),
    /** Not shown, but perhaps the right one: its deck came in two files that differ here. */
    offered: integer({ mode: 'boolean' }).notNull().default(false),
    /** Part of its slide; one that is not was taken out or waits to be put in. */
    isPlaced: integer({ mode: 'boolean' }).notNull().default(true),
    /** Words that are new on it. */
    text: text().notNull().default(''),
    /** Seconds after the one before, where it comes by itself; null where it waits. */
    afterSeconds: real(),
  },
  (t) => [
    index('steps_by_slide').on(t.slideId, t.position),
    index('steps_by_picture').on(t.picture),
    index('steps_by_thumbnail').on(t.thumbnail),
  ],
)

export const takes = sqliteTable(
  'takes',
  {
    id: text().primaryKey(),
    slideId: text()
      .notNull()
      .references(() => slides.id, { onDelete: 'cascade' }),
    /** Counted from 1 on each slide, and never given twice; 0 for a recording over several slides, and for an answer. */
    number: integer().notNull(),
    state: text({ enum: ['recording', 'sealed'] }).notNull(),
    recovered: integer({ mode: 'boolean' }).notNull().default(false),
    startedAt: integer().notNull(),
    microphone: text().notNull(),
    dropoutCount: integer().notNull().default(0),
    dropoutMs: integer().notNull().default(0),
    samples: integer().notNull().default(0),
    /** How many chunks it was sealed with; null in those of an earlier version and in sound that came from elsewhere. */
    chunks: integer(),
    sound: text(),
    peaks: text(),
    spectrogram: text(),
    analysis: text({ mode: 'json' }).$type<TakeAnalysis>(),
    problem: text(),
    /** When its words are heard, and for which script that was found. */
    alignment: text({ mode: 'json' }).$type<KeptAlignment>(),
    /** Sounds between its words, found without knowing them; null before it was listened to. */
    heardSounds: text({ mode: 'json' }).$type<KeptSounds>(),
    /** What a recogniser heard in it, where it was asked; captions begin as this, and people change them. */
    draft: text({ mode: 'json' }).$type<KeptDraft>(),
    stepMoments: text({ mode: 'json' }).$type<Record<string, number>>(),
    /** Told by keys while recording. */
    marks: text({ mode: 'json' }).$type<Mark[]>(),
    bookmarks: text({ mode: 'json' }).$type<Bookmark[]>(),
    /** Which parts of which footage were recorded with it. */
    footage: text({ mode: 'json' }).$type<FootageCut[]>(),
    /** Recorded straight through: it becomes a recording over several slides and is no take of its own. */
    isContinuous: integer({ mode: 'boolean' }).notNull().default(false),
    /** The recording straight through that it is a part of. */
    sourceRecordingId: text(),
    /** Whose voice it is, where it came by a link; null for the lecture's own. */
    voiceId: text(),
    voiceState: text({ enum: VOICE_STATES }),
    /** Their name, as captions say it. */
    speaker: text(),
    /** Recorded by a class: its teacher hears it beside those of the others, and no slide shows it. */
    isAnswer: integer({ mode: 'boolean' }).notNull().default(false),
    /** Which words of the script an answer has, one by one, and for which script that was found. */
    reading: text({ mode: 'json' }).$type<KeptReading>(),
    deletedAt: integer(),
  },
  (t) => [
    uniqueIndex('takes_by_slide').on(t.slideId, t.number).where(sql`${t.isContinuous} = 0 AND ${t.isAnswer} = 0`),
    index('takes_by_voice').on(t.voiceId),
    index('takes_by_any_slide').on(t.slideId),
    index('takes_by_sound').on(t.sound),
    index('takes_by_peaks').on(t.peaks),
    index('takes_by_spectrogram').on(t.spectrogram),
  ],
)

export const tidyUps = sqliteTable('tidyUps', {
  takeId: text()
    .primaryKey()
    .references(() => takes.id, { onDelete: 'cascade' }),
  tidyUp: text({ mode: 'json' }).$type<TidyUp>().notNull(),
})

/** Rendered clips by the hash of all that goes in; a tidy-up that comes back finds its clip again. */
export const clips = sqliteTable(
  'clips',
  {
    key: text().primaryKey(),
    takeId: text()
      .notNull()
      .references(() => takes.id, { onDelete: 'cascade' }),
    samples: integer().notNull(),
    sound: text().notNull(),
    peaks: text().notNull(),
    figures: text({ mode: 'json' }).$type<ClipFigures>().notNull(),
    /** K-weighted powers of its 400 ms blocks, one each 100 ms, heard on two channels; null in those of an earlier version. */
    powers: text({ mode: 'json' }).$type<number[]>(),
  },
  (t) => [index('clips_by_take').on(t.takeId), index('clips_by_sound').on(t.sound), index('clips_by_peaks').on(t.peaks)],
)

/** Sound under slides: the file as it was read, stereo at 48 kHz, and how it is played. */
export const beds = sqliteTable(
  'beds',
  {
    id: text().primaryKey(),
    lectureId: text()
      .notNull()
      .references(() => lectures.id, { onDelete: 'cascade' }),
    name: text().notNull(),
    sound: text().notNull(),
    peaks: text().notNull(),
    samples: integer().notNull(),
    loudnessLufs: real(),
    settings: text({ mode: 'json' }).$type<BedSettings>().notNull(),
    createdAt: created,
    deletedAt: integer(),
  },
  (t) => [index('beds_by_lecture').on(t.lectureId)],
)

/** Long recordings over several slides, kept whole after they were divided. */
export const recordings = sqliteTable(
  'recordings',
  {
    id: text().primaryKey(),
    lectureId: text()
      .notNull()
      .references(() => lectures.id, { onDelete: 'cascade' }),
    name: text().notNull(),
    sound: text().notNull(),
    peaks: text().notNull(),
    samples: integer().notNull(),
    speech: text({ mode: 'json' }).$type<SampleRange[]>().notNull(),
    /** Told by keys while it was recorded straight through, and the slide it began on; null for files. */
    marks: text({ mode: 'json' }).$type<Mark[]>(),
    firstSlideId: text(),
    createdAt: created,
    dividedAt: integer(),
    deletedAt: integer(),
  },
  (t) => [index('recordings_by_lecture').on(t.lectureId)],
)

export const captionTracks = sqliteTable(
  'captionTracks',
  {
    id: text().primaryKey(),
    lectureId: text()
      .notNull()
      .references(() => lectures.id, { onDelete: 'cascade' }),
    language: text().notNull(),
    label: text().notNull(),
    origin: text({ enum: ['script', 'file', 'translation'] }).notNull(),
    kind: text({ enum: TRACK_KINDS }).notNull().default('captions'),
    deletedAt: integer(),
  },
  (t) => [index('captionTracks_by_lecture').on(t.lectureId)],
)

export const cues = sqliteTable(
  'cues',
  {
    id: text().primaryKey(),
    trackId: text()
      .notNull()
      .references(() => captionTracks.id, { onDelete: 'cascade' }),
    slideId: text()
      .notNull()
      .references(() => slides.id, { onDelete: 'cascade' }),
    /** Whose seconds `start` and `end` are; null: those of a slide without a take. */
    takeId: text().references(() => takes.id, { onDelete: 'cascade' }),
    start: real().notNull(),
    end: real().notNull(),
    text: text().notNull(),
    settings: text().notNull(),
    /** Made by the aligner, which was not sure. */
    needsReview: integer({ mode: 'boolean' }).notNull().default(false),
    /** Sentences of the script it is part of. */
    scriptText: text().notNull().default(''),
    manualEdit: text({ enum: ['text', 'time', 'heard'] }),
    markup: text(),
  },
  (t) => [index('cues_by_track').on(t.trackId, t.slideId)],
)

/** What differs in a new version of a deck, until somebody has decided what of it is taken over. */
export const replacements = sqliteTable('replacements', {
  id: text().primaryKey(),
  lectureId: text()
    .notNull()
    .references(() => lectures.id, { onDelete: 'cascade' }),
  createdAt: created,
  found: text({ mode: 'json' }).$type<FoundReplacement>().notNull(),
})

/** Captions said in another language, by the caption they translate; its times are theirs. */
export const translations = sqliteTable(
  'translations',
  {
    trackId: text()
      .notNull()
      .references(() => captionTracks.id, { onDelete: 'cascade' }),
    /** Not a reference: captions are made again, and those whose words stay come back under the same name. */
    cueId: text().notNull(),
    text: text().notNull(),
    /** What was translated; when the caption says something else now, the translation wants a look. */
    original: text().notNull(),
  },
  (t) => [uniqueIndex('translations_by_cue').on(t.trackId, t.cueId)],
)

export const jobs = sqliteTable(
  'jobs',
  {
    id: text().primaryKey(),
    kind: text({ enum: JOB_KINDS }).notNull(),
    lectureId: text(),
    payload: text({ mode: 'json' }).$type<unknown>().notNull(),
    state: text({ enum: ['queued', 'running', 'done', 'failed', 'cancelled'] }).notNull(),
    attempts: integer().notNull().default(0),
    leaseUntil: integer(),
    /** 0 to 1. */
    progress: real().notNull().default(0),
    stage: text().notNull().default(''),
    result: text({ mode: 'json' }).$type<unknown>(),
    error: text(),
    createdAt: created,
    endedAt: integer(),
  },
  (t) => [index('jobs_by_state').on(t.state, t.createdAt)],
)

export const editions = sqliteTable(
  'editions',
  {
    id: text().primaryKey(),
    lectureId: text()
      .notNull()
      .references(() => lectures.id, { onDelete: 'cascade' }),
    number: integer().notNull(),
    createdAt: created,
    manifest: text({ mode: 'json' }).$type<EditionManifest>().notNull(),
    deletedAt: integer(),
  },
  (t) => [uniqueIndex('editions_by_lecture').on(t.lectureId, t.number)],
)

/** Totals of what is watched of an edition; nothing of who watches. */
export const watching = sqliteTable('watching', {
  editionId: text()
    .primaryKey()
    .references(() => editions.id, { onDelete: 'cascade' }),
  totals: text({ mode: 'json' }).$type<Watching>().notNull(),
})

export const editionFiles = sqliteTable(
  'editionFiles',
  {
    editionId: text()
      .notNull()
      .references(() => editions.id, { onDelete: 'cascade' }),
    name: text().notNull(),
    file: text().notNull(),
    bytes: integer().notNull(),
    contentType: text().notNull(),
  },
  (t) => [uniqueIndex('edition_file_names').on(t.editionId, t.name)],
)

/** Encoded segments of slides, by the hash of all that goes in. */
export const segments = sqliteTable('segments', {
  key: text().primaryKey(),
  file: text().notNull(),
  bytes: integer().notNull(),
  usedAt: integer().notNull(),
  /** What it told when it was made; null in those of an earlier version. */
  facts: text({ mode: 'json' }).$type<StoredSegmentFacts>(),
})

export const links = sqliteTable(
  'links',
  {
    token: text().primaryKey(),
    lectureId: text()
      .notNull()
      .references(() => lectures.id, { onDelete: 'cascade' }),
    name: text().notNull(),
    createdAt: created,
    expiresAt: integer(),
    revokedAt: integer(),
    /** Salt and hash of what must be typed before it opens; null for none. */
    passcode: text(),
    /** How often an edition was begun through it. Nothing is kept of who did. */
    views: integer().notNull().default(0),
    /** What viewers may keep; null for everything. */
    downloads: text({ mode: 'json' }).$type<Download[]>(),
    /** Sites that may show its page within their own: null for none, all of them where the list is empty. */
    embedIn: text({ mode: 'json' }).$type<string[]>(),
    /** Only people of the school may watch. */
    needsSignIn: integer({ mode: 'boolean' }).notNull().default(false),
  },
  (t) => [index('links_by_lecture').on(t.lectureId)],
)

/** Files that are in a store elsewhere; those on this machine's disk alone have no row. */
export const sentFiles = sqliteTable(
  'sent_files',
  {
    name: text().primaryKey(),
    bytes: integer().notNull(),
    /** The store's address. */
    store: text().notNull(),
    sentAt: integer().notNull(),
    /** The day it was laid in the trash; null where it counts. */
    laidOn: text(),
  },
  (t) => [index('sent_files_laid').on(t.laidOn)],
)

export const DOWNLOADS = ['video', 'sound', 'captions', 'transcript', 'folder'] as const
export type Download = (typeof DOWNLOADS)[number]
