/** Who did what to what. Of what was written, said or shown nothing is kept. */

import { desc, eq, lt } from 'drizzle-orm'
import type { Audited } from '#core/people/audited.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { auditEntries, people } from '#server/db/people-schema.ts'

/** Writes one down, inside the transaction that does it. */
export async function noteDown(tx: Tables, personId: string | null, act: Audited, thing: string | null = null) {
  await tx.insert(auditEntries).values({ at: Date.now(), personId, act, thing })
}
export const noteAlone = (db: Database, personId: string | null, act: Audited, thing: string | null = null) =>
  db.write((tx) => noteDown(tx, personId, act, thing))

const SHOWN = 200

/** @param before entries before this one, for the next page @returns the newest first, with the names of who is still there */
export async function readAudit(read: Tables, before = Number.MAX_SAFE_INTEGER) {
  const rows = await read
    .select({ entry: auditEntries, name: people.name })
    .from(auditEntries)
    .leftJoin(people, eq(people.id, auditEntries.personId))
    .where(lt(auditEntries.id, before))
    .orderBy(desc(auditEntries.id))
    .limit(SHOWN)
  return rows.map(({ entry, name }) => ({ ...entry, name }))
}
