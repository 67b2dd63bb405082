/** A script as sentences and words. */

import { segmenter } from './segmenter.ts'

/**
 * @param script plain text; line breaks inside a paragraph are spaces, empty lines end a sentence
 * @param language BCP 47
 * @returns sentences without surrounding white space, in order
 * @see Unicode Standard Annex 29, sentence boundaries
 */
export function sentences(script: string, language: string): string[] {
  return script
    .split(/\n\s*\n/)
    .flatMap((paragraph) => [...segmenter(language, 'sentence').segment(paragraph.replace(/\s+/g, ' ').trim())])
    .map((segment) => segment.segment.trim())
    .filter((sentence) => /[\p{L}\p{N}]/u.test(sentence))
}

/** Of scripts that were counted already: one is asked for many times between two changes of it. */
const counted = new Map<string, number>()
const MOST_COUNTED = 2000

/** @returns number of words; scripts without spaces are counted by dictionary */
export function countWords(script: string, language: string): number {
  const key = `${language} ${script}`
  const known = counted.get(key)
  if (known !== undefined) return known
  let count = 0
  for (const segment of segmenter(language, 'word').segment(script)) if (segment.isWordLike) count++
  if (counted.size >= MOST_COUNTED) counted.clear()
  counted.set(key, count)
  return count
}
