/** The real app on a real data folder of its own, asked as a browser asks it. */

import { randomUUID } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { crc32 } from '#core/audio/signal/crc32.ts'
import type { ImportedLecture } from '#core/jobs/job.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { type Message, say } from '#core/words/say.ts'
import { openApp } from '#server/app.ts'
import type { IdentityProvider, MailSettings, Mode } from '#server/config/config.ts'
import type { StoreSetting } from '#server/config/store-setting.ts'
import type { JobView } from '#server/events/job-view.ts'
import { startWorkers, type Workers } from '#server/workers/pool.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { seedLecture } from '#tests/support/seed.ts'

/** What was said, in English; null where nothing was. */
export const inWords = (said: Message | null | undefined) => (said ? say(said) : null)

export const demoFile = (name: string) => readFileSync(join(import.meta.dirname, '../../demo/files', name))
export const file = (name: string, content: Uint8Array | string) => new File([content as BlobPart], name)

/** Threads that stay warm from one app to the next: only the files and the database have to be new for each. */
const threads = startWorkers()
let rehearsed: Promise<void> | undefined
export const workers: Workers = {
  ...threads,
  rehearse() {
    rehearsed ??= threads.rehearse()
    return rehearsed
  },
  close: async () => {},
}

export async function openTestApp(
  options: {
    mode?: Mode
    publicUrl?: string
    identityProvider?: IdentityProvider
    mail?: MailSettings
    dataFolder?: string
    store?: StoreSetting
    queue?: string
    ffmpeg?: string
    publicHosts?: string[]
    appHosts?: string[]
    proxies?: string[]
    recogniser?: string
    prepareAfterMs?: number
    webFolder?: string
    demoFolder?: string
  } = {},
) {
  const dataFolder = options.dataFolder ?? mkdtempSync(join(tmpdir(), 'lectern-test-'))
  const config = {
    dataFolder,
    mode: options.mode ?? ('alone' as const),
    publicUrl: options.publicUrl ?? null,
    store: options.store ?? null,
    queue: options.queue ?? null,
    identityProvider: options.identityProvider ?? null,
    mail: options.mail ?? null,
    port: 0,
    host: '127.0.0.1',
    publicHosts: options.publicHosts ?? [],
    appHosts: options.appHosts ?? [],
    proxies: options.proxies ?? [],
    ffmpeg: options.ffmpeg ?? 'ffmpeg',
    recogniser: options.recogniser ?? null,
    webFolder: options.webFolder ?? import.meta.dirname,
    demoFolder: options.demoFolder ?? join(import.meta.dirname, '../../demo/files'),
    log: 'text' as const,
    prepareAfterMs: options.prepareAfterMs ?? null,
  }
  const opened = await openApp(config, workers)
  /** @param address of the other end of the line; this machine when absent */
  const ask = (path: string, init: RequestInit = {}, address?: string) =>
    opened.app.request(
      `http://localhost${path}`,
      { ...init, headers: { host: 'localhost', ...(init.headers as Record<string, string>) } },
      address === undefined ? undefined : { incoming: { socket: { remoteAddress: address } } },
    )
  const json = (method: string, path: string, body: unknown) =>
    ask(path, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
  const read = async <T = Record<string, never>>(path: string) => (await (await ask(path)).json()) as T

  const isOpen = ({ state }: JobView) => state === 'queued' || state === 'running'
  /** The next job that ends, or a moment: what another process or an earlier app does is not told here. */
  function nextEnd() {
    let stop = () => {}
    const heard = new Promise<void>((resolve) => {
      const timer = setTimeout(resolve, 200)
      const off = opened.context.events.listen((event) => event.type === 'job' && !isOpen(event.job) && resolve())
      stop = () => {
        clearTimeout(timer)
        off()
      }
    })
    return { heard, stop }
  }
  async function ended(id: string): Promise<JobView> {
    for (;;) {
      // listened for before it is looked at: it may end in between
      const { heard, stop } = nextEnd()
      try {
        const job = (await read<{ jobs: JobView[] }>('/api/jobs')).jobs.find((j) => j.id === id)
        if (job && !isOpen(job)) return job
        await heard
      } finally {
        stop()
      }
    }
  }
  /** Until no job is left, those included that other jobs began. */
  async function idle() {
    for (;;) {
      const { jobs } = await read<{ jobs: JobView[] }>('/api/jobs')
      const open = jobs.filter(isOpen)
      if (open.length === 0) return
      for (const job of open) await ended(job.id)
    }
  }
  async function addDeck(...files: File[]): Promise<JobView> {
    const form = new FormData()
    for (const f of files) form.append('files', f)
    form.append('language', 'en')
    const answer = await ask('/api/lectures', { method: 'POST', body: form })
    const body = (await answer.json()) as { job?: JobView; error?: string }
    if (!body.job) throw new Error(body.error)
    return ended(body.job.id)
  }
  /** A deck as the lecture it becomes. */
  async function imported(...files: File[]): Promise<{ lecture: Lecture; result: ImportedLecture }> {
    const job = await addDeck(...files)
    if (job.state !== 'done') throw new Error(inWords(job.error) ?? job.state)
    await idle()
    const result = job.result as ImportedLecture
    return { lecture: await read<Lecture>(`/api/lectures/${result.lectureId}`), result }
  }
  /** A lecture of four slides from the demo's second deck. */
  async function newLecture(): Promise<Lecture> {
    return read<Lecture>(`/api/lectures/${await seedLecture(opened.context.db, opened.context.store, 'clouds')}`)
  }
  const begin = (takeId: string, slideId: string) =>
    json('PUT', `/api/takes/${takeId}`, { slideId, microphone: 'Test microphone', startedAt: Date.now() })
  const sendChunk = (takeId: string, chunk: number, pcm: Uint8Array, checksum = crc32(pcm)) =>
    ask(`/api/takes/${takeId}/chunks/${chunk}`, {
      method: 'PUT',
      headers: { 'x-checksum': String(checksum) },
      body: pcm as BodyInit,
    })
  const seal = (takeId: string, chunks: number) => json('POST', `/api/takes/${takeId}/seal`, { chunks, dropoutCount: 0 })
  /** Records as the booth does, whole. @returns the take's id */
  async function record(slideId: string, samples: Float32Array): Promise<string> {
    const takeId = randomUUID()
    await begin(takeId, slideId)
    const chunks = chunksOf(samples)
    for (const [i, chunk] of chunks.entries()) await sendChunk(takeId, i, chunk)
    const sealed = await seal(takeId, chunks.length)
    if (!sealed.ok) throw new Error(await sealed.text())
    await idle()
    return takeId
  }
  return {
    ...opened,
    ask,
    json,
    read,
    ended,
    idle,
    addDeck,
    imported,
    newLecture,
    begin,
    sendChunk,
    seal,
    record,
    dataFolder,
    /** Ends the app; the data folder goes too unless it is wanted again. */
    async end(keep = false) {
      await opened.close()
      if (!keep) rmSync(dataFolder, { recursive: true, force: true })
    },
  }
}

export type TestApp = Awaited<ReturnType<typeof openTestApp>>
