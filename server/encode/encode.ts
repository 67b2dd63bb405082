/** Encoding segments: several of one form in one run of the media tool. */
import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import type { StoredSegmentFacts } from '#server/db/kept.ts'
import type { EncodeTools, SegmentCall, SegmentOrder, SegmentRecipe } from './segment.ts'
import { soundSegment } from './sound-segment.ts'
import { videoSegment } from './video-segment.ts'

export interface MadeSegment {
  file: string
  bytes: number
  facts: StoredSegmentFacts
}

/** The recipe that an order came from. */
export const recipeOf = (order: SegmentOrder): SegmentRecipe =>
  order.kind === 'video' ? videoSegment(order.slide, order.form, order.crest) : soundSegment(order.slide, order.form)

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
  tools: EncodeTools,
  recipes: readonly SegmentRecipe[],
  signal: AbortSignal,
): Promise<MadeSegment[]> {
  const { store, media } = tools
  const began = performance.now()
  const folder = store.scratchPath('.segments')
  const outs = recipes.map((recipe) => store.scratchPath(recipe.ending))
  try {
    const calls = await store.withLocalFiles(async (lend) => {
      const prepared: SegmentCall[] = []
      for (const [i, recipe] of recipes.entries()) {
        const own = join(folder, String(i))
        await mkdir(own, { recursive: true })
        prepared.push(await recipe.call(tools, own, lend, signal))
      }
      // a film has as many pictures as a lecture, and each is one to encode
      const frames = recipes.reduce((sum, { order, work }) => sum + (order.kind === 'video' ? work : 0), 0)
      await media.run(argumentsOf(prepared, outs), { signal, timeoutSeconds: 600 + frames })
      return prepared
    })

    const milliseconds = performance.now() - began
    const work = recipes.reduce((sum, recipe) => sum + recipe.work, 0)
    const made: MadeSegment[] = []
    for (const [i, { work: own }] of recipes.entries()) {
      const told = await calls[i]!.facts(outs[i]!)
      const { name, bytes } = await store.adopt(outs[i]!)
      made.push({ file: name, bytes, facts: { ...told, bytes, milliseconds: Math.round((milliseconds * own) / work) } })
    }
    return made
  } finally {
    for (const path of [folder, ...outs]) await rm(path, { recursive: true, force: true })
  }
}
