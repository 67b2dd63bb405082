/** Computed starts and lengths of all slides on the lecture's one clock. */

import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import type { TimingDefaults } from '#core/model/timing.ts'
import type { Transition } from '#core/model/transition.ts'
import { AAC_FRAME, type LectureSeconds, lectureSeconds, type SlideSeconds, toSamples, toSeconds } from './clocks.ts'
import { clipSamples } from './time-map.ts'

/** Common practice, no published source: a slide changes at the earliest so long after the last sound. */
export const TAIL_LEAST_S = 0.2
/** Common practice, no published source: the slide is seen before the voice begins, but never for longer. */
export const LEAD_MOST_S = 0.5
/** The last slide rests longer, so that a lecture does not end with its last word. */
export const LAST_REST_S = 1
/** Each picture of a slide is seen for at least so long. */
export const SHORTEST_STEP_S = 0.1
/** Frames of a transition are this far apart: 30 a second. */
export const TRANSITION_FRAME = toSamples(1) / 30
/** What must be seen of a silent slide once its transition is over. */
const SEEN_AFTER_TRANSITION_S = 0.5

export interface ScheduledTransition {
  kind: Exclude<Transition['kind'], 'none'>
  /** Whole frames from the slide's start on. */
  frames: number
}

export interface ScheduledSlide {
  slideId: string
  /** First sample of the slide on the lecture's clock. */
  startSamples: number
  /** A multiple of 1024 samples. */
  lengthSamples: number
  /** First sample of the clip, counted from the slide's start; never before its transition has ended. */
  leadSamples: number
  /** 0 when the slide has no sound. */
  clipSamples: number
  /** Null for the first slide and for a plain cut. */
  transition: ScheduledTransition | null
  /** At a fixed pace, by how much the sound is longer than there is room for; negative where there is room left. Else null. */
  overSamples: number | null
}

export interface Schedule {
  slides: ScheduledSlide[]
  lengthSamples: number
}

const wholeFrames = (samples: number) => Math.ceil(samples / AAC_FRAME) * AAC_FRAME
const transitionSamples = (transition: ScheduledTransition | null) => (transition ? transition.frames * TRANSITION_FRAME : 0)

/**
 * Length of one slide by itself: lead + clip + tail, or the hold when there is no clip, rounded up to whole AAC frames.
 *
 * @param clip length of the clip in samples; 0 for a slide without sound
 * @returns samples, a multiple of 1024; never shorter than what goes in, nor than the minimum
 * @see common practice, no published source: a slide is never shorter than its sound plus a rest
 */
export function slideLengthSamples(
  clip: number,
  timing: Pick<TimingDefaults, 'leadSeconds' | 'tailSeconds' | 'holdSeconds' | 'minimumSeconds'>,
): number {
  const wanted = clip > 0 ? toSamples(timing.leadSeconds) + clip + toSamples(timing.tailSeconds) : toSamples(timing.holdSeconds)
  return wholeFrames(Math.max(wanted, toSamples(timing.minimumSeconds)))
}

/** @returns the lecture's timing with the slide's own exceptions laid over it */
export function slideTiming(lecture: Pick<Lecture, 'timing'>, slide: Pick<Slide, 'timing'>): TimingDefaults {
  return { ...lecture.timing, ...slide.timing }
}

/** @returns samples of the clip heard on a slide; 0 while the slide has no kept take that is tidied */
export function slideClipSamples(slide: Pick<Slide, 'keptTakeId' | 'takes'>): number {
  const take = keptTake(slide)
  return take?.tidyUp ? clipSamples(take.tidyUp) : 0
}

/** @returns how the slide takes over from a slide before it */
export function slideTransition(
  lecture: Pick<Lecture, 'transition'>,
  slide: Pick<Slide, 'transition'>,
): ScheduledTransition | null {
  const { kind, seconds } = slide.transition ?? lecture.transition
  return kind === 'none' ? null : { kind, frames: Math.round(toSamples(seconds) / TRANSITION_FRAME) }
}

/**
 * Starts and lengths of all shown slides. Starts are running totals of integers, so nothing drifts.
 *
 * A transition lies at the head of its slide. It takes its time out of that slide's lead and, where the lead is too short, out of
 * the tail before it, which keeps at least 0.2 s; so it never covers speech.
 *
 * At a fixed pace every slide ends on the frame nearest to its exact moment, so twenty slides of 20 s are 6 min 40 s. Lead and tail
 * shrink before the slide grows; a clip that does not fit even so is never cut: its slide lasts longer, and says by how much.
 *
 * @param lecture hidden slides are left out
 */
export function schedule(lecture: Pick<Lecture, 'timing' | 'slides' | 'transition'>): Schedule {
  const shown = lecture.slides
    .filter((slide) => !slide.hidden)
    .map((slide, i) => ({
      slide,
      timing: slideTiming(lecture, slide),
      clip: slideClipSamples(slide),
      transition: i === 0 ? null : slideTransition(lecture, slide),
    }))
  let at = 0
  /** Where the fixed pace would have the slide end, before rounding. */
  let exact = 0
  const slides = shown.map(({ slide, timing, clip, transition }, i): ScheduledSlide => {
    const changing = transitionSamples(transition)
    const next = shown[i + 1]
    const borrowed = next && next.clip > 0 ? transitionSamples(next.transition) - toSamples(next.timing.leadSeconds) : 0
    const least = toSamples(TAIL_LEAST_S)
    const seen = changing + slide.steps.length * toSamples(SHORTEST_STEP_S)
    let leadSamples = clip > 0 ? Math.max(toSamples(timing.leadSeconds), changing) : 0
    let lengthSamples: number
    let overSamples: number | null = null
    if (timing.paceSeconds !== null) {
      exact += toSamples(timing.paceSeconds)
      const held = Math.round(exact / AAC_FRAME) * AAC_FRAME - at
      const needed = Math.max(clip > 0 ? changing + clip + least : 0, seen)
      overSamples = needed - held
      if (clip > 0) leadSamples = Math.max(changing, Math.min(leadSamples, held - clip - least))
      lengthSamples = overSamples > 0 ? wholeFrames(needed) : held
      if (overSamples > 0) exact = at + lengthSamples
    } else {
      const rest = next ? 0 : toSamples(LAST_REST_S)
      const tail = Math.max(least, toSamples(timing.tailSeconds) - Math.max(0, borrowed)) + rest
      const hold = Math.max(toSamples(timing.holdSeconds), changing + toSamples(SEEN_AFTER_TRANSITION_S)) + rest
      lengthSamples = wholeFrames(Math.max(clip > 0 ? leadSamples + clip + tail : hold, toSamples(timing.minimumSeconds), seen))
      exact = at + lengthSamples
    }
    const scheduled: ScheduledSlide = {
      slideId: slide.id,
      startSamples: at,
      lengthSamples,
      leadSamples,
      clipSamples: clip,
      transition,
      overSamples,
    }
    at += lengthSamples
    return scheduled
  })
  return { slides, lengthSamples: at }
}

/** @returns the moment of the lecture at which a moment of a scheduled slide comes */
export function toLecture(slide: Pick<ScheduledSlide, 'startSamples'>, moment: SlideSeconds): LectureSeconds {
  return lectureSeconds(toSeconds(slide.startSamples) + moment)
}
