/** A piece of a text around what was sought in it. */

import { segmenter } from '#core/script/segmenter.ts'
import { plainWords } from './plain-words.ts'

/** Letters that are shown before and after what was found. */
const BEFORE = 40
const AFTER = 90

/**
 * @param text of any language
 * @param terms what was sought, a word each
 * @returns at most 130 letters around the first place where one of them stands, on one line, with “…” where text is left out;
 * the beginning where none stands in it
 */
export function excerpt(text: string, terms: readonly string[]): string {
  const line = text.replace(/\s+/g, ' ').trim()
  const letters = [...segmenter('en', 'grapheme').segment(line)].map(({ segment }) => segment)
  // a letter may become none or several when it is made plain: where each begins is counted
  const starts: number[] = []
  let plain = ''
  for (const letter of letters) {
    starts.push(plain.length)
    plain += plainWords(letter)
  }
  const places = terms.map((term) => plain.indexOf(plainWords(term))).filter((at) => at >= 0)
  const at =
    places.length === 0
      ? 0
      : Math.max(
          0,
          starts.findLastIndex((start) => start <= Math.min(...places)),
        )
  const from = beginOfWord(letters, Math.max(0, at - BEFORE), at)
  const to = Math.min(letters.length, at + AFTER)
  const end = to === letters.length ? to : endOfWord(letters, to, at)
  return `${from > 0 ? '…' : ''}${letters.slice(from, end).join('').trim()}${end < letters.length ? '…' : ''}`
}

/** Where the first whole word after `from` begins; `from` where words are not written apart. */
function beginOfWord(letters: readonly string[], from: number, before: number): number {
  if (from === 0) return 0
  const space = letters.indexOf(' ', from)
  return space >= 0 && space < before ? space + 1 : from
}

/** Where the last whole word before `to` ends; `to` where words are not written apart. */
function endOfWord(letters: readonly string[], to: number, after: number): number {
  const space = letters.lastIndexOf(' ', to)
  return space > after ? space : to
}
