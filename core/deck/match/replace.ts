/** A new version of a deck beside the lecture that was made from the old one: what changed, what is new, what is gone. */

import type { Lecture } from '#core/model/lecture.ts'
import type { FilmSettings, FilmTrim } from '#core/model/moving/film.ts'
import type { Step } from '#core/model/slide.ts'
import type { Message } from '#core/words/say.ts'
import { bestPairs, type Paged } from './pair.ts'

export interface NewPage extends Paged {
  /** Content name. */
  picture: string
  films?: Pick<NewDeckFilm, 'file'>[]
  steps?: { picture: string; films?: Pick<NewDeckFilm, 'file'>[] }[]
}

/** A page of the new deck with all that a slide takes from it. */
export interface NewDeckPage extends NewPage {
  thumbnail: string
  width: number
  height: number
  isAltTextDraft?: boolean
  script?: string
  hidden?: boolean
  warnings?: Message[]
  section?: string
  /** What its clicks bring, in order; absent in what an earlier version found. */
  steps?: NewStep[]
  /** What moves on its first picture; absent in what an earlier version found. */
  films?: NewDeckFilm[]
}

/** A further picture of a page. */
export type NewStep = Omit<Step, 'id' | 'films'> & { films?: NewDeckFilm[] }

/** A film of a page, in the store. */
export interface NewDeckFilm {
  name: string
  file: string
  hasPoster: boolean
  settings: Partial<FilmSettings> & FilmTrim
}

export interface ChangedSlide {
  slideId: string
  page: number
  /** Its picture is another one in the new deck, or what moves on it is. */
  hasNewPicture: boolean
  /** Its title in the new deck, where that is another one; null where it is the same, or the deck has none. */
  newTitle: string | null
}

export interface Replacement {
  changed: ChangedSlide[]
  /** Pages that no slide is like, and after which slide each comes; null at the beginning. */
  added: { page: number; afterSlideId: string | null }[]
  /** Slides that the new deck has no page for. */
  removed: string[]
  /** All slides of the lecture in the order of the new deck, where that is another one; null where it is the same. */
  order: string[] | null
}

/** What was found, with the pages it speaks of. */
export interface FoundReplacement extends Replacement {
  pages: NewDeckPage[]
}

type OldSlide = Pick<Lecture['slides'][number], 'id' | 'title' | 'altText' | 'card' | 'steps'>

const textOf = ({ title, altText }: Paged) => `${title}\n${altText}`.replace(/\s+/g, ' ').trim()

/** Gives each slide the page that has the same key, the first of the one to the first of the other, wherever they stand. */
function pairBy(pairs: (number | null)[], slideKeys: readonly (string | null)[], pageKeys: readonly (string | null)[]) {
  const free = new Map<string, number[]>()
  for (const [page, key] of pageKeys.entries())
    if (key !== null && !pairs.includes(page)) free.set(key, [...(free.get(key) ?? []), page])
  for (const [i, key] of slideKeys.entries()) if (pairs[i] === null && key !== null) pairs[i] = free.get(key)?.shift() ?? null
}

/**
 * Which page of the new deck each slide is: by its content first, the very same picture or the very same words, wherever they stand now; then by
 * place and likeness.
 */
function pairsOf(old: readonly OldSlide[], pages: readonly NewPage[]): (number | null)[] {
  const pairs: (number | null)[] = old.map(() => null)
  pairBy(
    pairs,
    old.map((slide) => slide.steps[0]?.picture ?? null),
    pages.map((page) => page.picture),
  )
  pairBy(
    pairs,
    old.map((slide) => textOf(slide) || null),
    pages.map((page) => textOf(page) || null),
  )
  // what is left is looked for between the pages of its neighbours
  for (let from = 0; from < old.length; from++) {
    if (pairs[from] !== null) continue
    let to = from
    while (to < old.length && pairs[to] === null) to++
    const [first, last] = [from === 0 ? 0 : pairs[from - 1]! + 1, to === old.length ? pages.length : pairs[to]!]
    const between = pages.map((_, page) => page).filter((page) => page >= first && page < last && !pairs.includes(page))
    const found = bestPairs(
      old.slice(from, to),
      between.map((page) => pages[page]!),
    )
    for (const [k, page] of found.entries()) if (page !== null) pairs[from + k] = between[page]!
    from = to
  }
  return pairs
}

/** Slides in the order of their pages; those without one stay behind the slide that they stood behind. */
function orderOf(slides: readonly OldSlide[], pageOf: ReadonlyMap<string, number>): string[] | null {
  const groups: { page: number; ids: string[] }[] = [{ page: -1, ids: [] }]
  for (const { id } of slides) {
    const page = pageOf.get(id)
    if (page === undefined) groups.at(-1)!.ids.push(id)
    else groups.push({ page, ids: [id] })
  }
  const order = groups.toSorted((a, b) => a.page - b.page).flatMap((group) => group.ids)
  return order.every((id, i) => id === slides[i]!.id) ? null : order
}

/** Whether a page shows another picture, or another film, than its slide does. */
function looksOtherwise(slide: OldSlide, page: NewPage): boolean {
  const shown = [page, ...(page.steps ?? [])]
  const there = slide.steps.flatMap((step) => step.films)
  const coming = shown.flatMap(({ films = [] }) => films.map((film) => film.file))
  return (
    shown.some(({ picture }) => !slide.steps.some((step) => step.picture === picture)) ||
    coming.some((file) => !there.some((film) => film.original === file)) ||
    there.some((film) => film.isOfDeck && !coming.includes(film.original))
  )
}

/** Slides that a deck cannot speak of: text slides were made here. */
export function compareDeck(slides: readonly OldSlide[], pages: readonly NewPage[]): Replacement {
  const old = slides.filter((slide) => slide.card === null)
  const pairs = pairsOf(old, pages)
  const changed = old.flatMap((slide, i): ChangedSlide[] => {
    const page = pairs[i]
    if (page == null) return []
    const hasNewPicture = looksOtherwise(slide, pages[page]!)
    const title = pages[page]!.title.trim()
    const newTitle = title !== '' && title !== slide.title ? title : null
    return hasNewPicture || newTitle !== null ? [{ slideId: slide.id, page, hasNewPicture, newTitle }] : []
  })
  const added: Replacement['added'] = []
  let after: string | null = null
  for (let page = 0; page < pages.length; page++) {
    const slide = pairs.indexOf(page)
    if (slide >= 0) after = old[slide]!.id
    else added.push({ page, afterSlideId: after })
  }
  const pageOf = new Map(old.flatMap((slide, i) => (pairs[i] == null ? [] : [[slide.id, pairs[i]] as const])))
  return {
    changed,
    added,
    removed: old.filter((_, i) => pairs[i] === null).map((slide) => slide.id),
    order: orderOf(slides, pageOf),
  }
}
