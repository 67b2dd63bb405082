/** What divides texts of a language, kept: making one takes as long as dividing a page. */

const made = new Map<string, Intl.Segmenter>()

/** @param language BCP 47 */
export function segmenter(language: string, granularity: 'grapheme' | 'word' | 'sentence'): Intl.Segmenter {
  const key = `${language} ${granularity}`
  const kept = made.get(key) ?? new Intl.Segmenter(language, { granularity })
  made.set(key, kept)
  return kept
}
