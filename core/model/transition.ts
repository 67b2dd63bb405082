/** How a slide takes over from the one before it. */
import { z } from './zod.ts'

/** How a slide takes over from the one before it. */
export const Transition = z.object({
  kind: z.enum(['none', 'cross-fade', 'wipe', 'push']),
  seconds: z.number().min(0.2).max(1.5),
})
export type Transition = z.infer<typeof Transition>
export const NO_TRANSITION: Transition = { kind: 'none', seconds: 0.5 }
