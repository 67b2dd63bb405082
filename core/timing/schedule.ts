/** Computed starts and lengths of all slides on the lecture's one clock. */

import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import type { TimingDefaults } from '#core/model/timing.ts'
import { AAC_FRAME, type LectureSeconds, lectureSeconds, type SlideSeconds, toSamples, toSeconds } from './clocks.ts'
import { filmsRunUntil, filmsWaitedFor, filmsWithin, scheduleFilms, voiceWaitsUntil } from './films.ts'
import {
  type ScheduledSlide,
  type ScheduledTransition,
  SHORTEST_STEP_S,
  TRANSITION_FRAME,
  transitionSamples,
} from './scheduled.ts'
import { clipSamples } from './time-map.ts'

/** Common practice, no published source: a slide changes at the earliest so long after the last sound. */
export const TAIL_LEAST_S = 0.2
/** Common practice, no published source: the slide is seen before the voice begins, but never for longer. */
export const LEAD_MOST_S = 0.5
/** The last slide rests longer, so that a lecture does not end with its last word. */
export const LAST_REST_S = 1
/** What must be seen of a silent slide once its transition is over. */
const SEEN_AFTER_TRANSITION_S = 0.5

export interface Schedule {
  slides: ScheduledSlide[]
  lengthSamples: number
}

const wholeFrames = (samples: number) => Math.ceil(samples / AAC_FRAME) * AAC_FRAME

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

interface Timed {
  slide: Slide
  timing: TimingDefaults
  clip: number
  transition: ScheduledTransition | null
}

/** Where a slide at a fixed pace ends: on the frame nearest to its exact moment. */
const heldSamples = (exact: number, at: number) => Math.round(exact / AAC_FRAME) * AAC_FRAME - at

/** What the transition of the slide after it takes of a slide's tail. */
const borrowedBy = ({ clip, transition, timing }: Timed) =>
  clip > 0 ? transitionSamples(transition) - toSamples(timing.leadSeconds) : 0

/** For how long a slide is seen before anything begins on it. */
const leadOf = ({ timing, transition }: Timed) => Math.max(toSamples(timing.leadSeconds), transitionSamples(transition))

/** No clip begins before: the transition is over, and the films it waits for. */
const earliestVoice = (own: Timed) => Math.max(transitionSamples(own.transition), voiceWaitsUntil(own.slide, leadOf(own)))

/** What must be seen of the pictures of a slide. */
const seenSamples = ({ slide, transition }: Timed) =>
  transitionSamples(transition) + slide.steps.length * toSamples(SHORTEST_STEP_S)

/** What a slide lasts at least, whatever its pace. */
const neededSamples = (own: Timed) =>
  Math.max(own.clip > 0 ? earliestVoice(own) + own.clip + toSamples(TAIL_LEAST_S) : 0, seenSamples(own))

/** A slide's lead and length, without the films that its voice does not wait for. */
function withoutFilms(
  own: Timed,
  { held, rest, borrowed }: { held: number | null; rest: number; borrowed: number },
): Pick<ScheduledSlide, 'leadSamples' | 'filmlessSamples'> {
  const { timing, clip, transition } = own
  const least = toSamples(TAIL_LEAST_S)
  const earliest = earliestVoice(own)
  const waits = earliest > transitionSamples(transition) ? earliest + toSamples(timing.leadSeconds) : 0
  const wanted = clip > 0 ? Math.max(leadOf(own), waits) : 0
  if (held !== null) {
    const leadSamples = clip > 0 ? Math.max(earliest, Math.min(wanted, held - clip - least)) : 0
    const needed = neededSamples(own)
    return { leadSamples, filmlessSamples: needed > held ? wholeFrames(needed) : held }
  }
  const tail = Math.max(least, toSamples(timing.tailSeconds) - Math.max(0, borrowed)) + rest
  const hold = Math.max(toSamples(timing.holdSeconds), transitionSamples(transition) + toSamples(SEEN_AFTER_TRANSITION_S)) + rest
  const length = Math.max(clip > 0 ? wanted + clip + tail : hold, toSamples(timing.minimumSeconds), seenSamples(own))
  return { leadSamples: wanted, filmlessSamples: wholeFrames(length) }
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
 * A film counts as sound does: its slide lasts until it has been shown once and a rest, unless it ends with its slide or runs on over those
 * that follow; for such a one the last slide waits.
 *
 * @param lecture hidden slides are left out
 */
export function schedule(lecture: Pick<Lecture, 'timing' | 'slides' | 'transition'>): Schedule {
  const shown = lecture.slides
    .filter((slide) => !slide.hidden)
    .map(
      (slide, i): Timed => ({
        slide,
        timing: slideTiming(lecture, slide),
        clip: slideClipSamples(slide),
        transition: i === 0 ? null : slideTransition(lecture, slide),
      }),
    )
  let at = 0
  /** Where the fixed pace would have the slide end, before rounding. */
  let exact = 0
  /** Where on the lecture's clock the last film ends that runs on over its slide's end. */
  let runsUntil = 0
  const slides = shown.map((own, i): ScheduledSlide => {
    const { slide, timing, clip, transition } = own
    const held = timing.paceSeconds === null ? null : heldSamples(exact + toSamples(timing.paceSeconds), at)
    const next = shown[i + 1]
    const room = { held, rest: next ? 0 : toSamples(LAST_REST_S), borrowed: next ? borrowedBy(next) : 0 }
    const { leadSamples, filmlessSamples } = withoutFilms(own, room)
    const films = scheduleFilms(slide, { leadSamples, clipSamples: clip, filmlessSamples, transition }, leadOf(own))
    // one that would begin after its slide never runs
    runsUntil = Math.max(runsUntil, at + filmsRunUntil(slide, filmsWithin(slide, films, filmlessSamples)))
    const waits = Math.max(filmsWaitedFor(slide, films), next ? 0 : runsUntil - at)
    const tail =
      held === null ? Math.max(toSamples(TAIL_LEAST_S), toSamples(timing.tailSeconds)) + room.rest : toSamples(TAIL_LEAST_S)
    const lengthSamples = wholeFrames(Math.max(filmlessSamples, waits > 0 ? waits + tail : 0))
    const needed = Math.max(neededSamples(own), waits > 0 ? waits + tail : 0)
    const overSamples = held === null ? null : needed - held
    exact = held !== null && lengthSamples <= held ? exact + toSamples(timing.paceSeconds!) : at + lengthSamples
    const scheduled: ScheduledSlide = {
      slideId: slide.id,
      startSamples: at,
      lengthSamples,
      filmlessSamples,
      leadSamples,
      clipSamples: clip,
      transition,
      overSamples,
      films: filmsWithin(slide, films, lengthSamples),
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
