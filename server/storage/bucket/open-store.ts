/** The store of files as it is set up: the data folder alone, or a store elsewhere with the folder before it. */
import { and, isNull, ne } from 'drizzle-orm'
import { message } from '#core/words/say.ts'
import type { Config } from '#server/config/config.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { sentFiles } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { type FileStore, type FolderStore, folderStore } from '../file-store.ts'
import { BucketStore } from './bucket-store.ts'
import { Sending } from './sending.ts'
import { sentFilesOf } from './sent-files.ts'

/** @throws UserFacingError where files that count are in another store alone */
async function refuseWhatIsElsewhere(db: Pick<Database, 'read'>, folder: FolderStore, address: string | null) {
  const elsewhere = await db.read
    .select({ name: sentFiles.name, store: sentFiles.store })
    .from(sentFiles)
    .where(and(isNull(sentFiles.laidOn), address === null ? undefined : ne(sentFiles.store, address)))
    .catch((error) => {
      // whoever only reads may be there before the app that brings an older database up to date
      if (!/no such table/.test(`${error} ${(error as Error).cause ?? ''}`)) throw error
      return []
    })
  if (elsewhere.length === 0) return
  const here = new Set(await folder.all())
  const missing = elsewhere.filter(({ name }) => !here.has(name))
  if (missing.length === 0) return
  throw new UserFacingError(
    message(
      '{count, plural, one {One file is} other {# files are}} in {store} alone. Set LECTERN_STORE to it again; ./lectern store --home brings everything back to this folder.',
      { count: missing.length, store: missing[0]!.store },
    ),
    500,
  )
}

const onlyRead: Database['write'] = () => Promise.reject(new Error('This store was opened to be read.'))

/** Beside an app that may run: nothing is written down of what is sent. @throws UserFacingError as `openStore` */
export const openStoreToRead = async (config: Pick<Config, 'dataFolder' | 'store'>, read: Tables): Promise<FileStore> =>
  (await openStore(config, { read, write: onlyRead })).store

/** @throws UserFacingError where files that count are in another store alone */
export async function openStore(
  { dataFolder, store: setting }: Pick<Config, 'dataFolder' | 'store'>,
  db: Pick<Database, 'read' | 'write'>,
): Promise<{ store: FileStore; sending: null } | { store: BucketStore; sending: Sending }> {
  const folder = folderStore(dataFolder)
  await refuseWhatIsElsewhere(db, folder, setting?.address ?? null)
  if (!setting) return { store: folder, sending: null }
  // its client takes a while to load, and who has no such store need not wait for it
  const { openBucket } = await import('./bucket.ts')
  const store = new BucketStore(folder, openBucket(setting), sentFilesOf(db, setting.address))
  return { store, sending: new Sending(store, setting.localBytes) }
}
