/** Which stored files something points to, and letting go of those that came with a request or job and that nothing does. */
import { inArray } from 'drizzle-orm'
import type { Database, Tables } from '#server/db/database.ts'
import { films, footage } from '#server/db/moving-schema.ts'
import { beds, clips, editionFiles, jobs, lectures, recordings, replacements, segments, steps, takes } from '#server/db/schema.ts'
import type { FileStore } from '#server/storage/file-store.ts'

const NAMES = /\b[0-9a-f]{64}\b/g

export async function usedFiles(read: Tables): Promise<Set<string>> {
  const used = new Set<string | null>()
  for (const row of await read.select({ a: steps.picture, b: steps.thumbnail }).from(steps)) used.add(row.a).add(row.b)
  for (const row of await read.select({ a: takes.sound, b: takes.peaks, c: takes.spectrogram }).from(takes))
    used.add(row.a).add(row.b).add(row.c)
  for (const row of await read.select({ a: clips.sound, b: clips.peaks }).from(clips)) used.add(row.a).add(row.b)
  for (const table of [beds, recordings])
    for (const row of await read.select({ a: table.sound, b: table.peaks }).from(table)) used.add(row.a).add(row.b)
  for (const row of await read.select({ a: films.original, b: films.proxy, c: films.sound, d: films.strip }).from(films))
    used.add(row.a).add(row.b).add(row.c).add(row.d)
  for (const row of await read.select({ a: footage.original, b: footage.proxy, c: footage.strip }).from(footage))
    used.add(row.a).add(row.b).add(row.c)
  for (const row of await read.select({ a: editionFiles.file }).from(editionFiles)) used.add(row.a)
  for (const row of await read.select({ a: segments.file }).from(segments)) used.add(row.a)
  // one that was made by hand may be no row of ours in every field
  for (const row of await read.select({ exportSettings: lectures.exportSettings }).from(lectures))
    used.add(row.exportSettings?.crest?.picture ?? null)
  const open = inArray(jobs.state, ['queued', 'running'])
  const said: unknown[] = await read.select({ payload: jobs.payload, soFar: jobs.result }).from(jobs).where(open)
  said.push(...(await read.select({ found: replacements.found }).from(replacements)))
  for (const name of namesIn(said)) used.add(name)
  used.delete(null)
  return used as Set<string>
}

/** Files between their arrival and the row or job that points to them, and how often each is arriving. */
const arriving = new Map<string, number>()
/** What arrives while somebody reads the tables; a set each. */
const readers = new Set<Set<string>>()

export function arrive(name: string) {
  for (const seen of readers) seen.add(name)
  arriving.set(name, (arriving.get(name) ?? 0) + 1)
}
export function settled(name: string) {
  const left = arriving.get(name)! - 1
  if (left > 0) arriving.set(name, left)
  else arriving.delete(name)
}

/** Removes files that came with what was refused or cancelled, but those that anything else points to. */
export async function release({ db, store }: { db: Database; store: FileStore }, names: readonly string[]) {
  const candidates = names.filter((name) => !arriving.has(name))
  if (candidates.length === 0) return
  // the same file may come again, and be put to use, while the tables are read
  const since = new Set<string>()
  readers.add(since)
  const used = await usedFiles(db.read).finally(() => readers.delete(since))
  for (const name of candidates) if (!used.has(name) && !arriving.has(name) && !since.has(name)) store.remove(name)
}

/** Names of stored files in what a job was given. */
export const namesIn = (payload: unknown): string[] => JSON.stringify(payload ?? null).match(NAMES) ?? []
