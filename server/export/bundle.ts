/** A lecture out as one open bundle. `server/domain/lectures/bring-bundle.ts` brings it in again, on this machine or another. */
import { and, asc, eq, inArray, isNotNull, isNull } from 'drizzle-orm'
import { BUNDLE_VERSION, Bundle, filesNamed } from '#core/bundle/bundle.ts'
import { writeWebVtt } from '#core/captions/formats/webvtt/write.ts'
import { chaptersOnLecture } from '#core/captions/tracks/chapter-tracks.ts'
import { publishedCues } from '#core/captions/tracks/published-tracks.ts'
import { ExportSettings } from '#core/model/export-settings.ts'
import { FilmSettings } from '#core/model/moving/film.ts'
import { SmallPicture } from '#core/model/moving/small-picture.ts'
import { TimingDefaults } from '#core/model/timing.ts'
import type { AppContext } from '#server/context/context.ts'
import type { Tables } from '#server/db/database.ts'
import { films, footage } from '#server/db/moving-schema.ts'
import { beds, captionTracks, cues, takes, tidyUps, translations } from '#server/db/schema.ts'
import { isShownTake } from '#server/db/shown.ts'
import { readFilms } from '#server/domain/lectures/films.ts'
import { lectureRows, readLecture } from '#server/domain/lectures/read.ts'
import type { ZippedFile } from '#server/storage/zip-stream.ts'

const path = (folder: 'pictures' | 'takes' | 'beds', name: string) =>
  `${folder}/${name}.${folder === 'pictures' ? 'png' : 'flac'}`
/** With the ending of its name, for other programs: what is in it is found by its content. */
const filmPath = (file: string, name: string) => `films/${file}.${/\.([a-z0-9]{1,5})$/i.exec(name)?.[1]?.toLowerCase() ?? 'film'}`
const footagePath = (file: string) => `footage/${file}.mp4`
const nameIn = (file: string) => file.split('/')[1]!.split('.')[0]!

/** @returns pictures of a slide as a bundle has them, with the films on them */
async function picturesOf(db: Tables, all: StepRow[]) {
  const ids = all.map((step) => step.id)
  const filmsByStep = await readFilms(db, inArray(films.stepId, ids))
  return (rows: StepRow[], slideId: string) =>
    rows
      .filter((step) => step.slideId === slideId)
      .map(({ id, picture, text, afterSeconds }) => ({
        id,
        picture: path('pictures', picture),
        text,
        afterSeconds,
        films: (filmsByStep.get(id) ?? []).map(({ id: filmId, name, original, hasPoster, isOfDeck, ...settings }) => ({
          id: filmId,
          name,
          original: filmPath(original, name),
          hasPoster,
          isOfDeck,
          settings: FilmSettings.parse(settings),
        })),
      }))
}
type StepRow = Awaited<ReturnType<typeof lectureRows>>['stepRows'][number]

/** What screen and camera recorded with some takes, whole ones only. */
async function footageOfTakes(db: Tables, lectureId: string, ofTakes: readonly (typeof takes.$inferSelect)[]) {
  const named = new Set(ofTakes.flatMap((take) => (take.footage ?? []).map((cut) => cut.footageId)))
  const rows = await db
    .select()
    .from(footage)
    .where(and(eq(footage.lectureId, lectureId), isNotNull(footage.original)))
    .orderBy(asc(footage.createdAt), asc(footage.id))
  return rows.filter((row) => named.has(row.id))
}

/** What a lecture's bundle says. @throws UserFacingError (404) when there is none */
export async function describeBundle(db: Tables, lectureId: string): Promise<Bundle> {
  const { lecture, slideRows, ids, stepRows, offeredRows } = await lectureRows(db, lectureId)
  const pictures = await picturesOf(db, stepRows)
  const takeRows = await db
    .select()
    .from(takes)
    .leftJoin(tidyUps, eq(tidyUps.takeId, takes.id))
    .where(and(inArray(takes.slideId, ids), isShownTake, eq(takes.state, 'sealed')))
    .orderBy(asc(takes.slideId), asc(takes.number))
  const sealed = takeRows.filter((row) => row.takes.sound !== null)
  const known = new Set(sealed.map((row) => row.takes.id))
  const footageRows = await footageOfTakes(
    db,
    lectureId,
    sealed.map((row) => row.takes),
  )
  const whole = new Set(footageRows.map((row) => row.id))
  const trackRows = await db
    .select()
    .from(captionTracks)
    .where(and(eq(captionTracks.lectureId, lectureId), isNull(captionTracks.deletedAt)))
    .orderBy(asc(captionTracks.id))
  const trackIds = trackRows.map((row) => row.id)
  const cueRows = await db.select().from(cues).where(inArray(cues.trackId, trackIds)).orderBy(asc(cues.start), asc(cues.id))
  const translated = await db
    .select()
    .from(translations)
    .where(inArray(translations.trackId, trackIds))
    .orderBy(asc(translations.cueId))
  const bedRows = await db
    .select()
    .from(beds)
    .where(and(eq(beds.lectureId, lectureId), isNull(beds.deletedAt)))
    .orderBy(asc(beds.createdAt), asc(beds.id))
  const { title, language, timing, transition, exportSettings, lineCharacters, smallPicture, countsWatching } = lecture
  const { crest: _, ...plainSettings } = ExportSettings.parse(exportSettings ?? {})
  return Bundle.parse({
    bundle: 'tidy-lectern',
    version: BUNDLE_VERSION,
    // the crest is the school's and not the lecture's: it stays where it is
    lecture: {
      title,
      language,
      timing: TimingDefaults.parse(timing),
      transition,
      exportSettings: exportSettings ? plainSettings : null,
      lineCharacters,
      smallPicture: smallPicture ? SmallPicture.parse(smallPicture) : null,
      countsWatching,
    },
    slides: slideRows.map(({ lectureId: _, position: __, deletedAt: ___, ...row }) => ({
      ...row,
      keptTakeId: row.keptTakeId && known.has(row.keptTakeId) ? row.keptTakeId : null,
      warnings: (row.warnings ?? []).map((warning) => (typeof warning === 'string' ? { id: warning } : warning)),
      questions: row.questions ?? [],
      steps: pictures(stepRows, row.id),
      offered: pictures(offeredRows, row.id),
    })),
    takes: sealed.map(({ takes: row, tidyUps: edits }) => ({
      ...row,
      sound: path('takes', row.sound!),
      tidyUp: edits?.tidyUp ?? null,
      alignment: row.alignment ?? null,
      stepMoments: row.stepMoments ?? {},
      marks: row.marks ?? [],
      bookmarks: row.bookmarks ?? [],
      footage: (row.footage ?? []).filter((cut) => whole.has(cut.footageId)),
    })),
    footage: footageRows.map((row) => ({ ...row, original: footagePath(row.original!) })),
    captionTracks: trackRows.map((row) => ({
      ...row,
      // those of takes that were deleted are heard nowhere
      cues: cueRows.filter(
        (cue) => cue.trackId === row.id && (cue.takeId === null || known.has(cue.takeId)) && ids.includes(cue.slideId),
      ),
      translations: translated.filter((t) => t.trackId === row.id),
    })),
    beds: bedRows.map((row) => ({ ...row, sound: path('beds', row.sound) })),
  })
}

/** The files of a bundle: its description, pictures, films, recordings as they were made, beds, and the captions for other programs. */
export async function bundleFiles({ db, store }: AppContext, lectureId: string): Promise<ZippedFile[]> {
  const bundle = await describeBundle(db.read, lectureId)
  const lecture = await readLecture(db.read, lectureId)
  return [
    { path: 'bundle.json', content: `${JSON.stringify(bundle, null, 1)}\n` },
    ...filesNamed(bundle).map((name) => ({ path: name, content: { store, name: nameIn(name) } })),
    ...lecture.captionTracks.map((track, i) => ({
      path: `captions/${i + 1}.${track.language}.vtt`,
      content: writeWebVtt(publishedCues(lecture, track)),
    })),
    ...lecture.chapterTracks.map((track, i) => ({
      path: `chapters/${i + 1}.${track.language}.vtt`,
      content: writeWebVtt(chaptersOnLecture(lecture, track.cues)),
    })),
  ]
}
