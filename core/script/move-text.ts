/** Words of one script taken to another one, as when they are said on another slide. */

const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')

const joined = (first: string, second: string) => [first.trim(), second.trim()].filter((text) => text !== '').join(' ')

/**
 * @param words as they stand in the first script, whatever white space is between them
 * @param at before or after what the other script says
 * @returns both scripts as they are then; null where the words do not stand in the first one, one after the other
 */
export function moveText(from: string, to: string, words: string, at: 'start' | 'end'): { from: string; to: string } | null {
  const parts = words.split(/\s+/u).filter(Boolean)
  if (parts.length === 0) return null
  const found = new RegExp(parts.map(escaped).join('\\s+'), 'u').exec(from)
  if (!found) return null
  const rest = joined(from.slice(0, found.index), from.slice(found.index + found[0].length))
  return { from: rest, to: at === 'start' ? joined(found[0], to) : joined(to, found[0]) }
}
