/** Totals of what is watched of editions. Nothing is kept of who watches. */
import { eq, inArray } from 'drizzle-orm'
import { toSeconds } from '#core/timing/clocks.ts'
import { nothingWatched, type Watching, type WatchReport, withReport } from '#core/watching/watching.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { editions, lectures, watching } from '#server/db/schema.ts'

/** Adds what one page tells, unless the lecture's teacher does not want it counted. */
export async function countWatching(db: Database, editionId: string, report: WatchReport) {
  await db.write(async (tx) => {
    const [row] = await tx
      .select({ manifest: editions.manifest, totals: watching.totals, counts: lectures.countsWatching })
      .from(editions)
      .innerJoin(lectures, eq(lectures.id, editions.lectureId))
      .leftJoin(watching, eq(watching.editionId, editions.id))
      .where(eq(editions.id, editionId))
    if (!row?.counts) return
    const seconds = toSeconds(row.manifest.lengthSamples)
    const totals = withReport(row.totals ?? nothingWatched(seconds), report, seconds)
    await tx.insert(watching).values({ editionId, totals }).onConflictDoUpdate({ target: watching.editionId, set: { totals } })
  })
}

/** @returns totals by edition, where something was counted */
export async function readWatching(db: Tables, editionIds: readonly string[]): Promise<Map<string, Watching>> {
  const rows = await db
    .select()
    .from(watching)
    .where(inArray(watching.editionId, [...editionIds]))
  return new Map(rows.map(({ editionId, totals }) => [editionId, totals]))
}
