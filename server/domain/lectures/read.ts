/** Lectures out of the database, in the shape of the model. */
import { createHash } from 'node:crypto'
import { and, asc, desc, eq, inArray, isNull } from 'drizzle-orm'
import { ENGINE_VERSION } from '#core/audio/render/render.ts'
import { findingsOf, isConvincing } from '#core/captions/compare/findings.ts'
import type { CaptionTrack, StoredCue } from '#core/model/caption.ts'
import { ExportSettings } from '#core/model/export-settings.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide, Step } from '#core/model/slide.ts'
import type { Take } from '#core/model/take.ts'
import { TakeAnalysis } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { TidyUp as TidyUpSchema } from '#core/model/tidy-up.ts'
import { TimingDefaults } from '#core/model/timing.ts'
import { NO_TRANSITION } from '#core/model/transition.ts'
import type { Tables } from '#server/db/database.ts'
import { captionTracks, clips, cues, lectures, slides, steps, takes, tidyUps, translations } from '#server/db/schema.ts'
import { isShownSlide, isShownStep, isShownTake } from '#server/db/shown.ts'
import { translatedCues } from '#server/domain/captions/translations.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { readBeds } from './beds.ts'

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

async function readTakes(db: Tables, slideIds: string[]): Promise<Map<string, Take[]>> {
  const rows = await db
    .select()
    .from(takes)
    .leftJoin(tidyUps, eq(tidyUps.takeId, takes.id))
    .where(and(inArray(takes.slideId, slideIds), isShownTake))
    .orderBy(desc(takes.number))
  // by what they are made of: the same recording on two slides, or in two lectures, has one clip
  const recipes = rows.map((r) => (r.tidyUps ? TidyUpSchema.parse(r.tidyUps.tidyUp) : null))
  const keys = rows.flatMap((r, i) => (r.takes.sound && recipes[i] ? clipKey(r.takes.sound, recipes[i]) : []))
  const clipRows = await db.select().from(clips).where(inArray(clips.key, keys))
  const clipByKey = new Map(clipRows.map((row) => [row.key, row]))
  const toTake = (row: TakeRow, tidyUp: TidyUp | null): Take => {
    const clip = row.sound && tidyUp ? clipByKey.get(clipKey(row.sound, tidyUp)) : undefined
    const { deletedAt: _, alignment, isContinuous: __, sourceRecordingId: ___, chunks: ____, ...take } = row
    return {
      ...take,
      analysis: take.analysis ? TakeAnalysis.parse(take.analysis) : null,
      tidyUp,
      stepMoments: take.stepMoments ?? {},
      marks: take.marks ?? [],
      bookmarks: take.bookmarks ?? [],
      findings: alignment && isConvincing(alignment.alignment) ? findingsOf(alignment.alignment) : null,
      clip: clip ? { samples: clip.samples, sound: clip.sound, peaks: clip.peaks, figures: clip.figures } : null,
    }
  }
  return groupBy(
    rows.map((r, i) => toTake(r.takes, recipes[i]!)),
    (take) => take.slideId,
  )
}

async function readTracks(db: Tables, lectureId: string): Promise<CaptionTrack[]> {
  const rows = await db
    .select()
    .from(captionTracks)
    .where(and(eq(captionTracks.lectureId, lectureId), isNull(captionTracks.deletedAt)))
  const ids = rows.map((row) => row.id)
  const all = await db.select().from(cues).where(inArray(cues.trackId, ids)).orderBy(asc(cues.start))
  const byTrack = groupBy(all, (cue) => cue.trackId)
  const own = (trackId: string) => (byTrack.get(trackId) ?? []).map(({ trackId: _, ...cue }): StoredCue => cue)
  const translated = groupBy(await db.select().from(translations).where(inArray(translations.trackId, ids)), (row) => row.trackId)
  const original = rows.find((row) => row.origin === 'script')
  return rows.map(({ id, language, label, origin, kind }) => {
    const list = origin === 'translation' ? translatedCues(original ? own(original.id) : [], translated.get(id) ?? []) : own(id)
    return { id, language, label, origin, kind, cues: list }
  })
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
  if (!lecture) throw new UserFacingError('This lecture is not here any more. Go back to the shelf.', 404)
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

const asStep = ({ id, picture, thumbnail, width, height }: typeof steps.$inferSelect): Step => ({
  id,
  picture,
  thumbnail,
  width,
  height,
})

/**
 * @returns the lecture with its slides in order; deleted slides, takes and tracks are left out
 * @throws UserFacingError (404) when there is none
 */
export async function readLecture(db: Tables, lectureId: string): Promise<Lecture> {
  const { lecture, slideRows, ids, stepRows, offeredRows } = await lectureRows(db, lectureId)
  const stepsBySlide = groupBy(stepRows, (row) => row.slideId)
  const offeredBySlide = groupBy(offeredRows, (row) => row.slideId)
  const takesBySlide = await readTakes(db, ids)
  const tracks = await readTracks(db, lectureId)
  return {
    id: lecture.id,
    title: lecture.title,
    language: lecture.language,
    // rows of an earlier version lack what was added since
    timing: TimingDefaults.parse(lecture.timing),
    transition: lecture.transition ?? NO_TRANSITION,
    exportSettings: ExportSettings.parse(lecture.exportSettings ?? {}),
    slides: slideRows.map((row): Slide => {
      const { position: _, deletedAt: __, isPlaced: ___, lectureId: ____, ...slide } = row
      return {
        ...slide,
        warnings: slide.warnings ?? [],
        steps: (stepsBySlide.get(row.id) ?? []).map(asStep),
        offered: (offeredBySlide.get(row.id) ?? []).map(asStep),
        takes: takesBySlide.get(row.id) ?? [],
      }
    }),
    lineCharacters: lecture.lineCharacters,
    captionTracks: tracks.filter((track) => track.kind !== 'chapters'),
    chapterTracks: tracks.filter((track) => track.kind === 'chapters'),
    beds: await readBeds(db, lectureId),
  }
}

/** @returns ids of all lectures on the shelf, the one worked on last first */
export async function readShelf(db: Tables) {
  return db
    .select({ id: lectures.id, title: lectures.title, updatedAt: lectures.updatedAt })
    .from(lectures)
    .where(isNull(lectures.deletedAt))
    .orderBy(desc(lectures.updatedAt))
}
