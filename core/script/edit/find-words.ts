/** Where words stand in a script. */

/**
 * @param words one after the other, whatever white space is between them here or there
 * @returns characters of the script, the end one past the last; null where they do not stand there
 */
export function findWords(script: string, words: string): { start: number; end: number } | null {
  const parts = words.split(/\s+/u).filter(Boolean)
  if (parts.length === 0) return null
  const escaped = parts.map((part) => part.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'))
  const found = new RegExp(escaped.join('\\s+'), 'u').exec(script)
  return found && { start: found.index, end: found.index + found[0].length }
}
