/** Puts the edges of words where the sound says they are: at the end of a silence, or where it is weakest. */
import { FRAMES_A_SECOND, percentile } from './features.ts'
import { type Run, runsOf } from './runs.ts'
import type { WordSpan } from './traceback.ts'

/** A sentence's edge this near a silence belongs to it. */
const SILENCE_REACH = 0.4 * FRAMES_A_SECOND
/** Inside speech an edge moves to the weakest frame this near. */
const WEAKEST_REACH = 0.03 * FRAMES_A_SECOND

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
    if (levels[n]! + 0.8 * Math.abs(n - at) < levels[best]! + 0.8 * Math.abs(best - at)) best = n
  return best
}

/** More speech than this between two sentences is not a piece of one of them. Frames. */
const MOST_LOOSE = 1.5 * FRAMES_A_SECOND
/** Before the first and after the last sentence only what is this near belongs to it. */
const LOOSE_REACH = 0.6 * FRAMES_A_SECOND

/** Words are nearly as loud as the loudest; breaths are not. */
const LOOSE_LOUD_DB = 17

/** Speech between two sentences that no path went through: a first word before a short stop, a last one after it. */
function looseRuns(active: Uint8Array, levels: Float32Array, from: number, to: number, strange: readonly Run[]): Run[] {
  const loud = percentile(levels, 0.92) - LOOSE_LOUD_DB
  const isLoud = (run: Run) => {
    let sum = 0
    for (let n = run.start; n < run.end; n++) sum += levels[n]!
    return sum / (run.end - run.start) > loud
  }
  const loose = runsOf((n) => active[n] === 1, from, to).filter(
    (run) => run.end - run.start >= 4 && isLoud(run) && !strange.some((s) => s.start < run.end && s.end > run.start),
  )
  return loose.reduce((sum, run) => sum + run.end - run.start, 0) > MOST_LOOSE ? [] : loose
}

/** No word has a silence this long within it. Frames. */
const LONGEST_STOP = 0.2 * FRAMES_A_SECOND

/** Silences within a word, with speech to both sides of them. */
function stops(active: Uint8Array, { start, end }: Run): Run[] {
  return runsOf((n) => active[n] === 0, start, end).filter(
    (run) => run.end - run.start >= LONGEST_STOP && run.start > start && run.end < end,
  )
}

/** Lets go what a sentence took from what is beside it: a piece that is nearer to that, across a silence longer than any within a word. */
function trimForeignFragments(groups: WordSpan[][], active: Uint8Array, strange: readonly Run[]) {
  for (const [g, words] of groups.entries()) {
    const [first, last] = [words[0]!, words.at(-1)!]
    const [before, after] = [groups[g - 1]?.at(-1), groups[g + 1]?.[0]]
    const ends = [before?.end ?? Number.NEGATIVE_INFINITY, ...strange.map((s) => s.end)].filter((end) => end <= first.start)
    for (const stop of stops(active, first)) if (first.start - Math.max(...ends) < stop.end - stop.start) first.start = stop.end
    const starts = [after?.start ?? Number.POSITIVE_INFINITY, ...strange.map((s) => s.start)].filter((start) => start >= last.end)
    for (const stop of stops(active, last).reverse())
      if (Math.min(...starts) - last.end < stop.end - stop.start && stop.start > last.start) last.end = stop.start
  }
}

/** Gives loose speech to the sentence before or after it: the longest silence between the two is the one that parts them. */
function assignUnclaimedSpeech(groups: WordSpan[][], active: Uint8Array, levels: Float32Array, strange: readonly Run[]) {
  for (let g = 0; g <= groups.length; g++) {
    const before = groups[g - 1]?.at(-1)
    const after = groups[g]?.[0]
    const from = before?.end ?? Math.max(0, (after?.start ?? 0) - LOOSE_REACH)
    const to = after?.start ?? Math.min(active.length, (before?.end ?? 0) + LOOSE_REACH)
    const runs = looseRuns(active, levels, from, to, strange)
    if (runs.length === 0) continue
    const edges = [from, ...runs.flatMap((run) => [run.start, run.end]), to]
    const gaps = Array.from({ length: runs.length + 1 }, (_, i) => edges[2 * i + 1]! - edges[2 * i]!)
    // at the ends of the recording there is no other sentence
    if (!before) gaps[0] = Number.POSITIVE_INFINITY
    if (!after) gaps[gaps.length - 1] = Number.POSITIVE_INFINITY
    const parting = gaps.indexOf(Math.max(...gaps))
    if (before && parting > 0) before.end = runs[parting - 1]!.end
    if (after && parting < runs.length) after.start = runs[parting]!.start
  }
}

/**
 * @param strange stretches of something that is not in the script
 * @param found words of one utterance of a sentence each, in order
 * @returns the same words, in order, not overlapping, none shorter than a frame
 */
export function snapWords(
  found: readonly (readonly WordSpan[])[],
  active: Uint8Array,
  levels: Float32Array,
  strange: readonly Run[],
): WordSpan[][] {
  const groups = found.map((words) => words.map((word) => ({ ...word })))
  trimForeignFragments(groups, active, strange)
  assignUnclaimedSpeech(groups, active, levels, strange)
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
