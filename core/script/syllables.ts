/** How long words take to say, before anybody has said them. */
import { sentences } from './sentences.ts'

/** Every sentence has an onset and a fall of its own, beside its syllables. */
const SENTENCE_EXTRA = 1.2

/**
 * How much there is to say, for sharing time out; only the ratio of two weights means something.
 *
 * @param language BCP 47
 * @returns vowel groups, plus 1.2 for each sentence; for scripts without vowel letters, the number of their letters
 * @see common practice, no published source: vowel groups stand for syllables
 */
export function speakingWeight(script: string, language: string): number {
  return sentences(script, language).reduce((sum, sentence) => sum + syllables(sentence) + SENTENCE_EXTRA, 0)
}

const VOWELS = /[aeiouyæœøαεηιουωаеёиоуыэюяіїєاويىआइउएओािीुूेैोौ]+/g
const DIGITS: Record<string, number> = { '0': 2, '7': 2 }

/** @returns vowel groups, each digit counted as the word it is read as */
export function syllables(text: string): number {
  const plain = text
    .toLowerCase()
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
  const digits = [...plain.matchAll(/\d/g)].reduce((sum, [digit]) => sum + (DIGITS[digit] ?? 1), 0)
  const vowels = plain.match(VOWELS)?.length ?? 0
  if (vowels > 0) return vowels + digits
  return (plain.match(/\p{L}/gu)?.length ?? 0) + digits
}
