/** The database: one connection that writes, in turn, and one that reads. */
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { createClient, type ResultSet } from '@libsql/client'
import { drizzle } from 'drizzle-orm/libsql'
import { migrate } from 'drizzle-orm/libsql/migrator'
import type { BaseSQLiteDatabase } from 'drizzle-orm/sqlite-core'
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

/** @param dataFolder holds `lectern.sqlite`; made when missing */
export async function openDatabase(dataFolder: string, migrationsFolder = MIGRATIONS): Promise<Database> {
  mkdirSync(dataFolder, { recursive: true })
  // one connection each: settings belong to a connection, and a second writing one would meet "database is locked"
  const options = { url: `file:${join(dataFolder, 'lectern.sqlite')}`, concurrency: 1, timeout: 5000 }
  const writer = createClient(options)
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
