/** A half-open stretch of a take. */
import { message } from '#core/words/say.ts'
import { z } from '../zod.ts'

/** A half-open stretch of a take, in samples at 48 kHz. */
export const SampleRange = z
  .object({ start: z.number().int().nonnegative(), end: z.number().int().nonnegative() })
  .refine((s) => s.end > s.start, message('a stretch must end after it starts').id)
export type SampleRange = z.infer<typeof SampleRange>
