/** What is on the screen at a moment of the lecture. */
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { TRANSITION_FRAME } from '#core/timing/scheduled.ts'
import { filmsAt, type ShownFrameOfFilm } from './films.ts'
import type { EditionPlan, PlannedSlide } from './plan.ts'

export interface Shown {
  /** Index in the plan. */
  slide: number
  /** Content name of the picture. */
  picture: string
  /** While it takes over from another picture. */
  transition: { from: string; kind: NonNullable<PlannedSlide['transition']>['kind']; progress: number } | null
  /** Films that are seen over the picture, in the order in which they lie over one another. */
  films: ShownFrameOfFilm[]
}

/** @returns index of the slide at a lecture sample; that of the last one past the end */
export function slideAt(plan: Pick<EditionPlan, 'slides'>, sample: number): number {
  let [low, high] = [0, plan.slides.length - 1]
  while (low < high) {
    const middle = Math.ceil((low + high) / 2)
    if (plan.slides[middle]!.startSamples <= sample) low = middle
    else high = middle - 1
  }
  return low
}

/** @param seconds since the lecture started; the ends hold for moments outside it */
export function shownAt(plan: Pick<EditionPlan, 'slides'>, seconds: number): Shown {
  const sample = Math.max(0, Math.round(seconds * SAMPLE_RATE))
  const index = slideAt(plan, sample)
  const slide = plan.slides[index]!
  const at = sample - slide.startSamples
  const picture = (slide.pictures.findLast((p) => p.atSamples <= at) ?? slide.pictures[0]!).picture
  const changing = (slide.transition?.frames ?? 0) * TRANSITION_FRAME
  return {
    slide: index,
    picture,
    transition:
      slide.transition && at < changing
        ? { from: slide.transition.from, kind: slide.transition.kind, progress: at / changing }
        : null,
    films: filmsAt(slide.films, at),
  }
}
