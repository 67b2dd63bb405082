/** A long lecture on a real server: a few recordings that many slides share, so that three hours are there in a minute. */
import { randomUUID } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type HttpBindings, serve } from '@hono/node-server'
import { eq } from 'drizzle-orm'
import { fromInt16 } from '#core/audio/signal/pcm.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { DEMO_SLIDES } from '#demo/lecture.ts'
import { openApp } from '#server/app.ts'
import { captionTracks, clips, cues, jobs, slides, steps, takes, tidyUps } from '#server/db/schema.ts'
import { clipKey, readLecture } from '#server/domain/lectures/read.ts'
import { keepWholeTake } from '#server/domain/takes/takes.ts'
import { decodeFlac } from '#server/media/sound-files.ts'

const root = join(import.meta.dirname, '../..')
const FILES = join(root, 'demo/files')
const TAKES = ['take-1a.flac', 'take-2b.flac', 'take-3a.flac', 'take-4a.flac']

/** @param ffmpeg a program to be run in its place */
export async function openBenchServer(port: number, ffmpeg = 'ffmpeg') {
  const dataFolder = mkdtempSync(join(tmpdir(), 'lectern-bench-'))
  const config = {
    dataFolder,
    mode: 'alone' as const,
    store: null,
    queue: null,
    publicUrl: null,
    identityProvider: null,
    mail: null,
    port,
    host: '127.0.0.1',
    publicHosts: [],
    appHosts: [],
    proxies: [],
    ffmpeg,
    recogniser: null,
    demoFolder: '',
    log: 'text' as const,
    prepareAfterMs: null,
    webFolder: join(root, 'dist/web'),
  }
  const opened = await openApp(config)
  const server = serve({ fetch: (request, env) => opened.app.fetch(request, env as HttpBindings), port, hostname: '127.0.0.1' })
  const ended = async (id: string) => {
    for (;;) {
      const [job] = await opened.context.db.read.select().from(jobs).where(eq(jobs.id, id))
      if (job?.state === 'failed') throw new Error(job.error ?? 'A job failed')
      if (job?.state === 'done') return job
      await new Promise((resolve) => setTimeout(resolve, 50))
    }
  }
  return {
    ...opened,
    address: `http://localhost:${port}`,
    ended,
    async end() {
      server.close()
      await opened.close()
      rmSync(dataFolder, { recursive: true, force: true })
    },
  }
}
export type BenchServer = Awaited<ReturnType<typeof openBenchServer>>

/** @returns id of a lecture of four slides */
export async function importDeck({ context, queue, ended }: BenchServer): Promise<string> {
  const lectureId = randomUUID()
  const file = await context.store.put(readFileSync(join(FILES, 'clouds-by-their-shapes.pdf')))
  const job = await queue.add('import', null, {
    lectureId,
    language: 'en',
    chosenLanguage: null,
    files: [{ name: 'clouds.pdf', file }],
  })
  await ended(job.id)
  return lectureId
}

/** Takes of about so many seconds, tidied, one on each of the four slides. */
async function recordFour({ context, queue }: BenchServer, lecture: Lecture, seconds: number) {
  for (const [i, slide] of lecture.slides.entries()) {
    const said = fromInt16(await decodeFlac(context.media, join(FILES, TAKES[i]!)))
    const pcm = new Int16Array(toSamples(seconds))
    for (let n = 0; n < pcm.length; n++) pcm[n] = Math.round(said[n % said.length]! * 32767)
    await keepWholeTake(context, queue, { id: randomUUID(), slideId: slide.id, pcm, microphone: 'bench' })
  }
  for (;;) {
    const open = await context.db.read.select().from(jobs).where(eq(jobs.kind, 'tidy'))
    if (open.every((job) => job.state === 'done')) return
    await new Promise((resolve) => setTimeout(resolve, 200))
  }
}

/**
 * A lecture of many slides.
 *
 * @param seconds of sound on each; 0 leaves them silent
 */
export async function longLecture(server: BenchServer, count: number, seconds: number): Promise<Lecture> {
  const { db } = server.context
  const lectureId = await importDeck(server)
  if (seconds > 0) await recordFour(server, await readLecture(db.read, lectureId), seconds)
  const four = (await readLecture(db.read, lectureId)).slides
  const [track] = await db.read.select().from(captionTracks).where(eq(captionTracks.lectureId, lectureId))
  await db.write(async (tx) => {
    for (let n = 4; n < count; n++) {
      const model = four[n % 4]!
      const slideId = randomUUID()
      const take = model.takes[0]
      const takeId = take ? randomUUID() : null
      const script = DEMO_SLIDES[n % 4]!.script
      await tx.insert(slides).values({
        id: slideId,
        lectureId,
        position: n,
        title: `${n + 1}. ${model.title}`,
        altText: 'described',
        script,
        timing: {},
        keptTakeId: takeId,
      })
      const { picture, thumbnail, width, height } = model.steps[0]!
      await tx.insert(steps).values({ id: randomUUID(), slideId, position: 0, picture, thumbnail, width, height })
      if (!take || !takeId) continue
      const { sound, peaks, spectrogram, analysis, samples, microphone } = take
      await tx.insert(takes).values({
        id: takeId,
        slideId,
        number: 1,
        state: 'sealed',
        startedAt: Date.now(),
        microphone,
        samples,
        sound,
        peaks,
        spectrogram,
        analysis,
      })
      await tx.insert(tidyUps).values({ takeId, tidyUp: take.tidyUp! })
      const words = script.split(/(?<=[.;])\s/)
      await tx.insert(cues).values(
        words.map((text, i) => ({
          id: randomUUID(),
          trackId: track!.id,
          slideId,
          takeId,
          start: 1 + (i * seconds) / words.length,
          end: 0.8 + ((i + 1) * seconds) / words.length,
          text,
          settings: '',
        })),
      )
      // clips are known by what goes into them: one rendering serves all takes of the same sound and recipe, each with a row of its own
      const [clip] = await tx
        .select()
        .from(clips)
        .where(eq(clips.key, clipKey(sound!, take.tidyUp!)))
      if (!clip) throw new Error('The model slide has no clip')
    }
  })
  return readLecture(db.read, lectureId)
}
