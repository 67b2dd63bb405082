/** What is told of moments of a recording: marks by keys, bookmarks for learners. */
import { message } from '#core/words/say.ts'
import { z } from '../zod.ts'

const moment = z.number().int().nonnegative()
/** Something that was told by a key while recording, at its exact sample. */
export const Mark = z.discriminatedUnion('kind', [
  /** From here on another slide is spoken to. */
  z.object({ kind: z.literal('slide'), at: moment, slideId: z.string() }),
  /** The next picture of the slide appears. */
  z.object({ kind: z.literal('step'), at: moment, stepId: z.string() }),
  /** The recording rested here. */
  z.object({ kind: z.literal('pause'), at: moment }),
  /** What was said just before was wrong. */
  z.object({ kind: z.literal('wrong'), at: moment }),
  /** Learners may want to find this place again. */
  z.object({ kind: z.literal('bookmark'), at: moment }),
  /** What lies between was a slip and is said again from here on. */
  z.object({ kind: z.literal('pick-up'), at: moment, from: moment }),
])
export type Mark = z.infer<typeof Mark>
export const Marks = z.array(Mark).max(5000)

/** A place in a take that learners may want to find again: an entry under its slide's chapter. */
export const Bookmark = z.object({
  /** Seconds of the take. */
  at: z
    .number()
    .nonnegative()
    .max(24 * 3600),
  title: z.string().trim().min(1, message('A bookmark needs a name.').id).max(120),
})
export type Bookmark = z.infer<typeof Bookmark>
export const Bookmarks = z.array(Bookmark).max(200)
