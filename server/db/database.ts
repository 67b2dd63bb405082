/** The database: one connection that writes, in turn, and one that reads. */

import { readdirSync, renameSync, rmSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { type Client, createClient, type ResultSet } from '@libsql/client'
import { drizzle } from 'drizzle-orm/libsql'
import { migrate } from 'drizzle-orm/libsql/migrator'
import { readMigrationFiles } from 'drizzle-orm/migrator'
import type { BaseSQLiteDatabase } from 'drizzle-orm/sqlite-core'
import { message } from '#core/words/say.ts'
import { isDiskFull, UserFacingError } from '#server/errors/user-facing-error.ts'
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

/** Copies of the database as earlier versions left it. */
const COPY = /^lectern-before-.*\.sqlite$/
const COPIES_KEPT = 2

/** Before a newer version changes the database, a copy of it is laid beside it. */
async function copyBefore(client: Client, path: string, change: string) {
  const folder = dirname(path)
  const copy = join(folder, `lectern-before-${change.padStart(4, '0')}.sqlite`)
  // one that was broken off is none
  const part = `${copy}.part`
  rmSync(part, { force: true })
  try {
    await client.execute({ sql: 'VACUUM INTO ?', args: [part] })
  } catch (error) {
    rmSync(part, { force: true })
    if (!isDiskFull(error)) throw error
    throw new UserFacingError(
      message(
        'The disk is full: before this newer version changes the database, a copy of it must fit. Free some space; nothing was changed.',
      ),
      507,
    )
  }
  renameSync(part, copy)
  const copies = readdirSync(folder)
    .filter((name) => COPY.test(name))
    .sort()
  for (const name of copies.slice(0, -COPIES_KEPT)) rmSync(join(folder, name))
}

/**
 * Readies a database for the changes this version brings, which are made after it.
 *
 * @throws UserFacingError when it has been changed by a version that came later than this one
 */
async function beforeMigrating(client: Client, path: string, migrationsFolder: string) {
  const tables = await client.execute("SELECT name FROM sqlite_master WHERE name = '__drizzle_migrations'")
  if (tables.rows.length === 0) return
  const known = readMigrationFiles({ migrationsFolder })
  const newestOf = async () => {
    const { rows } = await client.execute('SELECT max(created_at) AS newest FROM __drizzle_migrations')
    return Number(rows[0]?.newest ?? 0)
  }
  if ((await newestOf()) > Math.max(...known.map(({ folderMillis }) => folderMillis)))
    throw new UserFacingError(
      message(
        'Your lectures were last opened by a newer Tidy Lectern. Bring this one up to date, then open them; nothing was changed.',
      ),
      500,
    )
  // changes are taken for made by the time they bear; some once bore times out of order, and are known by their content
  for (const { hash, folderMillis } of known)
    await client.execute({
      sql: 'UPDATE __drizzle_migrations SET created_at = ? WHERE hash = ? AND created_at <> ?',
      args: [folderMillis, hash, folderMillis],
    })
  const newest = await newestOf()
  const first = known.findIndex(({ folderMillis }) => folderMillis > newest)
  if (first >= 0) await copyBefore(client, path, String(first))
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
  await beforeMigrating(writer, path, migrationsFolder).catch((error) => {
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
