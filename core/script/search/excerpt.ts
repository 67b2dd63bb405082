/** A piece of a text around what was sought in it. */

import { plainWords } from './plain-words.ts'

/** Letters that are shown before and after what was found. */
const BEFORE = 40
const AFTER = 90

/**
 * @param text of any language
 * @param terms what was sought, a word each
 * @returns about 130 letters around the first place where one of them stands, on one line, with “…” where text is left out; the beginning
 * where none stands in it
 */
export function excerpt(text: string, terms: readonly string[]): string {
  const letters = [...text.replace(/\s+/g, ' ').trim()]
  const plain = plainWords(letters.join(''))
  const places = terms.map((term) => plain.indexOf(plainWords(term))).filter((at) => at >= 0)
  const at = places.length === 0 ? 0 : letterAt(letters, Math.min(...places))
  const from = beginOfWord(letters, Math.max(0, at - BEFORE), at)
  const to = Math.min(letters.length, at + AFTER)
  const end = to === letters.length ? to : endOfWord(letters, to, at)
  return `${from > 0 ? '…' : ''}${letters.slice(from, end).join('').trim()}${end < letters.length ? '…' : ''}`
}

/** @param place in the text made plain @returns the letter that stands there, which may be none in it, or several */
function letterAt(letters: readonly string[], place: number): number {
  let length = 0
  for (const [i, letter] of letters.entries()) {
    length += letter < '\u0080' ? 1 : plainWords(letter).length
    if (length > place) return i
  }
  return 0
}

/** Signs that stand on the letter before. */
const isMark = (letter: string | undefined) => letter !== undefined && /\p{M}/u.test(letter)

/** Where the first whole word after `from` begins; a letter where words are not written apart. */
function beginOfWord(letters: readonly string[], from: number, before: number): number {
  if (from === 0) return 0
  const space = letters.indexOf(' ', from)
  if (space >= 0 && space < before) return space + 1
  let begin = from
  while (begin < before && isMark(letters[begin])) begin++
  return begin
}

/** Where the last whole word before `to` ends; a letter where words are not written apart. */
function endOfWord(letters: readonly string[], to: number, after: number): number {
  const space = letters.lastIndexOf(' ', to)
  if (space > after) return space
  let end = to
  while (isMark(letters[end])) end++
  return end
}
