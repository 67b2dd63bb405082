/** Encoded segments of slides, each cached by the hash of all that goes in. Publishing joins them. */
import { createHash } from 'node:crypto'
import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { inArray } from 'drizzle-orm'
import type { AppContext } from '#server/context/context.ts'
import { type StoredSegmentFacts, segments } from '#server/db/schema.ts'
import type { Lend } from '#server/storage/file-store.ts'

/** Raise it when the same input would be encoded otherwise. */
const ENCODER_VERSION = 8

export interface Segment {
  file: string
  facts: StoredSegmentFacts | null
}

/** A segment that can be made: what goes in, and how. */
export interface SegmentRecipe {
  key: string
  ending: '.mp4' | '.aac' | '.webm'
  /** Segments of one form are encoded alike. */
  form: string
  /** How much there is to do: pictures that are new, or samples. */
  work: number
  /**
   * @param folder for what has to be drawn or mixed first
   * @param lend lends stored files until the segment is encoded
   */
  call(folder: string, lend: Lend, signal: AbortSignal): Promise<SegmentCall>
}

/** What the media tool is asked for; several are one run of it, for starting it takes as long as a picture. */
export interface SegmentCall {
  /** The arguments of each input. */
  inputs: string[][]
  /** The filter from the inputs, of which the first has this number, to the output with this label; labels within it begin with it. */
  filter(firstInput: number, label: string): string
  /** The arguments of its output but for its path. */
  output: string[]
  /** @returns what the written segment tells */
  facts(out: string): Promise<Omit<StoredSegmentFacts, 'bytes' | 'milliseconds'>>
}

export const segmentKey = (...ingredients: unknown[]) =>
  createHash('sha256')
    .update(JSON.stringify([ENCODER_VERSION, ...ingredients]))
    .digest('hex')

/** Which of some segments are made already. */
export async function knownSegments({ db, store }: AppContext, recipes: readonly SegmentRecipe[]): Promise<Map<string, Segment>> {
  const known = new Map<string, Segment>()
  const keys = recipes.map((recipe) => recipe.key)
  for (const row of await db.read.select().from(segments).where(inArray(segments.key, keys)))
    if (await store.has(row.file)) known.set(row.key, { file: row.file, facts: row.facts })
  return known
}

/** Arguments of one run that makes all segments. @param outs where each is written */
function argumentsOf(calls: readonly SegmentCall[], outs: readonly string[]): string[] {
  let inputs = 0
  const filters = calls.map((call, i) => {
    const filter = call.filter(inputs, `o${i}`)
    inputs += call.inputs.length
    return filter
  })
  const outputs = calls.flatMap((call, i) => ['-map', `[o${i}]`, ...call.output, outs[i]!])
  return [...calls.flatMap((call) => call.inputs.flat()), '-filter_complex', filters.join(';'), ...outputs]
}

/** Makes segments of one form in one run of the media tool. @returns them in the order of their recipes */
export async function encodeSegments(
  context: AppContext,
  recipes: readonly SegmentRecipe[],
  signal: AbortSignal,
): Promise<Segment[]> {
  const { db, store, media } = context
  const began = performance.now()
  const folder = store.scratchPath('.segments')
  const outs = recipes.map((recipe) => store.scratchPath(recipe.ending))
  try {
    const calls = await store.withLocalFiles(async (lend) => {
      const prepared: SegmentCall[] = []
      for (const [i, recipe] of recipes.entries()) {
        const own = join(folder, String(i))
        await mkdir(own, { recursive: true })
        prepared.push(await recipe.call(own, lend, signal))
      }
      await media.run(argumentsOf(prepared, outs), { signal })
      return prepared
    })

    const milliseconds = performance.now() - began
    const work = recipes.reduce((sum, recipe) => sum + recipe.work, 0)
    const made: Segment[] = []
    for (const [i, { key, work: own }] of recipes.entries()) {
      const told = await calls[i]!.facts(outs[i]!)
      const { name, bytes } = await store.adopt(outs[i]!)
      const facts = { ...told, bytes, milliseconds: Math.round((milliseconds * own) / work) }
      const row = { key, file: name, bytes, usedAt: Date.now(), facts }
      await db.write((tx) => tx.insert(segments).values(row).onConflictDoUpdate({ target: segments.key, set: row }))
      made.push({ file: name, facts })
    }
    return made
  } finally {
    for (const path of [folder, ...outs]) await rm(path, { recursive: true, force: true })
  }
}

/** Segments that are used are kept. */
export const touchSegments = ({ db }: AppContext, keys: string[]) =>
  db.write((tx) => tx.update(segments).set({ usedAt: Date.now() }).where(inArray(segments.key, keys)))
