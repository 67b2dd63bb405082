/** Finds words in what is said: over the borders of captions, whatever case and accents they are written with. */
import { plainWords } from '#core/script/search/plain-words.ts'

export interface SaidText {
  text: string
}

/**
 * @param pieces of a text, in order
 * @returns indexes of those that hold a part of what is sought, and how often it stands there; all of them where nothing is sought
 */
export function findInSaid<T extends SaidText>(pieces: readonly T[], sought: string): { found: T[]; count: number } {
  const words = plainWords(sought).trim()
  if (words === '') return { found: [...pieces], count: 0 }
  let whole = ''
  const ends = pieces.map(({ text }) => {
    whole += `${plainWords(text).trim()} `
    return whole.length
  })
  const found = new Set<T>()
  let count = 0
  for (let at = whole.indexOf(words); at >= 0; at = whole.indexOf(words, at + words.length)) {
    count++
    const last = at + words.length - 1
    pieces.forEach((piece, i) => {
      if ((ends[i - 1] ?? 0) <= last && ends[i]! > at) found.add(piece)
    })
  }
  return { found: pieces.filter((piece) => found.has(piece)), count }
}
