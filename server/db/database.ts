/** The database: one connection that writes, in turn, and one that reads. */

import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { type Client, createClient, type ResultSet } from '@libsql/client'
import { drizzle } from 'drizzle-orm/libsql'
import { migrate } from 'drizzle-orm/libsql/migrator'
import type { BaseSQLiteDatabase } from 'drizzle-orm/sqlite-core'
import { message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { databaseUrl, readyFolder } from '#server/storage/data-folder.ts'
import * as schema from './schema.ts'

/** The tables, for reading, or inside a transaction for writing. */
export type Tables = BaseSQLiteDatabase<'async', ResultSet, typeof schema>

export interface Database {
  /** For reading only. */
  read: Tables
  /**
   * Runs a transaction when those before it have ended. The local driver fails transactions that overlap, and a plain write
   * beside one, so every write of the server goes through here.
   *
   * @returns what the work returns; when it throws, nothing of it is kept
   */
  write<T>(work: (tx: Tables) => Promise<T>): Promise<T>
  close(): void
}

const MIGRATIONS = join(import.meta.dirname, 'migrations')

/** @throws UserFacingError when the database has been changed by a version that came later than this one */
async function refuseNewer(client: Client, migrationsFolder: string) {
  const known = JSON.parse(readFileSync(join(migrationsFolder, 'meta/_journal.json'), 'utf8')) as { entries: { when: number }[] }
  const tables = await client.execute("SELECT name FROM sqlite_master WHERE name = '__drizzle_migrations'")
  if (tables.rows.length === 0) return
  const { rows } = await client.execute('SELECT max(created_at) AS newest FROM __drizzle_migrations')
  if (Number(rows[0]?.newest ?? 0) > Math.max(...known.entries.map((entry) => entry.when)))
    throw new UserFacingError(
      message(
        'Your lectures were last opened by a newer Tidy Lectern. Bring this one up to date, then open them; nothing was changed.',
      ),
      500,
    )
}

/**
 * @param dataFolder holds `lectern.sqlite`; made when missing
 * @throws UserFacingError when the folder cannot be used, or the database is damaged or newer than this version
 */
export async function openDatabase(dataFolder: string, migrationsFolder = MIGRATIONS): Promise<Database> {
  readyFolder(dataFolder)
  const path = join(dataFolder, 'lectern.sqlite')
  try {
    return await open(path, migrationsFolder)
  } catch (error) {
    if (!/SQLITE_NOTADB|SQLITE_CORRUPT|not a database|malformed/.test(`${error} ${(error as Error).cause ?? ''}`)) throw error
    throw new UserFacingError(
      message(
        'The database “{path}” is damaged and was not opened; your recordings and pictures are in files/ beside it. Put back a copy of it. Without one, move it away: recordings can then be found again with ./lectern found-again.',
        { path },
      ),
      500,
    )
  }
}

async function open(path: string, migrationsFolder: string): Promise<Database> {
  // one connection each: settings belong to a connection, and a second writing one would meet "database is locked"
  const options = { url: databaseUrl(path), concurrency: 1, timeout: 5000 }
  const writer = createClient(options)
  await refuseNewer(writer, migrationsFolder).catch((error) => {
    writer.close()
    throw error
  })
  await writer.execute('PRAGMA journal_mode = WAL')
  // an acknowledged take must survive a power cut, not only a crash
  await writer.execute('PRAGMA synchronous = FULL')
  const writing = drizzle(writer, { schema })
  await migrate(writing, { migrationsFolder })
  await writer.execute('PRAGMA foreign_keys = ON') // migrating turns it off for itself
  const reader = createClient(options)

  let last: Promise<unknown> = Promise.resolve()
  return {
    read: drizzle(reader, { schema }),
    write(work) {
      const result = last.then(() => writing.transaction((tx) => work(tx)))
      last = result.catch(() => {})
      return result
    },
    close() {
      writer.close()
      reader.close()
    },
  }
}
