/** A machine that works for a server: it takes tasks from the queue, finds files in the store, and knows nothing else. */
import { randomUUID } from 'node:crypto'
import { hostname } from 'node:os'
import { type Job, UnrecoverableError, Worker } from 'bullmq'
import { Redis } from 'ioredis'
import { message } from '#core/words/say.ts'
import type { StoreSetting } from '#server/config/store-setting.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { readyToLaunch } from '#server/media/launch/launch.ts'
import { openBucket } from '#server/storage/bucket/bucket.ts'
import { BucketStore } from '#server/storage/bucket/bucket-store.ts'
import { makeRoom } from '#server/storage/bucket/sending.ts'
import { filesOfBucket } from '#server/storage/bucket/sent-files.ts'
import { clearScratch, folderStore } from '#server/storage/file-store.ts'
import { startWorkers } from '#server/workers/pool.ts'
import type { TaskKind, TaskTools } from '../task.ts'
import { tasksVersion } from '../version.ts'
import { workOn } from '../work.ts'
import { filesIn, type TaskAnswer } from './redis-tasks.ts'
import { CANCELLED, queueName, sayPresent, VERSION_KEY } from './roll.ts'

/** A machine that was not heard of for so long has lost its task to another. */
const LOCK_MS = 15_000
const STALLED_EVERY_MS = 5000
/** A task that ended so many machines is not tried on another. */
const MOST_STALLED = 2
const ROOM_EVERY_MS = 60_000
const VERSION_EVERY_MS = 5000

export interface WorkerSettings {
  queue: string
  store: StoreSetting
  /** For files that are being worked with; nothing in it need be kept. */
  folder: string
  ffmpeg: string
  slots: number
}

export interface TaskWorker {
  /** Resolves when it has ended by itself, with the reason. */
  readonly over: Promise<UserFacingError>
  /** Ends after what is being worked on. */
  close(): Promise<void>
}

const otherVersion = () =>
  new UserFacingError(
    message('The server is of another version than this machine. Bring both to the same version, and the same ffmpeg.'),
    409,
  )

/** Lines to Redis: one to ask, one to hear of what was cancelled, one to wait for tasks. */
function linesTo(url: string) {
  const asking = new Redis(url, { maxRetriesPerRequest: null })
  const lines = { asking, hearing: asking.duplicate(), taking: asking.duplicate() }
  let isTold = false
  /** Once for each time that it is away. */
  const stumble = (error: Error) => {
    if (!isTold) console.error(`Redis does not answer (${error.message}). It is asked again until it does.`)
    isTold = true
  }
  for (const line of Object.values(lines)) line.on('error', stumble)
  asking.on('ready', () => {
    isTold = false
  })
  const hangUp = () => {
    for (const line of Object.values(lines)) line.disconnect()
  }
  return { ...lines, stumble, hangUp }
}

/** Works on one task. */
async function answer(tools: TaskTools & { store: BucketStore }, job: Job, signal: AbortSignal): Promise<TaskAnswer> {
  const { store } = tools
  try {
    const output = await workOn(job.name as TaskKind, job.data as never, tools, signal)
    // whoever asked looks for it there
    for (const name of filesIn(output)) await store.send(name)
    return { output }
  } catch (error) {
    // a store that does not answer is not the task's fault
    if (!(error instanceof UserFacingError) || error.status === 503) throw error
    return { said: error.said, status: error.status }
  }
}

/** Takes tasks, so many at the same time. */
function take(lines: ReturnType<typeof linesTo>, version: string, slots: number, tools: TaskTools & { store: BucketStore }) {
  const working = new Map<string, AbortController>()
  lines.hearing.on('message', (_, id) => working.get(id)?.abort(new Error('cancelled')))
  const worker = new Worker(
    queueName(version),
    async (job, _token, ended) => {
      const controller = new AbortController()
      ended?.addEventListener('abort', () => controller.abort(ended.reason), { once: true })
      working.set(job.id!, controller)
      try {
        return await answer(tools, job, controller.signal)
      } catch (error) {
        // nobody wants it any more: it is not tried again
        throw controller.signal.aborted ? new UnrecoverableError('cancelled') : error
      } finally {
        working.delete(job.id!)
      }
    },
    {
      connection: lines.taking,
      concurrency: slots,
      lockDuration: LOCK_MS,
      stalledInterval: STALLED_EVERY_MS,
      maxStalledCount: MOST_STALLED,
    },
  )
  worker.on('error', lines.stumble)
  return worker
}

/** @throws UserFacingError when the store does not answer, or the server is of another version */
export async function startTaskWorker(settings: WorkerSettings): Promise<TaskWorker> {
  const { slots, folder } = settings
  const local = folderStore(folder)
  await clearScratch(local)
  const bucket = openBucket(settings.store)
  await bucket.check()
  const store = new BucketStore(local, bucket, filesOfBucket(bucket))
  readyToLaunch()
  const media = ffmpegAt(settings.ffmpeg)
  const version = await tasksVersion(media)
  const lines = linesTo(settings.queue)
  const isOther = async () => {
    const wanted = await lines.asking.get(VERSION_KEY)
    return wanted !== null && wanted !== version
  }
  if (await isOther()) {
    lines.hangUp()
    bucket.close()
    throw otherVersion()
  }
  const workers = startWorkers()
  await lines.hearing.subscribe(CANCELLED)
  const worker = take(lines, version, slots, { store, media, workers })
  const leave = sayPresent(lines.asking, randomUUID(), { host: hostname(), version, slots })

  let end: (reason: UserFacingError) => void = () => {}
  const over = new Promise<UserFacingError>((resolve) => {
    end = resolve
  })
  const looking = [
    setInterval(() => void makeRoom(store, settings.store.localBytes).catch(console.error), ROOM_EVERY_MS),
    setInterval(async () => {
      if (await isOther().catch(() => false)) end(otherVersion())
    }, VERSION_EVERY_MS),
  ]
  return {
    over,
    async close() {
      for (const timer of looking) clearInterval(timer)
      await leave()
      await worker.close()
      lines.hangUp()
      await workers.close()
      bucket.close()
    },
  }
}
