/** Puts the edges of words where the sound says they are: at the end of a silence, or where it is weakest. */
import { FRAMES_A_SECOND } from './features.ts'
import type { WordSpan } from './search.ts'

/** A sentence's edge this near a silence belongs to it. */
const SILENCE_REACH = 0.4 * FRAMES_A_SECOND
/** Inside speech an edge moves to the weakest frame this near. */
const WEAKEST_REACH = 0.05 * FRAMES_A_SECOND

/** The frame nearest to a moment at which speech begins (or ends), within reach; null when there is none. */
function nearestEdge(active: Uint8Array, at: number, begins: boolean, reach: number): number | null {
  for (let distance = 0; distance <= reach; distance++) {
    for (const n of distance === 0 ? [at] : [at - distance, at + distance]) {
      if (n < 0 || n > active.length) continue
      const before = n > 0 ? active[n - 1] : 0
      const after = n < active.length ? active[n] : 0
      if (begins ? before === 0 && after === 1 : before === 1 && after === 0) return n
    }
  }
  return null
}

function weakest(levels: Float32Array, at: number): number {
  let best = at
  for (let n = Math.max(0, at - WEAKEST_REACH); n <= Math.min(levels.length - 1, at + WEAKEST_REACH); n++)
    // nearer is better where it makes no difference
    if (levels[n]! + 0.4 * Math.abs(n - at) < levels[best]! + 0.4 * Math.abs(best - at)) best = n
  return best
}

/**
 * @param groups words of one saying of a sentence each, in order
 * @returns the same words, in order, not overlapping, none shorter than a frame
 */
export function snapWords(groups: readonly (readonly WordSpan[])[], active: Uint8Array, levels: Float32Array): WordSpan[][] {
  let before = 0
  return groups.map((words, g) => {
    const out = words.map((word) => ({ ...word }))
    const next = groups[g + 1]?.[0]?.start ?? active.length
    for (const [i, word] of out.entries()) {
      const first = i === 0
      const last = i === out.length - 1
      const pauseBefore = first || out[i - 1]!.end < word.start
      const start = nearestEdge(active, word.start, true, first ? SILENCE_REACH : pauseBefore ? 12 : 4)
      word.start = Math.max(before, start ?? (first ? word.start : weakest(levels, word.start)))
      if (!first && out[i - 1]!.end > word.start) out[i - 1]!.end = word.start
      if (!pauseBefore) out[i - 1]!.end = word.start
      const pauseAfter = last || words[i + 1]!.start > word.end
      if (pauseAfter) {
        const end = nearestEdge(active, word.end, false, last ? SILENCE_REACH : 12)
        word.end = Math.min(last ? Math.max(next, word.end) : words[i + 1]!.start, end ?? word.end)
      }
      if (word.end <= word.start) word.end = word.start + 1
      before = word.start + 1
    }
    before = Math.max(before, out.at(-1)?.end ?? before)
    return out
  })
}
