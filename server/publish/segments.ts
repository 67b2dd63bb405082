/** Encoded segments of slides, each cached by the hash of all that goes in. Publishing joins them. */
import { inArray } from 'drizzle-orm'
import type { AppContext } from '#server/context/context.ts'
import type { Tables } from '#server/db/database.ts'
import type { StoredSegmentFacts } from '#server/db/kept.ts'
import { clips, segments } from '#server/db/schema.ts'
import type { ClipLoudness, SegmentRecipe } from '#server/encode/segment.ts'

export interface Segment {
  file: string
  facts: StoredSegmentFacts | null
}

/** Which of some segments are made already. */
export async function knownSegments({ db, store }: AppContext, recipes: readonly SegmentRecipe[]): Promise<Map<string, Segment>> {
  const known = new Map<string, Segment>()
  const keys = recipes.map((recipe) => recipe.key)
  for (const row of await db.read.select().from(segments).where(inArray(segments.key, keys)))
    if (await store.has(row.file)) known.set(row.key, { file: row.file, facts: row.facts })
  return known
}

async function loudnessOf(read: Tables, sounds: readonly string[]): Promise<Record<string, ClipLoudness>> {
  const rows = await read
    .select({ sound: clips.sound, powers: clips.powers, figures: clips.figures })
    .from(clips)
    .where(inArray(clips.sound, [...sounds]))
  return Object.fromEntries(
    rows.flatMap(({ sound, powers, figures }) => (powers ? [[sound, { powers, truePeakDbtp: figures.truePeakDbtp }]] : [])),
  )
}

/** Makes segments of one form. @returns them in the order of their recipes */
export async function makeAndKeep(
  { db, tasks }: AppContext,
  recipes: readonly SegmentRecipe[],
  signal: AbortSignal,
): Promise<Segment[]> {
  const orders = recipes.map((recipe) => recipe.order)
  const heard = orders.flatMap(({ kind, slide }) => (kind === 'sound' && slide.sound ? [slide.sound.clip] : []))
  const input = { orders, keys: recipes.map((recipe) => recipe.key), loudness: await loudnessOf(db.read, heard) }
  const made = await tasks.run('encode', input, signal)
  for (const [i, { key }] of recipes.entries()) {
    const row = { key, usedAt: Date.now(), ...made[i]! }
    await db.write((tx) => tx.insert(segments).values(row).onConflictDoUpdate({ target: segments.key, set: row }))
  }
  return made
}

/** Segments that are used are kept. */
export const touchSegments = ({ db }: AppContext, keys: string[]) =>
  db.write((tx) => tx.update(segments).set({ usedAt: Date.now() }).where(inArray(segments.key, keys)))
