/** A half-open stretch of a take. */
import { z } from './zod.ts'

/** A half-open stretch of a take, in samples at 48 kHz. */
export const SampleRange = z
  .object({ start: z.number().int().nonnegative(), end: z.number().int().nonnegative() })
  .refine((s) => s.end > s.start, 'a stretch must end after it starts')
export type SampleRange = z.infer<typeof SampleRange>
