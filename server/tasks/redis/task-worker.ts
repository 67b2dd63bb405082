/** A machine that works for a server: it takes tasks from the queue, finds files in the store, and knows nothing else. */
import { randomUUID } from 'node:crypto'
import { hostname } from 'node:os'
import { Worker } from 'bullmq'
import { Redis } from 'ioredis'
import { message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { readyToLaunch } from '#server/media/launch/launch.ts'
import { openBucket } from '#server/storage/bucket/bucket.ts'
import { bucketStore } from '#server/storage/bucket/bucket-store.ts'
import { filesOfBucket } from '#server/storage/bucket/sent-files.ts'
import { makeRoom } from '#server/storage/bucket/sending.ts'
import { clearScratch, folderStore } from '#server/storage/file-store.ts'
import { startWorkers } from '#server/workers/pool.ts'
import type { TaskKind, TaskTools } from '../task.ts'
import { tasksVersion } from '../version.ts'
import { workOn } from '../work.ts'
import type { TaskAnswer } from './redis-tasks.ts'
import { CANCELLED, queueName, sayPresent, VERSION_KEY } from './roll.ts'
import type { StoreSetting } from '#server/config/store-setting.ts'

/** A machine that was not heard of for so long has lost its task to another. */
const LOCK_MS = 15_000
const STALLED_EVERY_MS = 5000
/** A task that ended so many machines is not tried on another. */
const MOST_STALLED = 2
const ROOM_EVERY_MS = 60_000
const VERSION_EVERY_MS = 5000

const NAMES = /\b[0-9a-f]{64}\b/g

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

/** @throws UserFacingError when the store or Redis does not answer, or the server is of another version */
export async function startTaskWorker(settings: WorkerSettings): Promise<TaskWorker> {
  const { slots, folder } = settings
  const local = folderStore(folder)
  await clearScratch(local)
  const bucket = openBucket(settings.store)
  await bucket.check()
  const store = bucketStore(local, bucket, filesOfBucket(bucket))
  readyToLaunch()
  const media = ffmpegAt(settings.ffmpeg)
  const version = await tasksVersion(media)
  const redis = new Redis(settings.queue, { maxRetriesPerRequest: null })
  const [listening, taking] = [redis.duplicate(), redis.duplicate()]
  const hangUp = () => {
    for (const line of [redis, listening, taking]) line.disconnect()
  }
  for (const line of [redis, listening, taking]) line.on('error', (error) => console.error(`Redis: ${error.message}`))
  const wanted = await redis.get(VERSION_KEY)
  if (wanted !== null && wanted !== version) {
    hangUp()
    bucket.close()
    throw otherVersion()
  }
  const workers = startWorkers()
  const tools: TaskTools = { store, media, workers }
  const cancelling = new Map<string, AbortController>()
  await listening.subscribe(CANCELLED)
  listening.on('message', (_, id) => cancelling.get(id)?.abort(new Error('cancelled')))

  async function answer(kind: TaskKind, input: never, signal: AbortSignal): Promise<TaskAnswer> {
    try {
      const output = await workOn(kind, input, tools, signal)
      // whoever asked looks for it there
      for (const name of JSON.stringify(output).match(NAMES) ?? []) if (await local.has(name)) await store.send(name)
      return { output }
    } catch (error) {
      if (!(error instanceof UserFacingError) || error.status === 503) throw error
      return { said: error.said, status: error.status }
    }
  }

  const worker = new Worker(
    queueName(version),
    async (job, _token, ended) => {
      const controller = new AbortController()
      ended?.addEventListener('abort', () => controller.abort(ended.reason), { once: true })
      cancelling.set(job.id!, controller)
      try {
        return await answer(job.name as TaskKind, job.data as never, controller.signal)
      } finally {
        cancelling.delete(job.id!)
      }
    },
    {
      connection: taking,
      concurrency: slots,
      lockDuration: LOCK_MS,
      stalledInterval: STALLED_EVERY_MS,
      maxStalledCount: MOST_STALLED,
    },
  )
  worker.on('error', (error) => console.error(`The queue: ${error.message}`))
  const leave = sayPresent(redis, randomUUID(), { host: hostname(), version, slots })
  const room = setInterval(() => void makeRoom(store, settings.store.localBytes).catch(console.error), ROOM_EVERY_MS)

  let end: (reason: UserFacingError) => void = () => {}
  const over = new Promise<UserFacingError>((resolve) => {
    end = resolve
  })
  const watching = setInterval(async () => {
    const now = await redis.get(VERSION_KEY).catch(() => null)
    if (now !== null && now !== version) end(otherVersion())
  }, VERSION_EVERY_MS)

  return {
    over,
    async close() {
      clearInterval(room)
      clearInterval(watching)
      await leave()
      await worker.close()
      hangUp()
      await workers.close()
      bucket.close()
    },
  }
}
