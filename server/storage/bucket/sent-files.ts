/** Which files are in the store elsewhere, as the database knows it. */
import { and, eq, inArray, isNotNull, isNull, lt, sql } from 'drizzle-orm'
import type { Database } from '#server/db/database.ts'
import { sentFiles as table } from '#server/db/schema.ts'
import type { Bucket } from './bucket.ts'

export interface SentFile {
  name: string
  bytes: number
  sentAt: number
  /** The day it was laid in the trash, "2026-11-28"; null where it counts. */
  laidOn: string | null
}

export interface SentFiles {
  get(name: string): Promise<SentFile | null>
  /** Those that count. */
  all(): Promise<SentFile[]>
  /** Of some names, those that are not among them. */
  missing(names: readonly string[]): Promise<string[]>
  laid(): Promise<SentFile[]>
  /** How many count, and their bytes. */
  sum(): Promise<{ files: number; bytes: number }>
  /** Written down when all of it is in the store. */
  add(name: string, bytes: number): Promise<void>
  /** @param day null: it counts again */
  lay(name: string, day: string | null): Promise<void>
  /** @returns those that were laid before a day */
  laidBefore(day: string): Promise<string[]>
  forget(name: string): Promise<void>
}

/** Most that one question names. */
const ASKED_AT_ONCE = 500

/** @param address of the store: what is in another does not count */
export function sentFilesOf({ read, write }: Pick<Database, 'read' | 'write'>, address: string): SentFiles {
  const here = eq(table.store, address)
  const one = (name: string) => and(eq(table.name, name), here)
  return {
    async get(name) {
      const [row] = await read.select().from(table).where(one(name))
      return row ?? null
    },
    all: () =>
      read
        .select()
        .from(table)
        .where(and(here, isNull(table.laidOn))),
    async missing(names) {
      const missing: string[] = []
      // a piece at a time: whoever edits has their turn between them
      for (let from = 0; from < names.length; from += ASKED_AT_ONCE) {
        const some = names.slice(from, from + ASKED_AT_ONCE)
        const known = await read
          .select({ name: table.name })
          .from(table)
          .where(and(inArray(table.name, some), here, isNull(table.laidOn)))
        const there = new Set(known.map(({ name }) => name))
        missing.push(...some.filter((name) => !there.has(name)))
      }
      return missing
    },
    laid: () =>
      read
        .select()
        .from(table)
        .where(and(here, isNotNull(table.laidOn))),
    async sum() {
      const [row] = await read
        .select({ files: sql<number>`count(*)`, bytes: sql<number>`coalesce(sum(${table.bytes}), 0)` })
        .from(table)
        .where(and(here, isNull(table.laidOn)))
      return row!
    },
    async add(name, bytes) {
      const row = { name, bytes, store: address, sentAt: Date.now(), laidOn: null }
      await write((tx) => tx.insert(table).values(row).onConflictDoUpdate({ target: table.name, set: row }))
    },
    async lay(name, day) {
      await write((tx) => tx.update(table).set({ laidOn: day }).where(one(name)))
    },
    async laidBefore(day) {
      const rows = await read
        .select({ name: table.name })
        .from(table)
        .where(and(here, lt(table.laidOn, day)))
      return rows.map((row) => row.name)
    },
    async forget(name) {
      await write((tx) => tx.delete(table).where(one(name)))
    },
  }
}

/** For a machine without a database: what is in the store is what the store says. It lays nothing in the trash. */
export const filesOfBucket = (bucket: Bucket): SentFiles => ({
  async get(name) {
    const bytes = await bucket.size(name)
    return bytes === null ? null : { name, bytes, sentAt: 0, laidOn: null }
  },
  all: async () => [],
  missing: async (names) => [...names],
  laid: async () => [],
  sum: async () => ({ files: 0, bytes: 0 }),
  add: async () => {},
  lay: async () => {},
  laidBefore: async () => [],
  forget: async () => {},
})
