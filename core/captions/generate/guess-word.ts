/** Guesses the word that is being typed, from words that stand on the slide and elsewhere in the lecture. */

/** Fewer letters tell too little. */
const FEWEST_LETTERS = 2
/** A guess that spares less is in the way: it takes a key itself. */
const LEAST_SPARED = 3

/** How likely each word is, by its spelling in small letters. */
export type Vocabulary = ReadonlyMap<string, { word: string; weight: number }>

/**
 * @param texts from the nearest to the furthest: the slide's own words come before those of others
 * @returns words that are long enough to be guessed
 */
export function vocabularyOf(texts: readonly string[]): Vocabulary {
  const words = new Map<string, { word: string; weight: number }>()
  for (const [i, text] of texts.entries())
    for (const word of text.match(/[\p{L}\p{N}]+(?:['’-][\p{L}\p{N}]+)*/gu) ?? []) {
      if (word.length < FEWEST_LETTERS + LEAST_SPARED) continue
      const known = words.get(word.toLowerCase())
      const weight = (known?.weight ?? 0) + 1 / (1 + i)
      // a word that is written small anywhere is no name
      const isName = (known?.word ?? word) !== word.toLowerCase() && word !== word.toLowerCase()
      words.set(word.toLowerCase(), { word: isName ? word : word.toLowerCase(), weight })
    }
  return words
}

/** @param text what is typed so far @returns what would end its last word; null where nothing is guessed */
export function guessWord(vocabulary: Vocabulary, text: string): string | null {
  const begun = /[\p{L}\p{N}]+(?:['’-][\p{L}\p{N}]*)*$/u.exec(text)?.[0] ?? ''
  if (begun.length < FEWEST_LETTERS) return null
  const small = begun.toLowerCase()
  let best: { word: string; weight: number } | null = null
  for (const [spelling, known] of vocabulary)
    if (spelling.startsWith(small) && spelling.length - small.length >= LEAST_SPARED && known.weight > (best?.weight ?? 0))
      best = known
  return best?.word.slice(begun.length) ?? null
}
