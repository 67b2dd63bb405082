/** Moving pictures that were recorded together with a take: a screen that was shared, or the teacher before a camera. */
import type { Message } from '#core/words/say.ts'
import { z } from '../../zod.ts'
import type { ShownFilm } from './film.ts'

export const FOOTAGE_KINDS = ['screen', 'camera'] as const
export type FootageKind = (typeof FOOTAGE_KINDS)[number]

const sample = z.number().int().nonnegative()

/** Which part of a footage was recorded while a stretch of a take was said. Samples. */
export const FootageCut = z.object({
  footageId: z.string(),
  /** Of the take. */
  start: sample,
  end: sample,
  /** Of the footage, counted from its first picture: what is seen at `start`. */
  from: sample,
  /** Not seen on the slide, though it is there. */
  isLeftOut: z.literal(true).optional(),
})
export type FootageCut = z.infer<typeof FootageCut>

export interface Footage {
  id: string
  kind: FootageKind
  /** Of the practice screen or camera, which are there for trying things out. */
  isPractice: boolean
  /** The file as it was recorded; null while it is being recorded, and where nothing came. */
  original: string | null
  /** What it shows, and the words that are seen in it, for those who cannot see it. */
  description: string
  /** Null until it is ready. */
  shown: ShownFilm | null
  /** Why it cannot be shown. */
  problem: Message | null
}

/** A part of a footage as a take has it. */
export interface TakeFootage extends FootageCut {
  footage: Footage
}

/** @returns what of the footage falls into a stretch of the take, for the take that the stretch becomes */
export function footageWithin(cuts: readonly FootageCut[], stretch: { start: number; end: number }): FootageCut[] {
  return cuts.flatMap(({ start, end, from, ...cut }) => {
    const [first, last] = [Math.max(start, stretch.start), Math.min(end, stretch.end)]
    if (last <= first) return []
    return [{ ...cut, start: first - stretch.start, end: last - stretch.start, from: from + first - start }]
  })
}

/** @returns the same footage of a take in which everything comes so many samples later */
export const footageLater = (cuts: readonly FootageCut[], by: number): FootageCut[] =>
  cuts.map((cut) => ({ ...cut, start: cut.start + by, end: cut.end + by }))
