/** Computed starts and lengths of all slides on the lecture's one clock. */
import { keptTake, type Lecture, type Slide, type TimingDefaults } from '#core/lecture.ts'
import { AAC_FRAME, type LectureSeconds, lectureSeconds, type SlideSeconds, toSamples, toSeconds } from './clocks.ts'
import { clipSamples } from './time-map.ts'

export interface ScheduledSlide {
  slideId: string
  /** First sample of the slide on the lecture's clock. */
  startSamples: number
  /** A multiple of 1024 samples. */
  lengthSamples: number
  /** First sample of the clip, counted from the slide's start. */
  leadSamples: number
  /** 0 when the slide has no sound. */
  clipSamples: number
}

export interface Schedule {
  slides: ScheduledSlide[]
  lengthSamples: number
}

/**
 * Length of one slide: lead + clip + tail, or the hold when there is no clip, rounded up to whole AAC frames.
 *
 * @param clip length of the clip in samples; 0 for a slide without sound
 * @returns samples, a multiple of 1024; never shorter than what goes in
 * @see common practice, no published source: a slide is never shorter than its sound plus a rest
 */
export function slideLengthSamples(clip: number, timing: TimingDefaults): number {
  const wanted = clip > 0 ? toSamples(timing.leadSeconds) + clip + toSamples(timing.tailSeconds) : toSamples(timing.holdSeconds)
  return Math.ceil(wanted / AAC_FRAME) * AAC_FRAME
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

/**
 * Starts and lengths of all shown slides. Starts are running totals of integers, so nothing drifts.
 *
 * @param lecture hidden slides are left out
 */
export function schedule(lecture: Pick<Lecture, 'timing' | 'slides'>): Schedule {
  let at = 0
  const slides = lecture.slides
    .filter((slide) => !slide.hidden)
    .map((slide) => {
      const timing = slideTiming(lecture, slide)
      const clip = slideClipSamples(slide)
      const lengthSamples = slideLengthSamples(clip, timing)
      const scheduled: ScheduledSlide = {
        slideId: slide.id,
        startSamples: at,
        lengthSamples,
        leadSamples: clip > 0 ? toSamples(timing.leadSeconds) : 0,
        clipSamples: clip,
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

/** @returns the slide shown at a moment of the lecture and the moment on that slide; null before the start or past the end */
export function toSlideMoment(plan: Schedule, moment: LectureSeconds): { slide: ScheduledSlide; moment: SlideSeconds } | null {
  const sample = moment * toSamples(1)
  const slide = plan.slides.find((s) => sample >= s.startSamples && sample < s.startSamples + s.lengthSamples)
  return slide ? { slide, moment: (moment - toSeconds(slide.startSamples)) as SlideSeconds } : null
}
