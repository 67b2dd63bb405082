/** Fills an empty data folder with the demo lecture, through the same import, recording and tidying that people use. */
import { randomUUID } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { crc32 } from '#core/audio/crc32.ts'
import { openApp } from '#server/app.ts'
import { configFrom } from '#server/config.ts'
import { beds, jobs, lectures, slides, takes } from '#server/db/schema.ts'
import { changeLecture, changeSlide } from '#server/lectures/edit.ts'
import { beginTake, keepChunk, sealTake } from '#server/lectures/takes.ts'
import { bytesOf, decodeFlac } from '#server/media/sound-files.ts'
import { Sentence } from '#server/sentence.ts'
import { DEMO_DECK, DEMO_MUSIC, DEMO_SLIDES, DEMO_TITLE } from './lecture.ts'

const files = join(process.cwd(), 'demo/files')
const CHUNK_BYTES = 96_000

const opened = await openApp(configFrom(process.env, '')).catch((error) => {
  console.error(error instanceof Sentence ? error.message : error)
  process.exit(1)
})
const { tools, queue } = opened
const { db } = tools

async function ended(jobId: string) {
  for (;;) {
    const [job] = await db.read.select().from(jobs).where(eq(jobs.id, jobId))
    if (job?.state === 'failed') throw new Error(`The demo could not be made: ${job.error}`)
    if (job?.state === 'done') return
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
}

/** The demo lecture's own id, by which a filling that was broken off is taken up again. */
const lectureId = '7d0c1a3e-5a5c-4a5e-9f43-2a1d6f0a9b11'

async function slideRows() {
  return db.read.select().from(slides).where(eq(slides.lectureId, lectureId)).orderBy(slides.position)
}

async function importDeck() {
  const deck = await tools.store.put(readFileSync(join(files, DEMO_DECK)))
  const job = await queue.add('import', null, { lectureId, language: 'en', files: [{ name: DEMO_DECK, file: deck }] })
  await ended(job.id)
  await changeLecture(db, lectureId, { title: DEMO_TITLE })
  for (const [i, { id }] of (await slideRows()).entries()) await changeSlide(db, id, { script: DEMO_SLIDES[i]!.script })
}

/** Opening music under the first slide, once: also when somebody took it away. */
async function addMusic() {
  const [first] = await slideRows()
  if (!first || (await db.read.$count(beds, eq(beds.lectureId, lectureId))) > 0) return
  const file = await tools.store.put(readFileSync(join(files, DEMO_MUSIC)))
  const run = { fromSlideId: first.id, toSlideId: first.id }
  const job = await queue.add('bed', lectureId, { id: randomUUID(), lectureId, name: 'Opening music', file, run })
  await ended(job.id)
}

async function recordTake(slideId: string, name: string) {
  const pcm = bytesOf(await decodeFlac(tools.media, join(files, name)))
  const takeId = randomUUID()
  await beginTake(tools, takeId, { slideId, microphone: 'Laptop microphone', startedAt: Date.now() })
  let chunks = 0
  for (let at = 0; at < pcm.length; at += CHUNK_BYTES) {
    const chunk = pcm.subarray(at, at + CHUNK_BYTES)
    await keepChunk(tools, takeId, chunks++, crc32(chunk), chunk)
  }
  await sealTake(tools, queue, takeId, { chunks, gaps: 0, gapMs: 0, recovered: false })
}

const shelf = await db.read.select().from(lectures)
const begun = shelf.some((lecture) => lecture.id === lectureId)
if (shelf.length === 0) {
  console.log('Filling the shelf with the demo lecture. This is done once and takes about half a minute.')
  await importDeck()
}
if (shelf.length === 0 || begun) {
  // deleted takes count too: what somebody threw away does not come back, and a lecture that was full once is left alone
  const rows = await slideRows()
  const there = await Promise.all(rows.map(({ id }) => db.read.$count(takes, eq(takes.slideId, id))))
  const all = DEMO_SLIDES.reduce((sum, slide) => sum + slide.takes.length, 0)
  if (there.reduce((sum, count) => sum + count, 0) < all) {
    for (const [i, { id }] of rows.entries()) {
      for (const name of DEMO_SLIDES[i]!.takes.slice(there[i])) {
        console.log(`  slide ${i + 1}: ${name}`)
        await recordTake(id, name)
      }
    }
    for (const job of await db.read.select().from(jobs).where(eq(jobs.kind, 'tidy'))) await ended(job.id)
    await addMusic()
  }
}
await opened.close()
process.exit(0)
