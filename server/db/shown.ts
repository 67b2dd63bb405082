/** What of a lecture is seen: not what was deleted, nor what waits to be put in, nor recordings over several slides, nor what others keep to themselves. */
import { and, eq, isNull, or } from 'drizzle-orm'
import { slides, steps, takes } from './schema.ts'

export const isShownSlide = and(isNull(slides.deletedAt), eq(slides.isPlaced, true))
export const isShownStep = eq(steps.isPlaced, true)
/** One that somebody can choose for its slide. */
export const isShownTake = and(
  isNull(takes.deletedAt),
  eq(takes.isContinuous, false),
  eq(takes.isAnswer, false),
  or(isNull(takes.voiceId), eq(takes.voiceState, 'sent')),
)
