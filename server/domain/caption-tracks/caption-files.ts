/** Caption files that are attached: judged by what is in them, placed over the slides, good captions kept whatever is wrong with others. */

import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { parseSubRip } from '#core/captions/formats/subrip.ts'
import { parseCueText, plainCueText, writeCueText } from '#core/captions/formats/webvtt/cue-text.ts'
import { type ParsedCue, parseWebVtt, type VttProblem } from '#core/captions/formats/webvtt/parse.ts'
import { writeSettings } from '#core/captions/formats/webvtt/settings.ts'
import type { VttHead } from '#core/captions/formats/webvtt/write.ts'
import { placeChapters } from '#core/captions/tracks/chapter-tracks.ts'
import { placeCues } from '#core/captions/tracks/place-cues.ts'
import type { TrackKind } from '#core/model/caption.ts'
import { type FilmCaptions, FilmCue, MOST_FILM_CUES } from '#core/model/moving/film-captions.ts'
import { message } from '#core/words/say.ts'
import type { Database } from '#server/db/database.ts'
import { insertCues } from '#server/db/insert-cues.ts'
import { captionTracks, lectures } from '#server/db/schema.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

export const MOST_CAPTION_BYTES = 5_000_000
/** Ten hours with a caption every two seconds. */
const MOST_CUES = 20_000

const UTF16: Record<string, string> = { '255 254': 'utf-16le', '254 255': 'utf-16be' }

function decoded(name: string, bytes: Uint8Array): string {
  const marked = UTF16[`${bytes[0]} ${bytes[1]}`]
  if (marked) return new TextDecoder(marked).decode(bytes)
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    // what is not UTF-8 is mostly Windows text; a WebVTT file is UTF-8 by its standard, so there letters would be guessed
    const text = new TextDecoder('windows-1252').decode(bytes)
    if (!text.startsWith('WEBVTT')) return text
    throw new UserFacingError(
      message('“{name}” is not UTF-8 text, as WebVTT files are. Save it as UTF-8 and attach it again.', { name }),
      415,
    )
  }
}

/**
 * Reads a WebVTT or SubRip file, whatever its name says.
 *
 * @throws UserFacingError when it is neither
 */
export function readCaptionFile(
  name: string,
  bytes: Uint8Array,
): { format: 'vtt' | 'srt'; cues: ParsedCue[]; head: VttHead; problems: VttProblem[] } {
  if (bytes.length > MOST_CAPTION_BYTES)
    throw new UserFacingError(
      message('“{name}” is larger than 5 MB, which no caption file is. Choose another file.', { name }),
      413,
    )
  const text = decoded(name, bytes)
  const vtt = parseWebVtt(text)
  if (vtt.signed) return { format: 'vtt', cues: vtt.cues, head: vtt, problems: vtt.problems }
  const srt = parseSubRip(text)
  if (srt.cues.length > 0) return { format: 'srt', head: { regions: [], styles: [] }, ...srt }
  throw new UserFacingError(
    message(
      '“{name}” is neither a WebVTT nor a SubRip file: it does not begin with WEBVTT, and no line has times. Export the captions as .vtt or .srt and attach that.',
      { name },
    ),
    415,
  )
}

/** Those that last and say something, in plain text and, where that is not all, with tags. */
const usableCues = (cues: readonly ParsedCue[]) =>
  cues
    .filter((cue) => cue.end > cue.start)
    .map((cue) => {
      const markup = writeCueText(parseCueText(cue.text))
      const text = plainCueText(markup)
      return { ...cue, text, markup: /</.test(markup) ? markup : null, settings: writeSettings(cue.placed) }
    })
    .filter((cue) => cue.text.trim() !== '')

/**
 * Reads a caption file for a film, whose clock it is on. Nothing is kept yet.
 *
 * @param seconds how long the film is
 * @throws UserFacingError when the file is no caption file, or none of its captions falls into the film
 */
export function filmCaptions(
  { name, language, seconds }: { name: string; language: string; seconds: number },
  bytes: Uint8Array,
): { captions: FilmCaptions; problems: VttProblem[] } {
  const read = readCaptionFile(name, bytes)
  const [cues, late]: [FilmCue[], VttProblem[]] = [[], []]
  for (const { start, end, text, markup, settings, line } of usableCues(read.cues)) {
    const read = FilmCue.safeParse({ start, end, text, markup, settings })
    if (start >= seconds)
      late.push({ line, message: message('This caption comes after the film has ended, so it was left out.') })
    else if (!read.success || cues.length === MOST_FILM_CUES)
      late.push({ line, message: message('This caption is too long, or one too many, so it was left out.') })
    else cues.push(read.data)
  }
  const problems = [...read.problems, ...late].sort((a, b) => a.line - b.line)
  if (cues.length === 0)
    throw new UserFacingError(
      message('None of the captions in “{name}” falls into this film. Is it the file of another one?', { name }),
      422,
      { problems },
    )
  return { captions: { language, name, cues: cues.toSorted((a, b) => a.start - b.start) }, problems }
}

export interface AttachedCaptions {
  trackId: string
  kept: number
  /** What was left out, by line of the file. */
  problems: VttProblem[]
}

export interface AttachWanted {
  language: string
  kind: TrackKind
  /** The file's times are those of this slide; null: those of the whole lecture. */
  slideId: string | null
}

/**
 * Attaches a caption file to a lecture, or to one of its slides. A file for the whole lecture replaces the one before it in its language.
 *
 * @throws UserFacingError when the file is no caption file, or none of its cues can be used
 */
export async function attachCaptions(
  db: Database,
  lectureId: string,
  name: string,
  bytes: Uint8Array,
  { language, kind, slideId }: AttachWanted,
): Promise<AttachedCaptions> {
  const read = readCaptionFile(name, bytes)
  if (read.cues.length > MOST_CUES)
    throw new UserFacingError(
      message('“{name}” holds {cues} captions; the most is {most}, which is ten hours of speech. Divide it.', {
        name,
        cues: read.cues.length,
        most: MOST_CUES,
      }),
      413,
    )
  const lecture = await readLecture(db.read, lectureId)
  if (slideId && !lecture.slides.some((s) => s.id === slideId))
    throw new UserFacingError(message('This slide is not here any more.'), 404)
  const usable = usableCues(read.cues)
  const { placed, problems } = kind === 'chapters' ? placeChapters(lecture, usable, slideId) : placeCues(lecture, usable, slideId)
  const all = [...read.problems, ...problems].sort((a, b) => a.line - b.line)
  if (placed.length === 0) {
    throw new UserFacingError(
      slideId
        ? kind === 'chapters'
          ? message('None of the chapters in “{name}” falls on this slide. Is it the file of another lecture?', { name })
          : message('None of the captions in “{name}” falls on this slide. Is it the file of another lecture?', { name })
        : kind === 'chapters'
          ? message('None of the chapters in “{name}” falls on a slide of this lecture. Is it the file of another lecture?', {
              name,
            })
          : message('None of the captions in “{name}” falls on a slide of this lecture. Is it the file of another lecture?', {
              name,
            }),
      422,
      { problems: all },
    )
  }
  const trackId = randomUUID()
  const tracks = kind === 'chapters' ? lecture.chapterTracks : lecture.captionTracks
  const before = tracks.find((t) => t.origin === 'file' && t.language === language)
  // what the file does not speak of stays; the track before it is only marked as deleted, with all it had
  const others = slideId && before ? before.cues.filter((cue) => cue.slideId !== slideId) : []
  await db.write(async (tx) => {
    if (before) await tx.update(captionTracks).set({ deletedAt: Date.now() }).where(eq(captionTracks.id, before.id))
    await tx.insert(captionTracks).values({ id: trackId, lectureId, language, kind, label: name, origin: 'file' })
    const all = [...others.map(({ id: _, ...cue }) => cue), ...placed]
    await insertCues(
      tx,
      all.map((cue) => ({ ...cue, id: randomUUID(), trackId })),
    )
    await tx.update(lectures).set({ updatedAt: Date.now() }).where(eq(lectures.id, lectureId))
  })
  return { trackId, kept: placed.length, problems: all }
}
