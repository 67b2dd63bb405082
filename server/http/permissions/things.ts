/** Which lecture, or space, a request is about: by the thing it names in its address or its body. */

import { and, eq, inArray, isNull, or, sql } from 'drizzle-orm'
import type { SQLiteColumn, SQLiteTable } from 'drizzle-orm/sqlite-core'
import { z } from 'zod'
import { message } from '#core/words/say.ts'
import type { Tables } from '#server/db/database.ts'
import { films, footage } from '#server/db/moving-schema.ts'
import { comments } from '#server/db/people-schema.ts'
import {
  beds,
  captionTracks,
  clips,
  editions,
  jobs,
  lectures,
  links,
  recordings,
  replacements,
  slides,
  steps,
  takes,
} from '#server/db/schema.ts'
import { voiceLinks } from '#server/db/voices-schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { viewOf } from '#server/events/job-view.ts'
import { broughtFor } from '#server/people/just-brought.ts'

/** A request as far as it names things. */
export interface Asked {
  /** A part of its address by its name in the route. */
  param(name: string): string
  /** @throws UserFacingError when it is no JSON */
  json(): Promise<unknown>
}

/** @returns ids of the lectures a request is about: all of them must be the asker's; none when what it names is not there */
export type Finder = (asked: Asked, read: Tables) => Promise<string[]>

type OwnTable = SQLiteTable & { lectureId: SQLiteColumn }

const ofRow =
  (table: OwnTable, key: SQLiteColumn, name: string): Finder =>
  async (asked, read) => {
    const rows = await read
      .select({ lectureId: table.lectureId })
      .from(table)
      .where(eq(key, asked.param(name)))
    return rows.map(({ lectureId }) => lectureId as string)
  }

const ofSlides = async (read: Tables, ids: string[]) =>
  (await read.selectDistinct({ lectureId: slides.lectureId }).from(slides).where(inArray(slides.id, ids))).map(
    ({ lectureId }) => lectureId,
  )

const ofTakes = async (read: Tables, ids: string[]) => {
  const rows = await read
    .selectDistinct({ lectureId: slides.lectureId })
    .from(takes)
    .innerJoin(slides, eq(slides.id, takes.slideId))
    .where(inArray(takes.id, ids))
  return rows.map(({ lectureId }) => lectureId)
}

/** Of a body only what it names: the rest is looked at by its route. */
async function named<T>(asked: Asked, schema: z.ZodType<T>): Promise<T> {
  const { success, data } = schema.safeParse(await asked.json())
  if (!success) throw new UserFacingError(message('This request cannot be read. Load the page again.'), 422)
  return data as T
}

export const theLecture: Finder = async (asked) => [asked.param('id')]
export const ofSlide: Finder = (asked, read) => ofSlides(read, [asked.param('id')])
export const ofTake: Finder = (asked, read) => ofTakes(read, [asked.param('id')])
export const ofTrack = ofRow(captionTracks, captionTracks.id, 'id')
export const ofBed = ofRow(beds, beds.id, 'id')
export const ofFilm: Finder = async (asked, read) => {
  const rows = await read
    .select({ lectureId: slides.lectureId })
    .from(films)
    .innerJoin(steps, eq(steps.id, films.stepId))
    .innerJoin(slides, eq(slides.id, steps.slideId))
    .where(eq(films.id, asked.param('id')))
  return rows.map(({ lectureId }) => lectureId)
}
export const ofFootage = ofRow(footage, footage.id, 'id')
export const ofRecording = ofRow(recordings, recordings.id, 'id')
export const ofEdition = ofRow(editions, editions.id, 'id')
export const ofLink = ofRow(links, links.token, 'token')
export const ofVoiceLink = ofRow(voiceLinks, voiceLinks.token, 'token')
export const ofComment = ofRow(comments, comments.id, 'id')
export const ofReplacement = ofRow(replacements, replacements.id, 'id')

/** The take may be new; one that is there stays where it is. */
export const ofNewTake: Finder = async (asked, read) => {
  const { slideId } = await named(asked, z.object({ slideId: z.string() }))
  const here = await ofSlides(read, [slideId])
  return here.length === 0 ? [] : [...here, ...(await ofTakes(read, [asked.param('id')]))]
}

export const ofSlidesInBody: Finder = async (asked, read) => {
  const body = await named(asked, z.object({ slides: z.array(z.object({ id: z.string() })) }))
  return ofSlides(
    read,
    body.slides.map(({ id }) => id),
  )
}

export const ofTakesInBody: Finder = async (asked, read) => {
  const body = await named(
    asked,
    z.object({ takeId: z.string(), againTakeId: z.string().optional(), slideId: z.string().optional() }),
  )
  const takeIds = [body.takeId, ...(body.againTakeId ? [body.againTakeId] : [])]
  return [...(await ofTakes(read, takeIds)), ...(body.slideId ? await ofSlides(read, [body.slideId]) : [])]
}

export const ofJob: Finder = async (asked, read) => {
  const rows = await read
    .select()
    .from(jobs)
    .where(eq(jobs.id, asked.param('id')))
  return rows.flatMap((row) => viewOf(row).aboutLectureId ?? [])
}

/** @returns lectures that use a file of the store, by any of their things */
export async function lecturesWithFile(read: Tables, file: string): Promise<string[]> {
  const found: string[] = []
  const add = (rows: { lectureId: string }[]) => found.push(...rows.map(({ lectureId }) => lectureId))
  const bySlide = { lectureId: slides.lectureId }
  for (const column of [steps.picture, steps.thumbnail])
    add(await read.selectDistinct(bySlide).from(steps).innerJoin(slides, eq(slides.id, steps.slideId)).where(eq(column, file)))
  // what others said is heard by the lecture's owners alone, and before it is sent by nobody else
  const isOfLecture = and(eq(takes.isAnswer, false), or(isNull(takes.voiceId), eq(takes.voiceState, 'sent')))
  for (const column of [takes.sound, takes.peaks, takes.spectrogram])
    add(
      await read
        .selectDistinct(bySlide)
        .from(takes)
        .innerJoin(slides, eq(slides.id, takes.slideId))
        .where(and(eq(column, file), isOfLecture)),
    )
  for (const column of [clips.sound, clips.peaks])
    add(
      await read
        .selectDistinct(bySlide)
        .from(clips)
        .innerJoin(takes, eq(takes.id, clips.takeId))
        .innerJoin(slides, eq(slides.id, takes.slideId))
        .where(and(eq(column, file), isOfLecture)),
    )
  for (const column of [films.proxy, films.sound, films.strip, films.original])
    add(
      await read
        .selectDistinct(bySlide)
        .from(films)
        .innerJoin(steps, eq(steps.id, films.stepId))
        .innerJoin(slides, eq(slides.id, steps.slideId))
        .where(eq(column, file)),
    )
  for (const column of [footage.proxy, footage.strip, footage.original])
    add(await read.selectDistinct({ lectureId: footage.lectureId }).from(footage).where(eq(column, file)))
  for (const table of [beds, recordings])
    for (const column of [table.sound, table.peaks])
      add(await read.selectDistinct({ lectureId: table.lectureId }).from(table).where(eq(column, file)))
  if (found.length > 0) return found
  // a mark of the house, a page that is still being read or not taken over yet: they stand inside other things
  add(
    await read
      .select({ lectureId: lectures.id })
      .from(lectures)
      .where(sql`${lectures.exportSettings} ->> '$.crest.picture' = ${file}`),
  )
  add(
    await read
      .select({ lectureId: replacements.lectureId })
      .from(replacements)
      .where(sql`instr(${replacements.found}, ${file}) > 0`),
  )
  const isMade = and(eq(jobs.state, 'running'), sql`instr(${jobs.result}, ${file}) > 0`)
  found.push(...(await read.select().from(jobs).where(isMade)).flatMap((row) => viewOf(row).aboutLectureId ?? []))
  return found
}

export const ofFile: Finder = async (asked, read) => {
  const file = asked.param('file').split('.')[0]!
  const found = await lecturesWithFile(read, file)
  const brought = broughtFor(file)
  return brought === null ? found : [...found, brought]
}
