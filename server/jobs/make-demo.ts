/** Makes the demo lecture through the same import, recording and tidying that people use. */

import { randomUUID } from 'node:crypto'
import { existsSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { z } from 'zod'
import { crc32 } from '#core/audio/signal/crc32.ts'
import { FilmPlace } from '#core/model/moving/film.ts'
import { message } from '#core/words/say.ts'
import { beds, lectures, slides, takes } from '#server/db/schema.ts'
import { stepsOfSlide } from '#server/domain/lectures/create.ts'
import { changeLecture, changeSlide } from '#server/domain/lectures/edit.ts'
import { addFilm, changeFilm, unreadyFilms } from '#server/domain/lectures/films.ts'
import { beginTake, keepChunk, sealTake } from '#server/domain/takes/takes.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { bytesOf, decodeFlac } from '#server/media/sound-files.ts'
import type { JobContext, JobDefinition } from '#server/queue/queue.ts'
import { importDeck } from './decks/import-deck.ts'

/** What `lecture.json` among the demo's files says. */
export const DemoLecture = z.object({
  title: z.string(),
  deck: z.string(),
  /** Opening music, under the first slide. */
  music: z.string(),
  /** Recordings of a slide are files, oldest first; the last one is kept. */
  slides: z.array(
    z.object({
      script: z.string(),
      altText: z.string().optional(),
      takes: z.array(z.string()),
      /** In which nobody speaks. */
      film: z.object({ file: z.string(), description: z.string(), place: FilmPlace }).optional(),
    }),
  ),
})

/** The demo lecture's own id, by which a making that was broken off is taken up again. */
export const DEMO_ID = '7d0c1a3e-5a5c-4a5e-9f43-2a1d6f0a9b11'
const CHUNK_BYTES = 96_000

const description = (folder: string) => join(folder, 'lecture.json')
export const hasDemo = (folder: string) => existsSync(description(folder))

async function recordTake(context: JobContext, slideId: string, file: string) {
  const pcm = bytesOf(await decodeFlac(context.media, file))
  const takeId = randomUUID()
  await beginTake(context, takeId, { slideId, microphone: 'Laptop microphone', startedAt: Date.now() })
  let chunks = 0
  for (let at = 0; at < pcm.length; at += CHUNK_BYTES) {
    const chunk = pcm.subarray(at, at + CHUNK_BYTES)
    await keepChunk(context, takeId, chunks++, crc32(chunk), chunk)
  }
  await sealTake(context, context.queue, takeId, { chunks, dropoutCount: 0, dropoutMs: 0, recovered: false })
}

/** Makes what of the demo lecture is not there yet. */
export const makeDemo: JobDefinition<'demo'>['run'] = async ({ lectureId }, context, report, signal) => {
  const { db, store, config } = context
  const file = (name: string) => join(config.demoFolder, name)
  if (!hasDemo(config.demoFolder))
    throw new UserFacingError(message('The files of the demo lecture are not here. Begin with a deck of your own.'), 404)
  const demo = DemoLecture.parse(JSON.parse(await readFile(description(config.demoFolder), 'utf8')))
  const keep = async (name: string) => store.put(await readFile(file(name)))
  const rows = () => db.read.select().from(slides).where(eq(slides.lectureId, lectureId)).orderBy(slides.position)

  if ((await db.read.$count(lectures, eq(lectures.id, lectureId))) === 0) {
    const files = [{ name: demo.deck, file: await keep(demo.deck) }]
    await importDeck(
      { lectureId, language: 'en', chosenLanguage: null, files },
      context,
      (share, stage) => report(share / 2, stage),
      signal,
    )
    await changeLecture(db, lectureId, { title: demo.title })
    for (const [i, { id }] of (await rows()).entries()) {
      const { script, altText, film } = demo.slides[i]!
      await changeSlide(db, id, altText === undefined ? { script } : { script, altText })
      if (!film) continue
      const [step] = await stepsOfSlide(db.read, id)
      const filmId = randomUUID()
      await addFilm(db, step!, filmId, { name: film.file, file: await keep(film.file) })
      await changeFilm(db, filmId, { place: film.place, description: film.description, isSpoken: false })
    }
    for (const filmId of await unreadyFilms(db.read, lectureId)) await context.queue.add('film', lectureId, { filmId })
  }
  // deleted takes count too: what somebody threw away does not come back, and a lecture that was full once is left alone
  const there = await Promise.all((await rows()).map(({ id }) => db.read.$count(takes, eq(takes.slideId, id))))
  const all = demo.slides.reduce((sum, slide) => sum + slide.takes.length, 0)
  let made = there.reduce((sum, count) => sum + count, 0)
  const isFull = made >= all
  for (const [i, { id }] of (await rows()).entries()) {
    if (isFull) break
    for (const name of demo.slides[i]!.takes.slice(there[i])) {
      signal.throwIfAborted()
      report(0.5 + made++ / all / 2, message('Speaking to slide {number}', { number: i + 1 }))
      await recordTake(context, id, file(name))
    }
  }
  const [first] = await rows()
  if (!isFull && first && (await db.read.$count(beds, eq(beds.lectureId, lectureId))) === 0) {
    const run = { fromSlideId: first.id, toSlideId: first.id }
    const bed = { id: randomUUID(), lectureId, name: 'Opening music', file: await keep(demo.music), run }
    await context.queue.add('bed', lectureId, bed)
  }
  return { lectureId, unmatched: [], films: [], sounds: [] }
}
