/** Removes stored files that no row points to: what a failed import or an abandoned upload left. */
import { and, inArray, isNotNull, lt } from 'drizzle-orm'
import { beds, clips, editionFiles, editions, jobs, lectures, parts, recordings, steps, takes } from '#server/db/schema.ts'
import type { Tools } from '#server/tools.ts'

/** A file this young may belong to work that is going on. */
const YOUNGEST_MS = 24 * 3600_000

/** An edition that was taken away can be brought back for so long. */
const DELETED_EDITIONS_MS = 30 * 24 * 3600_000
/** Parts that no edition has needed for so long are made again when one does. */
const UNUSED_PARTS_MS = 60 * 24 * 3600_000

async function forget({ db }: Pick<Tools, 'db'>, now: number) {
  await db.write(async (tx) => {
    const gone = await tx
      .select({ id: editions.id })
      .from(editions)
      .where(and(isNotNull(editions.deletedAt), lt(editions.deletedAt, now - DELETED_EDITIONS_MS)))
    await tx.delete(editionFiles).where(
      inArray(
        editionFiles.editionId,
        gone.map((row) => row.id),
      ),
    )
    await tx.delete(parts).where(lt(parts.usedAt, now - UNUSED_PARTS_MS))
  })
}

/** @returns names of the files removed */
export async function sweep({ db, store }: Pick<Tools, 'db' | 'store'>, youngestMs = YOUNGEST_MS): Promise<string[]> {
  const read = db.read
  await forget({ db }, Date.now())
  const used = new Set<string | null>()
  for (const row of await read.select({ a: steps.picture, b: steps.thumbnail }).from(steps)) used.add(row.a).add(row.b)
  for (const row of await read.select({ a: takes.sound, b: takes.peaks, c: takes.spectrogram }).from(takes))
    used.add(row.a).add(row.b).add(row.c)
  for (const row of await read.select({ a: clips.sound, b: clips.peaks }).from(clips)) used.add(row.a).add(row.b)
  for (const table of [beds, recordings])
    for (const row of await read.select({ a: table.sound, b: table.peaks }).from(table)) used.add(row.a).add(row.b)
  for (const row of await read.select({ a: editionFiles.file }).from(editionFiles)) used.add(row.a)
  for (const row of await read.select({ a: parts.file }).from(parts)) used.add(row.a)
  for (const row of await read.select({ making: lectures.making }).from(lectures)) used.add(row.making?.crest?.picture ?? null)
  for (const row of await read
    .select()
    .from(jobs)
    .where(inArray(jobs.state, ['queued', 'running']))) {
    for (const name of JSON.stringify(row.payload).match(/[0-9a-f]{64}/g) ?? []) used.add(name)
  }
  const removed = (await store.olderThan(Date.now() - youngestMs)).filter((name) => !used.has(name))
  for (const name of removed) await store.remove(name)
  return removed
}
