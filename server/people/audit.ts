/** Who did what to what. Of what was written, said or shown nothing is kept. */

import { desc, eq, lt } from 'drizzle-orm'
import type { Audited } from '#core/people/audited.ts'
import { csvLine } from '#core/reports/csv.ts'
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

/** All of it, page by page: after years it is long. */
export async function* auditCsv(read: Tables): AsyncGenerator<Uint8Array> {
  yield Buffer.from(csvLine(['id', 'at', 'person', 'act', 'thing']))
  for (let before: number | undefined; ; ) {
    const page = await readAudit(read, before)
    if (page.length === 0) return
    const lines = page.map(({ id, at, name, personId, act, thing }) =>
      csvLine([String(id), new Date(at).toISOString(), name ?? personId ?? '', act, thing ?? '']),
    )
    yield Buffer.from(lines.join(''))
    before = page.at(-1)!.id
  }
}
