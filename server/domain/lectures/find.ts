/** Finding lectures by the words of their titles and scripts. */

import type { Lecture } from '#core/model/lecture.ts'
import { excerpt } from '#core/script/search/excerpt.ts'
import { plainWords } from '#core/script/search/plain-words.ts'
import { holdsWords } from './word-index.ts'

/** Slides that are shown of one lecture. */
const MOST_FOUND = 3

/** @returns the words that are sought, one each; what cannot be typed is left out */
export const termsOf = (words: string): string[] =>
  words
    .replace(/\p{C}/gu, ' ')
    .split(/\s+/u)
    // an accent alone is nothing
    .filter((term) => plainWords(term) !== '')

/** @returns whether a title holds each of the words */
export function titlesHold(terms: readonly string[]): (title: string) => boolean {
  const sought = terms.map(plainWords)
  return (title) => {
    const plain = plainWords(title)
    return sought.every((term) => plain.includes(term))
  }
}

export interface FoundSlide {
  slideId: string
  title: string
  /** Of its script, around the words. */
  excerpt: string
}

/** @returns the first slides of a lecture that hold all the words; none where none are sought */
export function slidesWithWords({ slides }: Lecture, terms: readonly string[]): FoundSlide[] {
  if (terms.length === 0) return []
  const holding: FoundSlide[] = []
  for (const slide of slides) {
    if (holding.length === MOST_FOUND) break
    const { id: slideId, title, script } = slide
    if (holdsWords(slide, terms)) holding.push({ slideId, title, excerpt: excerpt(script, terms) })
  }
  return holding
}
