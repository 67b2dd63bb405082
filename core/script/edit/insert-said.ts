/** Words that were said beside the script, put into it where they were said. */

import { findWords } from './find-words.ts'

/**
 * @param before the sentence that is heard before them; null where they are heard first
 * @param said what was said
 * @returns the script with them; null when the sentence is not in it any more
 */
export function insertSaid(script: string, before: string | null, said: string): string | null {
  const text = said.replace(/\s+/g, ' ').trim()
  if (text === '') return script
  const sentence = /[\p{L}\p{N}]$/u.test(text) ? `${text}.` : text
  if (before === null) return `${sentence} ${script.trimStart()}`
  const found = findWords(script, before)
  return found && `${script.slice(0, found.end)} ${sentence}${script.slice(found.end)}`
}
