/** What routes, jobs and the command line work with. */
import type { Config } from './config.ts'
import { type Database, openDatabase } from './db/database.ts'
import { type Events, makeEvents } from './events.ts'
import { tagsOfTakeById } from './lectures/sound-tags.ts'
import { type GrowingFlacs, growingFlacs } from './media/growing-flac.ts'
import { type MediaTool, mediaTool } from './media/tool.ts'
import { type FileStore, folderStore } from './store/file-store.ts'
import { type TakeJournals, takeJournals } from './store/take-journal.ts'
import { startWorkers, type Workers } from './workers/pool.ts'
import { type TidyAhead, tidyAhead } from './workers/tidy-ahead.ts'

export interface Tools {
  config: Config
  db: Database
  store: FileStore
  journals: TakeJournals
  media: MediaTool
  workers: Workers
  ahead: TidyAhead
  flacs: GrowingFlacs
  events: Events
}

/**
 * Opens a data folder and begins nothing: no job is taken up, no take is put together, nothing is cleared. So it may be opened beside an
 * app that runs on it.
 */
export async function openTools(config: Config, workers = startWorkers()): Promise<Tools> {
  const db = await openDatabase(config.dataFolder)
  const journals = takeJournals(config.dataFolder)
  const store = folderStore(config.dataFolder)
  const media = mediaTool(config.ffmpeg)
  return {
    config,
    db,
    store,
    journals,
    media,
    workers,
    ahead: tidyAhead(workers, journals),
    flacs: growingFlacs(media, store, (takeId) => tagsOfTakeById(db.read, takeId)),
    events: makeEvents(),
  }
}

export async function closeTools({ workers, db, flacs }: Tools) {
  flacs.close()
  await workers.close()
  db.close()
}
