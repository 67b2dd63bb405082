/** Sentences of what a recogniser heard: where it sets no full stops, rests and length tell where one ends. */

import { bareLanguage } from '#core/script/language-tags.ts'
import { segmenter } from '#core/script/segmenter.ts'
import type { HeardWord } from './recogniser.ts'

/**
 * Rests this long end a sentence: chosen on half of the cases of `npm run bench -- drafts`. A fall of the voice before a rest was tried beside
 * it, and told nothing more.
 */
const REST_S = 0.3
/** Longer sentences are divided at their longest rest. */
const MOST_WORDS = 28
/** A rest in the middle is worth so much more than one at either end. */
const OFF_MIDDLE_S = 0.1
/** Of what is divided no part has fewer words. */
const FEWEST_WORDS = 3
/** A recogniser that sets marks sets one in so many words at least. */
const WORDS_A_MARK = 60

const ENDS = /[.!?…。！？؟।።]["”’»)]*$/u
const STOPS: Record<string, string> = { zh: '。', ja: '。', hi: '।', ne: '।', bn: '।', am: '።', th: '', lo: '' }

function divided(words: readonly HeardWord[]): HeardWord[][] {
  if (words.length <= MOST_WORDS) return [[...words]]
  let [at, best] = [0, Number.NEGATIVE_INFINITY]
  for (let i = FEWEST_WORDS; i <= words.length - FEWEST_WORDS; i++) {
    const rest = words[i]!.start - words[i - 1]!.end
    const worth = rest - OFF_MIDDLE_S * Math.abs((2 * i) / words.length - 1)
    if (worth > best) [at, best] = [i, worth]
  }
  return [...divided(words.slice(0, at)), ...divided(words.slice(at))]
}

function byRests(words: readonly HeardWord[]): HeardWord[][] {
  const groups: HeardWord[][] = []
  for (const word of words) {
    const last = groups.at(-1)
    if (!last || word.start - last.at(-1)!.end >= REST_S) groups.push([word])
    else last.push(word)
  }
  return groups.flatMap(divided)
}

function byMarks(words: readonly HeardWord[]): HeardWord[][] {
  const groups: HeardWord[][] = []
  let isOpen = false
  for (const word of words) {
    if (isOpen) groups.at(-1)!.push(word)
    else groups.push([word])
    isOpen = !ENDS.test(word.text)
  }
  return groups
}

/** Words of a line that all begin with a capital are a heading's, and tell nothing. */
const isHeading = (words: readonly string[]) => {
  const long = words.filter((word) => word.length > 3)
  return long.length > 1 && long.every((word) => word !== word.toLowerCase())
}

/** Names and the like, as they are written in texts: capitals that do not come of the beginning of a sentence or a line. */
export function capitalsOf(texts: readonly string[]): Map<string, string> {
  const capitals = new Map<string, string>()
  const small = new Set<string>()
  for (const text of texts)
    for (const line of text.split(/\n|(?<=[.!?:;])\s/u)) {
      const words = line.match(/[\p{L}\p{N}'’-]+/gu) ?? []
      if (isHeading(words)) continue
      for (const [i, word] of words.entries()) {
        if (word === word.toLowerCase()) small.add(word)
        // “Figure 3” is no name
        else if (/^\p{N}/u.test(words[i + 1] ?? '')) small.add(word.toLowerCase())
        else if (i > 0 || /\p{Lu}.*\p{Lu}/u.test(word)) capitals.set(word.toLowerCase(), word)
      }
    }
  for (const word of small) capitals.delete(word)
  return capitals
}

function written(words: readonly HeardWord[], language: string, marked: boolean, capitals: ReadonlyMap<string, string>): string {
  const joined = words
    .map(({ text }) => {
      const [, bare, mark] = /^(.*?)(\p{P}*)$/u.exec(text)!
      const known = capitals.get(bare!) ?? (bareLanguage(language) === 'en' ? bare!.replace(/^i(?=$|['’])/, 'I') : bare!)
      return known + mark
    })
    .join(' ')
  const [first = ''] = [...segmenter(language, 'grapheme').segment(joined)].map(({ segment }) => segment)
  const begun = first.toLocaleUpperCase(language) + joined.slice(first.length)
  const stop = STOPS[bareLanguage(language)] ?? '.'
  return marked || ENDS.test(begun) ? begun : begun + stop
}

export interface HeardSentence {
  text: string
  words: HeardWord[]
}

/**
 * @param words in order, seconds
 * @param language BCP 47
 * @param capitals words that are written with capitals, as `capitalsOf` finds them
 * @returns sentences with a capital and a full stop, none without a letter or digit
 */
export function heardSentences(
  words: readonly HeardWord[],
  language: string,
  capitals: ReadonlyMap<string, string>,
): HeardSentence[] {
  const said = words.filter(({ text }) => /[\p{L}\p{N}]/u.test(text))
  const marks = said.filter(({ text }) => ENDS.test(text)).length
  const isMarked = marks > 0 && said.length <= WORDS_A_MARK * marks
  return (isMarked ? byMarks(said) : byRests(said)).map((group) => ({
    text: written(group, language, isMarked, capitals),
    words: group,
  }))
}
