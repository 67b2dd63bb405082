/** What routes and jobs work with. */
import type { Config } from './config.ts'
import type { Database } from './db/database.ts'
import type { Events } from './events.ts'
import type { MediaTool } from './media/tool.ts'
import type { FileStore } from './store/file-store.ts'
import type { TakeJournals } from './store/take-journal.ts'
import type { Workers } from './workers/pool.ts'

export interface Tools {
  config: Config
  db: Database
  store: FileStore
  journals: TakeJournals
  media: MediaTool
  workers: Workers
  events: Events
}
