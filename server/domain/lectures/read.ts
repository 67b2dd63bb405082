/** Lectures out of the database, in the shape of the model. */

import { createHash } from 'node:crypto'
import { and, asc, desc, eq, inArray, isNull, type SQL, sql } from 'drizzle-orm'
import { ENGINE_VERSION } from '#core/audio/render/render.ts'
import { findingsOf, isConvincing } from '#core/captions/compare/findings.ts'
import { momentsAtWords } from '#core/captions/compare/step-words.ts'
import { burnedInTrack, publishedCues } from '#core/captions/tracks/published-tracks.ts'
import type { CaptionTrack, StoredCue } from '#core/model/caption.ts'
import { ExportSettings } from '#core/model/export-settings.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Film } from '#core/model/moving/film.ts'
import type { Footage } from '#core/model/moving/footage.ts'
import { SmallPicture } from '#core/model/moving/small-picture.ts'
import type { Slide, Step } from '#core/model/slide.ts'
import type { Take } from '#core/model/take.ts'
import { TakeAnalysis } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { TidyUp as TidyUpSchema } from '#core/model/tidy-up.ts'
import { TimingDefaults } from '#core/model/timing.ts'
import { NO_TRANSITION } from '#core/model/transition.ts'
import { unpacked } from '#core/words/packed.ts'
import { message } from '#core/words/say.ts'
import type { Tables } from '#server/db/database.ts'
import { films, footage } from '#server/db/moving-schema.ts'
import { beds, captionTracks, clips, cues, lectures, slides, steps, takes, tidyUps, translations } from '#server/db/schema.ts'
import { isShownSlide, isShownStep, isShownTake } from '#server/db/shown.ts'
import { translatedCues } from '#server/domain/captions/translations.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { undrawableIn } from '#server/text/fonts.ts'
import { readBeds } from './beds.ts'
import { readFilms } from './films.ts'
import { readFootage } from './footage.ts'

/** The name of what a recipe makes of a take: the same name means the same samples. */
export function clipKey(sound: string, tidyUp: TidyUp): string {
  return createHash('sha256')
    .update(JSON.stringify([sound, TidyUpSchema.parse(tidyUp), ENGINE_VERSION]))
    .digest('hex')
}

type TakeRow = typeof takes.$inferSelect

function groupBy<T, K>(rows: readonly T[], key: (row: T) => K): Map<K, T[]> {
  const groups = new Map<K, T[]>()
  for (const row of rows) {
    const group = groups.get(key(row))
    if (group) group.push(row)
    else groups.set(key(row), [row])
  }
  return groups
}

/** Names that fit into one question to the database. */
const MOST_NAMES = 10_000

/** Clips by what they are made of: the same recording on two slides, or in two lectures, has one clip. */
async function readClips(db: Tables, keys: readonly string[]) {
  const found = new Map<string, typeof clips.$inferSelect>()
  for (let at = 0; at < keys.length; at += MOST_NAMES) {
    const some = await db
      .select()
      .from(clips)
      .where(inArray(clips.key, keys.slice(at, at + MOST_NAMES)))
    for (const row of some) found.set(row.key, row)
  }
  return found
}

/** @param picturesOf the pictures of a slide, in order */
async function readTakes(
  db: Tables,
  ofSlides: SQL,
  picturesOf: (slideId: string) => readonly Step[],
  footageById: ReadonlyMap<string, Footage>,
): Promise<Map<string, Take[]>> {
  const rows = await db
    .select()
    .from(takes)
    .leftJoin(tidyUps, eq(tidyUps.takeId, takes.id))
    .where(and(ofSlides, isShownTake))
    .orderBy(desc(takes.number))
  const recipes = rows.map((r) => (r.tidyUps ? TidyUpSchema.parse(r.tidyUps.tidyUp) : null))
  const keys = rows.flatMap((r, i) => (r.takes.sound && recipes[i] ? clipKey(r.takes.sound, recipes[i]) : []))
  const clipByKey = await readClips(db, keys)
  const toTake = (row: TakeRow, tidyUp: TidyUp | null): Take => {
    const clip = row.sound && tidyUp ? clipByKey.get(clipKey(row.sound, tidyUp)) : undefined
    const {
      deletedAt: _,
      alignment,
      heardSounds: _sounds,
      draft: _draft,
      isContinuous: __,
      sourceRecordingId: ___,
      chunks: ____,
      voiceId: _voice,
      voiceState: _state,
      isAnswer: _answer,
      reading: _reading,
      ...take
    } = row
    return {
      ...take,
      analysis: take.analysis ? TakeAnalysis.parse(take.analysis) : null,
      problem: take.problem === null ? null : unpacked(take.problem),
      tidyUp,
      stepMoments: take.stepMoments ?? {},
      heardMoments:
        alignment && isConvincing(alignment.alignment) ? momentsAtWords(picturesOf(row.slideId), alignment.alignment) : {},
      marks: take.marks ?? [],
      bookmarks: take.bookmarks ?? [],
      footage: (take.footage ?? []).flatMap((cut) => {
        const own = footageById.get(cut.footageId)
        return own ? [{ ...cut, footage: own }] : []
      }),
      findings: alignment && isConvincing(alignment.alignment) ? findingsOf(alignment.alignment) : null,
      clip: clip ? { samples: clip.samples, sound: clip.sound, peaks: clip.peaks, figures: clip.figures } : null,
    }
  }
  return groupBy(
    rows.map((r, i) => toTake(r.takes, recipes[i]!)),
    (take) => take.slideId,
  )
}

async function readTracks(db: Tables, ofLectures: SQL): Promise<Map<string, CaptionTrack[]>> {
  const rows = await db
    .select()
    .from(captionTracks)
    .where(and(ofLectures, isNull(captionTracks.deletedAt)))
  const own = db
    .select({ id: captionTracks.id })
    .from(captionTracks)
    .where(and(ofLectures, isNull(captionTracks.deletedAt)))
  const byTrack = groupBy(
    await db.select().from(cues).where(inArray(cues.trackId, own)).orderBy(asc(cues.start)),
    (cue) => cue.trackId,
  )
  const translated = groupBy(await db.select().from(translations).where(inArray(translations.trackId, own)), (row) => row.trackId)
  const cuesOf = (trackId: string) => (byTrack.get(trackId) ?? []).map(({ trackId: _, ...cue }): StoredCue => cue)
  const tracksOf = (ofLecture: typeof rows) => {
    const original = ofLecture.find((row) => row.origin === 'script')
    return ofLecture.map(({ id, language, label, origin, kind }): CaptionTrack => {
      const said =
        origin === 'translation' ? translatedCues(original ? cuesOf(original.id) : [], translated.get(id) ?? []) : cuesOf(id)
      return { id, language, label, origin, kind, cues: said }
    })
  }
  return new Map([...groupBy(rows, (row) => row.lectureId)].map(([lectureId, ofLecture]) => [lectureId, tracksOf(ofLecture)]))
}

/**
 * Rows of a lecture with its slides and pictures in order; deleted ones are left out. Pictures found and not chosen come beside them.
 *
 * @throws UserFacingError (404) when there is none
 */
export async function lectureRows(db: Tables, lectureId: string) {
  const [lecture] = await db
    .select()
    .from(lectures)
    .where(and(eq(lectures.id, lectureId), isNull(lectures.deletedAt)))
  if (!lecture) throw new UserFacingError(message('This lecture is not here any more. Go back to the shelf.'), 404)
  const slideRows = await db
    .select()
    .from(slides)
    .where(and(eq(slides.lectureId, lectureId), isShownSlide))
    .orderBy(asc(slides.position))
  const ids = slideRows.map((row) => row.id)
  const stepRows = await db
    .select()
    .from(steps)
    .where(and(inArray(steps.slideId, ids), isShownStep))
    .orderBy(asc(steps.position))
  const offeredRows = await db
    .select()
    .from(steps)
    .where(and(inArray(steps.slideId, ids), eq(steps.offered, true), eq(steps.isPlaced, false)))
    .orderBy(asc(steps.position))
  return { lecture, slideRows, ids, stepRows, offeredRows }
}

const asStep = (
  { id, picture, thumbnail, width, height, text, afterSeconds }: typeof steps.$inferSelect,
  films: Film[] = [],
): Step => ({
  id,
  picture,
  thumbnail,
  width,
  height,
  text,
  afterSeconds,
  films,
})

/** Lectures of the shelf, each table read once; what of one cannot be read throws when it is put together. */
async function readRows(db: Tables, which: SQL) {
  const lectureRows = await db
    .select()
    .from(lectures)
    .where(and(which, isNull(lectures.deletedAt)))
    .orderBy(desc(lectures.updatedAt))
  const chosen = db
    .select({ id: lectures.id })
    .from(lectures)
    .where(and(which, isNull(lectures.deletedAt)))
  const slideRows = await db
    .select()
    .from(slides)
    .where(and(inArray(slides.lectureId, chosen), isShownSlide))
    .orderBy(asc(slides.position))
  const ofSlides = db
    .select({ id: slides.id })
    .from(slides)
    .where(and(inArray(slides.lectureId, chosen), isShownSlide))
  const stepRows = await db.select().from(steps).where(inArray(steps.slideId, ofSlides)).orderBy(asc(steps.position))
  const stepsBySlide = groupBy(stepRows, (row) => row.slideId)
  return {
    lectureRows,
    slides: groupBy(slideRows, (row) => row.lectureId),
    steps: stepsBySlide,
    takes: await readTakes(
      db,
      inArray(takes.slideId, ofSlides),
      (slideId) => (stepsBySlide.get(slideId) ?? []).filter((step) => step.isPlaced).map((step) => asStep(step)),
      await readFootage(db, inArray(footage.lectureId, chosen)),
    ),
    tracks: await readTracks(db, inArray(captionTracks.lectureId, chosen)),
    films: await readFilms(
      db,
      inArray(films.stepId, db.select({ id: steps.id }).from(steps).where(inArray(steps.slideId, ofSlides))),
    ),
    beds: await readBeds(db, inArray(beds.lectureId, chosen)),
  }
}

type Rows = Awaited<ReturnType<typeof readRows>>

function lectureOf(lecture: typeof lectures.$inferSelect, rows: Rows): Lecture {
  const tracks = rows.tracks.get(lecture.id) ?? []
  return {
    id: lecture.id,
    title: lecture.title,
    language: lecture.language,
    // rows of an earlier version lack what was added since
    timing: TimingDefaults.parse(lecture.timing),
    transition: lecture.transition ?? NO_TRANSITION,
    exportSettings: ExportSettings.parse(lecture.exportSettings ?? {}),
    smallPicture: SmallPicture.parse(lecture.smallPicture ?? {}),
    countsWatching: lecture.countsWatching,
    slides: (rows.slides.get(lecture.id) ?? []).map((row): Slide => {
      const { position: _, deletedAt: __, isPlaced: ___, lectureId: ____, ...slide } = row
      const pictures = rows.steps.get(row.id) ?? []
      return {
        ...slide,
        warnings: (slide.warnings ?? []).map((warning) => (typeof warning === 'string' ? { id: warning } : warning)),
        language: slide.language,
        questions: slide.questions ?? [],
        steps: pictures.filter((step) => step.isPlaced).map((step) => asStep(step, rows.films.get(step.id))),
        offered: pictures.filter((step) => step.offered && !step.isPlaced).map((step) => asStep(step)),
        takes: rows.takes.get(row.id) ?? [],
      }
    }),
    lineCharacters: lecture.lineCharacters,
    captionTracks: tracks.filter((track) => track.kind !== 'chapters'),
    chapterTracks: tracks.filter((track) => track.kind === 'chapters'),
    beds: rows.beds.get(lecture.id) ?? [],
    undrawableCaptions: [],
  }
}

/** With what is known by the fonts of the server. */
function withUndrawable(lecture: Lecture): Lecture {
  const track = burnedInTrack(lecture)
  // those of earlier recordings are kept and not shown
  const shown = track ? publishedCues(lecture, track).map((cue) => cue.text) : []
  return { ...lecture, undrawableCaptions: undrawableIn(shown.join('')) }
}

/**
 * @returns the lecture with its slides in order; deleted slides, takes and tracks are left out
 * @throws UserFacingError (404) when there is none
 */
export async function readLecture(db: Tables, lectureId: string): Promise<Lecture> {
  const rows = await readRows(db, eq(lectures.id, lectureId))
  const [lecture] = rows.lectureRows
  if (!lecture) throw new UserFacingError(message('This lecture is not here any more. Go back to the shelf.'), 404)
  return withUndrawable(lectureOf(lecture, rows))
}

/** @param ids of those that are wanted @returns lectures on the shelf, the one worked on last first */
export async function readLectures(db: Tables, ids: readonly string[]): Promise<{ lecture: Lecture; updatedAt: number }[]> {
  const rows = await readRows(db, inArray(lectures.id, [...ids]))
  return rows.lectureRows.map((row) => ({ lecture: lectureOf(row, rows), updatedAt: row.updatedAt }))
}

/** @returns ids, titles and spaces of all lectures on the shelf, the one worked on last first, which can be read whatever is wrong with the rest of them */
export async function readShelf(db: Tables): Promise<{ id: string; title: string; updatedAt: number; spaceId: string | null }[]> {
  const { id, title, updatedAt, spaceId } = lectures
  // as one row: thousands of rows take longer to hand over than to find
  const [row] = await db.all<{ shelf: string }>(
    sql`SELECT json_group_array(json_array("id", "title", "updatedAt", "spaceId")) AS "shelf" FROM
      (SELECT ${id}, ${title}, ${updatedAt}, ${spaceId} FROM ${lectures} WHERE ${isNull(lectures.deletedAt)} ORDER BY ${desc(updatedAt)})`,
  )
  const all = JSON.parse(row!.shelf) as [string, string, number, string | null][]
  return all.map(([id, title, updatedAt, spaceId]) => ({ id, title, updatedAt, spaceId }))
}
