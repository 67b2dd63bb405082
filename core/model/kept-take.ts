/** Which take of a slide is heard. By itself: pages need it, and nothing of what checks a slide. */
import type { Slide } from './slide.ts'
import type { Take } from './take.ts'

/** @returns the take that is heard on the slide, or null while nothing usable is kept */
export function keptTake(slide: Pick<Slide, 'keptTakeId' | 'takes'>): Take | null {
  return slide.takes.find((take) => take.id === slide.keptTakeId) ?? null
}
