/** Two people who changed one text, word by word. */
import { diff3Merge } from 'node-diff3'
import { segmenter } from '#core/script/segmenter.ts'

/** Words, and what stands between them; of scripts without spaces the words too. */
const piecesOf = (text: string) => [...segmenter('en', 'word').segment(text)].map(({ segment }) => segment)

/**
 * Puts two changes of a text together (three-way merge: S. Khanna, K. Kunal, B. C. Pierce, “A Formal Investigation of Diff3”, FSTTCS 2007).
 *
 * @param base what both began with
 * @returns a text with both changes; null where both changed the same words, or words side by side: somebody has to say which stays
 */
export function mergeTexts(base: string, mine: string, theirs: string): string | null {
  const blocks = diff3Merge(piecesOf(mine), piecesOf(base), piecesOf(theirs), { excludeFalseConflicts: true })
  let merged = ''
  for (const { ok } of blocks) {
    if (!ok) return null
    merged += ok.join('')
  }
  return merged
}

/**
 * Where a place in a text is in another that was made of it: behind the same words.
 *
 * @param at characters from the beginning of `from`
 * @returns characters from the beginning of `to`
 */
export function placeIn(from: string, to: string, at: number): number {
  let same = 0
  while (same < at && same < to.length && from[same] === to[same]) same++
  if (same === at) return at
  let after = 0
  while (after < from.length - at && after < to.length - same && from.at(-1 - after) === to.at(-1 - after)) after++
  // what stands behind it is the same
  return after === from.length - at ? to.length - after : Math.min(to.length, Math.max(same, at + to.length - from.length))
}
