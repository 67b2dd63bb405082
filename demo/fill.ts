/** Fills an empty data folder with the demo lecture, through the same import, recording and tidying that people use. */
import { randomUUID } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { crc32 } from '#core/audio/crc32.ts'
import { openApp } from '#server/app.ts'
import { configFrom } from '#server/config.ts'
import { jobs, lectures, slides } from '#server/db/schema.ts'
import { changeLecture, changeSlide } from '#server/lectures/edit.ts'
import { readLecture } from '#server/lectures/read.ts'
import { beginTake, keepChunk, sealTake } from '#server/lectures/takes.ts'
import { bytesOf, decodeFlac } from '#server/media/sound-files.ts'
import { DEMO_DECK, DEMO_SLIDES, DEMO_TITLE } from './lecture.ts'

const files = join(process.cwd(), 'demo/files')
const CHUNK_BYTES = 96_000

const opened = await openApp(configFrom(process.env, ''))
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

const known = await db.read.select().from(lectures)
if (known.length === 0) {
  process.stdout.write('Filling the shelf with the demo lecture: the deck … ')
  const lectureId = randomUUID()
  const deck = await tools.store.put(readFileSync(join(files, DEMO_DECK)))
  const job = await queue.add('import', null, { lectureId, language: 'en', files: [{ name: DEMO_DECK, file: deck }] })
  await ended(job.id)
  await changeLecture(db, lectureId, { title: DEMO_TITLE })
  const rows = await db.read.select().from(slides).where(eq(slides.lectureId, lectureId)).orderBy(slides.position)
  for (const [i, { script, takes }] of DEMO_SLIDES.entries()) {
    const slideId = rows[i]!.id
    await changeSlide(db, slideId, { script })
    for (const name of takes) {
      process.stdout.write(`slide ${i + 1} … `)
      const pcm = bytesOf(await decodeFlac(tools.media, join(files, name)))
      const takeId = randomUUID()
      await beginTake(tools, takeId, { slideId, microphone: 'Laptop microphone', startedAt: Date.now() })
      let chunks = 0
      for (let at = 0; at < pcm.length; at += CHUNK_BYTES) {
        const chunk = pcm.subarray(at, at + CHUNK_BYTES)
        await keepChunk(tools, takeId, chunks++, crc32(chunk), chunk)
      }
      await sealTake(tools, queue, takeId, { chunks, gaps: 0, recovered: false })
    }
  }
  process.stdout.write('tidying … ')
  for (const job of await db.read.select().from(jobs)) await ended(job.id)
  await readLecture(db.read, lectureId)
  console.log('done.')
}
await opened.close()
process.exit(0)
