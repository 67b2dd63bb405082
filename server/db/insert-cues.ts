/** Cues into the database, however many: one statement of SQLite takes a limited number of values. */
import type { Tables } from './database.ts'
import { cues } from './schema.ts'

const ROWS_AT_ONCE = 1000

export async function insertCues(tx: Tables, rows: readonly (typeof cues.$inferInsert)[]) {
  for (let from = 0; from < rows.length; from += ROWS_AT_ONCE) await tx.insert(cues).values(rows.slice(from, from + ROWS_AT_ONCE))
}
