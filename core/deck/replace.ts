/** A new version of a deck beside the lecture that was made from the old one: what changed, what is new, what is gone. */
import type { Lecture } from '#core/lecture.ts'
import { bestPairs, type Paged } from './pair.ts'

export interface NewPage extends Paged {
  /** Content name. */
  picture: string
}

export interface Replacement {
  /** Slides whose picture is another one in the new deck. */
  changed: { slideId: string; page: number }[]
  /** Pages that no slide is like, and after which slide each comes; null at the beginning. */
  added: { page: number; afterSlideId: string | null }[]
  /** Slides that the new deck has no page for. */
  removed: string[]
}

/** Slides that a deck cannot speak of: text slides were made here. */
export function compareDeck(
  slides: readonly Pick<Lecture['slides'][number], 'id' | 'title' | 'altText' | 'card' | 'steps'>[],
  pages: readonly NewPage[],
): Replacement {
  const old = slides.filter((slide) => slide.card === null)
  // a page that is the very same picture is the same page, whatever its words were changed to here
  const same = new Map(pages.map((page, i) => [page.picture, i]))
  const texts = old.map((slide) => {
    const page = pages[same.get(slide.steps[0]?.picture ?? '') ?? -1]
    return page ?? slide
  })
  const pairs = bestPairs(texts, pages)
  const taken = new Set(pairs.filter((page) => page !== null))
  const changed = old.flatMap((slide, i) => {
    const page = pairs[i]
    return page == null || slide.steps.some((step) => step.picture === pages[page]!.picture) ? [] : [{ slideId: slide.id, page }]
  })
  const added: Replacement['added'] = []
  let after: string | null = null
  for (let page = 0; page < pages.length; page++) {
    const slide = pairs.indexOf(page)
    if (slide >= 0) after = old[slide]!.id
    else if (!taken.has(page)) added.push({ page, afterSlideId: after })
  }
  return { changed, added, removed: old.filter((_, i) => pairs[i] === null).map((slide) => slide.id) }
}
