/** A script as sentences and words. */

/**
 * @param script plain text; line breaks inside a paragraph are spaces, empty lines end a sentence
 * @param language BCP 47
 * @returns sentences without surrounding white space, in order
 * @see Unicode Standard Annex 29, sentence boundaries
 */
export function sentences(script: string, language: string): string[] {
  const segmenter = new Intl.Segmenter(language, { granularity: 'sentence' })
  return script
    .split(/\n\s*\n/)
    .flatMap((paragraph) => [...segmenter.segment(paragraph.replace(/\s+/g, ' ').trim())])
    .map((segment) => segment.segment.trim())
    .filter((sentence) => /[\p{L}\p{N}]/u.test(sentence))
}

/** @returns number of words; scripts without spaces are counted by dictionary */
export function countWords(script: string, language: string): number {
  let count = 0
  for (const segment of new Intl.Segmenter(language, { granularity: 'word' }).segment(script)) if (segment.isWordLike) count++
  return count
}
