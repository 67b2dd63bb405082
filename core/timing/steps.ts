/** When the further steps of a slide appear. */
import { keptTake } from '#core/model/kept-take.ts'
import type { Slide } from '#core/model/slide.ts'
import { type SlideSeconds, slideSeconds, takeSeconds, toSamples, toSeconds } from './clocks.ts'
import { type ScheduledSlide, SHORTEST_STEP_S, TRANSITION_FRAME } from './schedule.ts'
import { timeMap } from './time-map.ts'

export interface StepStart {
  stepId: string
  at: SlideSeconds
  /** False where nobody set the moment: it was spread evenly. */
  set: boolean
}

/**
 * Moments at which the steps of a slide appear, in order. The first is there from the start; one whose moment was cut out of the
 * take appears where the cut is; those that nobody set are spread evenly over what is spoken.
 *
 * @returns one entry a step, ascending, all before the slide's end
 */
export function stepStarts(
  slide: Pick<Slide, 'steps' | 'takes' | 'keptTakeId'>,
  scheduled: Pick<ScheduledSlide, 'leadSamples' | 'clipSamples' | 'lengthSamples' | 'transition'>,
): StepStart[] {
  const take = keptTake(slide)
  const end = toSeconds(scheduled.lengthSamples)
  const spoken = scheduled.clipSamples > 0
  const from = spoken ? toSeconds(scheduled.leadSamples) : 0
  const to = spoken ? from + toSeconds(scheduled.clipSamples) : end
  const map = take?.tidyUp && spoken ? timeMap(take.tidyUp, toSeconds(scheduled.leadSamples)) : null
  let before = toSeconds((scheduled.transition?.frames ?? 0) * TRANSITION_FRAME)
  return slide.steps.map((step, i): StepStart => {
    if (i === 0) return { stepId: step.id, at: slideSeconds(0), set: true }
    const moment = take?.stepMoments?.[step.id]
    const heard = moment === undefined ? null : map?.spanToSlide(takeSeconds(moment), takeSeconds(Number.MAX_SAFE_INTEGER))?.start
    // a moment after all that is left of the take comes with its last sound
    const wanted = moment !== undefined && map ? (heard ?? to) : from + ((to - from) * i) / slide.steps.length
    const left = (slide.steps.length - i) * SHORTEST_STEP_S
    const at = Math.min(Math.max(wanted, before + SHORTEST_STEP_S), Math.max(before, end - left))
    before = at
    return { stepId: step.id, at: slideSeconds(at), set: moment !== undefined && map !== null }
  })
}

/** @returns index of the step seen at a moment of the slide */
export function stepAt(starts: readonly StepStart[], moment: SlideSeconds): number {
  // a frame belongs to the step that begins within it
  const tolerance = 0.5 / toSamples(1)
  return Math.max(
    0,
    starts.findLastIndex((s) => s.at <= moment + tolerance),
  )
}
