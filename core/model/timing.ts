/** How long slides last beyond their sound, and how they take over from each other. */

import { z } from '../zod.ts'
import { CHANGE_KINDS, type Transition as TransitionType } from './transition.ts'

/** What timing may be. Seconds. */
const TimingFields = {
  /** Rest before the voice. Common practice: the slide is seen before the voice begins, never more than half a second. */
  leadSeconds: z.number().min(0).max(10),
  /** Rest after the last sound. Common practice: 0.2 s at least, 0.4 s is comfortable. */
  tailSeconds: z.number().min(0.2).max(10),
  /** How long a slide without a take is shown. */
  holdSeconds: z.number().min(0.5).max(600),
  /** No slide is shown for less. */
  minimumSeconds: z.number().min(0).max(60),
  /** Every slide is held exactly this long; null lets each last as long as its sound. */
  paceSeconds: z.number().min(2).max(600).nullable(),
}
/** How long slides last beyond their sound. */
export const TimingDefaults = z.object({
  leadSeconds: TimingFields.leadSeconds.default(0.25),
  tailSeconds: TimingFields.tailSeconds.default(0.4),
  holdSeconds: TimingFields.holdSeconds.default(5),
  minimumSeconds: TimingFields.minimumSeconds.default(1),
  paceSeconds: TimingFields.paceSeconds.default(null),
})
export type TimingDefaults = z.infer<typeof TimingDefaults>
export const DEFAULT_TIMING: TimingDefaults = TimingDefaults.parse({})
/** A slide's own exceptions: what is absent follows the lecture. Not `partial()` of the defaults, which would fill in what is absent. */
export const TimingExceptions = z.object(TimingFields).partial()
export type TimingExceptions = z.infer<typeof TimingExceptions>

export const Transition: z.ZodType<TransitionType> = z.object({
  kind: z.enum(['none', ...CHANGE_KINDS]),
  seconds: z.number().min(0.2).max(1.5),
})
