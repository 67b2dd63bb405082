/** What routes, jobs and the command line work with. */
import type { Config } from '#server/config/config.ts'
import { type Database, openDatabase } from '#server/db/database.ts'
import { type Events, makeEvents } from '#server/events/events.ts'
import { type Ffmpeg, ffmpegAt } from '#server/media/ffmpeg.ts'
import { type GrowingFlacs, growingFlacs } from '#server/media/growing-flac.ts'
import { readyToLaunch } from '#server/media/launch/launch.ts'
import { tagsOfTakeById } from '#server/media/sound-tags.ts'
import { openSchool, type School } from '#server/people/school.ts'
import { type TakeJournals, takeJournals } from '#server/recording/take-journal.ts'
import { type TidyAhead, tidyAhead } from '#server/recording/tidy-ahead.ts'
import type { BucketStore } from '#server/storage/bucket/bucket-store.ts'
import { openStore } from '#server/storage/bucket/open-store.ts'
import type { Sending } from '#server/storage/bucket/sending.ts'
import type { FileStore } from '#server/storage/file-store.ts'
import type { Tasks, TaskTools } from '#server/tasks/task.ts'
import { tasksVersion } from '#server/tasks/version.ts'
import { tasksHere } from '#server/tasks/work.ts'
import { startWorkers, type Workers } from '#server/workers/pool.ts'

export interface AppContext {
  config: Config
  db: Database
  store: FileStore
  /** How files come into a store elsewhere; null where there is none. */
  sending: Sending | null
  /** Sound of takes that are being recorded. */
  journals: TakeJournals
  /** Pictures likewise, by footage. */
  footageJournals: TakeJournals
  media: Ffmpeg
  workers: Workers
  /** Heavy work, on this machine or others. */
  tasks: Tasks
  ahead: TidyAhead
  flacs: GrowingFlacs
  events: Events
  /** Who signs in here; null where one person is alone. */
  school: School | null
}

/**
 * Opens a data folder and begins nothing: no job is taken up, no take is put together, nothing is cleared. So it may be opened beside an
 * app that runs on it.
 */
export async function openContext(config: Config, workers = startWorkers()): Promise<AppContext> {
  const db = await openDatabase(config.dataFolder)
  const journals = takeJournals(config.dataFolder)
  const { store, sending } = await openStore(config, db).catch((error) => {
    db.close()
    throw error
  })
  readyToLaunch()
  const media = ffmpegAt(config.ffmpeg)
  const tools = { store, media, workers }
  const tasks = config.queue && sending ? await tasksElsewhere(config.queue, { ...tools, store }) : tasksHere(tools)
  return {
    config,
    db,
    store,
    sending,
    journals,
    footageJournals: takeJournals(config.dataFolder, 'footage'),
    media,
    workers,
    tasks,
    ahead: tidyAhead(workers, journals),
    flacs: growingFlacs(media, store, (takeId) => tagsOfTakeById(db.read, takeId)),
    events: makeEvents(),
    school: config.mode === 'school' ? await openSchool(config, db) : null,
  }
}

/** Its client takes a while to load, and who works alone need not wait for it. */
async function tasksElsewhere(queue: string, tools: TaskTools & { store: BucketStore }): Promise<Tasks> {
  const [{ RedisTasks }, version] = await Promise.all([import('#server/tasks/redis/redis-tasks.ts'), tasksVersion(tools.media)])
  return new RedisTasks(queue, tools, version)
}

export async function closeContext({ workers, db, flacs, sending, tasks }: AppContext) {
  flacs.close()
  await tasks.close()
  await sending?.end()
  await workers.close()
  db.close()
}
