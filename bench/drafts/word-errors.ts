/** Word error rate: the least number of words put in, left out and changed, in parts of the words that were said. */

const DIGITS = ['zero', 'one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight', 'nine']
/** As they are said in the prompts. */
const SIGNS: Record<string, string> = { '#': 'pound', '*': 'star' }

/** Words in small letters without punctuation; digits and signs as words. */
export const spokenWords = (text: string): string[] =>
  text
    .toLowerCase()
    .replace(/\d/g, (digit) => ` ${DIGITS[Number(digit)]} `)
    .replace(/[#*]/g, (sign) => ` ${SIGNS[sign]} `)
    .match(/[\p{L}][\p{L}'’]*/gu) ?? []

/** @returns edits between two lists of words (Levenshtein 1966) */
export function wordErrors(said: readonly string[], heard: readonly string[]): number {
  let row = Array.from({ length: heard.length + 1 }, (_, j) => j)
  for (const [i, word] of said.entries()) {
    const next = [i + 1]
    for (const [j, other] of heard.entries())
      next.push(Math.min(row[j + 1]! + 1, next[j]! + 1, row[j]! + (word === other ? 0 : 1)))
    row = next
  }
  return row.at(-1)!
}
