/** Encoded parts of slides, each cached by the hash of all that goes in. Publishing joins them. */
import { createHash } from 'node:crypto'
import { rm } from 'node:fs/promises'
import { eq, inArray } from 'drizzle-orm'
import { type KeptFacts, parts } from '#server/db/schema.ts'
import type { Tools } from '#server/tools.ts'

/** Raise it when the same input would be encoded otherwise. */
const ENCODER_VERSION = 6

export interface Part {
  file: string
  facts: KeptFacts | null
}

/** A part that can be made: what goes in, and how. */
export interface PartRecipe {
  key: string
  ending: '.mp4' | '.aac' | '.webm'
  /** Writes the part's file. @returns what it told */
  make(out: string, signal: AbortSignal): Promise<Omit<KeptFacts, 'bytes' | 'milliseconds'>>
}

export const partKey = (...ingredients: unknown[]) =>
  createHash('sha256')
    .update(JSON.stringify([ENCODER_VERSION, ...ingredients]))
    .digest('hex')

/** Which of some parts are made already. */
export async function knownParts({ db, store }: Tools, recipes: readonly PartRecipe[]): Promise<Map<string, Part>> {
  const known = new Map<string, Part>()
  const keys = recipes.map((recipe) => recipe.key)
  for (const row of await db.read.select().from(parts).where(inArray(parts.key, keys)))
    if (await store.has(row.file)) known.set(row.key, { file: row.file, facts: row.facts })
  return known
}

/** @returns the part, made now where it is not there yet */
export async function makePart(tools: Tools, recipe: PartRecipe, signal: AbortSignal): Promise<Part> {
  const { db, store } = tools
  const known = (await knownParts(tools, [recipe])).get(recipe.key)
  if (known) {
    await db.write((tx) => tx.update(parts).set({ usedAt: Date.now() }).where(eq(parts.key, recipe.key)))
    return known
  }
  const scratch = store.scratchPath(recipe.ending)
  try {
    const began = performance.now()
    const told = await recipe.make(scratch, signal)
    const { name, bytes } = await store.adopt(scratch)
    const facts = { ...told, bytes, milliseconds: Math.round(performance.now() - began) }
    const row = { key: recipe.key, file: name, bytes, usedAt: Date.now(), facts }
    await db.write((tx) => tx.insert(parts).values(row).onConflictDoUpdate({ target: parts.key, set: row }))
    return { file: name, facts }
  } finally {
    await rm(scratch, { force: true })
  }
}
