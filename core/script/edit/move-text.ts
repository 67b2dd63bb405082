/** Words of one script taken to another one, as when they are said on another slide. */

import { findWords } from './find-words.ts'

const joined = (first: string, second: string) => [first.trim(), second.trim()].filter((text) => text !== '').join(' ')

/**
 * @param words as they stand in the first script, whatever white space is between them
 * @param at before or after what the other script says
 * @returns both scripts as they are then; null where the words do not stand in the first one, one after the other
 */
export function moveText(from: string, to: string, words: string, at: 'start' | 'end'): { from: string; to: string } | null {
  const found = findWords(from, words)
  if (!found) return null
  const taken = from.slice(found.start, found.end)
  const rest = joined(from.slice(0, found.start), from.slice(found.end))
  return { from: rest, to: at === 'start' ? joined(taken, to) : joined(to, taken) }
}
