/** Which page of a PDF is which slide of the presentation it was made from. */

export interface Paged {
  title: string
  /** All text of it. */
  altText: string
  hidden?: boolean
}

/** A page this unlike a slide is another one. */
const LEAST_ALIKE = 0.35

const words = (paged: Paged) =>
  new Set(
    `${paged.title} ${paged.altText}`
      .toLowerCase()
      .normalize('NFKD')
      .match(/[\p{L}\p{N}]+/gu) ?? [],
  )

/** Words on more than this part of all pages stand in the footer, and tell none from another. */
const EVERYWHERE = 0.6
/** Of fewer pages nobody can tell what stands on all of them. */
const PAGES_TO_TELL = 6

/** What tells each page from the others. */
function tellingWords(pages: readonly Paged[]): Set<string>[] {
  const all = pages.map(words)
  if (all.length < PAGES_TO_TELL) return all
  const counts = new Map<string, number>()
  for (const set of all) for (const word of set) counts.set(word, (counts.get(word) ?? 0) + 1)
  return all.map((set) => new Set([...set].filter((word) => counts.get(word)! <= EVERYWHERE * all.length)))
}

/** @returns 0 for no word in common, 1 for all; two without a word are alike. @see Dice 1945, similarity of sets */
export function likeness(first: ReadonlySet<string>, second: ReadonlySet<string>): number {
  if (first.size + second.size === 0) return 1
  let common = 0
  for (const word of first) if (second.has(word)) common++
  return (2 * common) / (first.size + second.size)
}

/**
 * Pairs slides with pages, both in their order. As many pages as slides, or as slides that are shown, are taken one by one; else those
 * with the most words in common, none out of order.
 *
 * @returns for each slide the index of its page; null for none
 */
export function pairPages(slides: readonly Paged[], pages: readonly Paged[]): (number | null)[] {
  if (pages.length === slides.length) return slides.map((_, i) => i)
  const shown = slides.filter((slide) => !slide.hidden)
  if (pages.length === shown.length) return slides.map((slide) => (slide.hidden ? null : shown.indexOf(slide)))
  return bestPairs(slides, pages)
}

/** The pairs of most likeness in all, none out of order. */
export function bestPairs(slides: readonly Paged[], pages: readonly Paged[]): (number | null)[] {
  const best = Array.from({ length: slides.length + 1 }, () => new Float64Array(pages.length + 1))
  const telling = tellingWords([...slides, ...pages])
  const alike = slides.map((_, i) => pages.map((__, j) => likeness(telling[i]!, telling[slides.length + j]!)))
  for (let s = slides.length - 1; s >= 0; s--) {
    for (let p = pages.length - 1; p >= 0; p--) {
      const pair = alike[s]![p]! >= LEAST_ALIKE ? alike[s]![p]! + best[s + 1]![p + 1]! : 0
      best[s]![p] = Math.max(pair, best[s + 1]![p]!, best[s]![p + 1]!)
    }
  }
  const found: (number | null)[] = slides.map(() => null)
  for (let s = 0, p = 0; s < slides.length && p < pages.length; ) {
    const pair = alike[s]![p]! >= LEAST_ALIKE ? alike[s]![p]! + best[s + 1]![p + 1]! : 0
    if (pair > 0 && pair >= best[s + 1]![p]! && pair >= best[s]![p + 1]!) found[s++] = p++
    else if (best[s + 1]![p]! >= best[s]![p + 1]!) s++
    else p++
  }
  return found
}

/** Most pages that are offered for one slide: more than that nobody compares. */
const MOST_OFFERED = 6
/** So many words on both are needed to say that they are other ones. */
const WORDS_TO_TELL = 3

/** Whether a slide and the page that stands in its place have so little in common that one of them may be another one. */
export function readsOtherwise(slide: Paged, page: Paged): boolean {
  const [few, many] = [words(slide), words(page)].sort((a, b) => a.size - b.size) as [Set<string>, Set<string>]
  // much of a slide may be pictures of words, which only one of the two can read
  const common = [...few].filter((word) => many.has(word)).length
  return few.size >= WORDS_TO_TELL && common < LEAST_ALIKE * few.size
}

/**
 * Pages that pair with no slide, for a person to look at: each is offered to the shown slides without a page between its neighbours; where
 * there is none, to the slide before it, or to the first.
 *
 * @returns for each slide indices of pages, ascending; at most six
 */
export function offeredPages(slides: readonly Paged[], pages: readonly Paged[], pairs: readonly (number | null)[]): number[][] {
  const offers = slides.map((): number[] => [])
  const paired = new Set(pairs)
  for (const page of pages.keys()) {
    if (paired.has(page)) continue
    const before = pairs.findLastIndex((p) => p !== null && p < page)
    const next = pairs.findIndex((p) => p !== null && p > page)
    const after = next < 0 ? slides.length : next
    const without = [...slides.keys()].slice(before + 1, after).filter((slide) => !slides[slide]!.hidden)
    for (const slide of without.length > 0 ? without : [Math.max(0, before)])
      if (offers[slide]!.length < MOST_OFFERED) offers[slide]!.push(page)
  }
  return offers
}
