/** Which words of a script were read out, one by one: where each was said, how well it fits, and what was said beside them. */

import type { Learned } from '#core/captions/align/align.ts'
import { unlikeness } from '#core/captions/align/dtw-distance.ts'
import { FRAMES_A_SECOND } from '#core/captions/align/features.ts'
import type { Reference } from '#core/captions/align/reference.ts'
import { frameCost, type SearchCosts, search } from '#core/captions/align/search.ts'
import type { WordSpan } from '#core/captions/align/traceback.ts'

/** One time a word of the script was said. */
export interface ReadWord {
  /** Counts the words of the script that are said, from 0. */
  word: number
  /** Seconds of the take. */
  start: number
  end: number
  /** How much worse the word fits than the best of all sounds of the script would there: 0: nothing does better; 1: as badly as any other word. */
  unlike: number
}

export interface WordPath {
  /** Words of the script, as they stand in it, by sentence. */
  script: { text: string; sentence: number /** Seconds that the speaker would take. */; seconds: number }[]
  /** In the order in which they were said. */
  read: ReadWord[]
  /** What was said and is none of the words, seconds. */
  strange: { start: number; end: number }[]
}

/** Part of what is kept of an answer: raise it when the same sound would give other words. */
export const READING_VERSION = 1

/** As `search` has them; each word is what a sentence is to captions. Chosen with `npm run bench -- reading`. */
export interface ReadingCosts {
  skip: number
  repeat: number
  garbage: number
  garbageEntry: number
}
export const READING_COSTS: ReadingCosts = { skip: 3, repeat: 7, garbage: 1.1, garbageEntry: 14 }
/** Words that one goes back at most to read something again. */
const REACH = 8
/** What is read again sounds like what was read before; between what `unlikeness` measured of the same words and of others. */
const MOST_UNLIKE = 0.36

/** So many sounds of the script are looked at for which fits best. */
const SOUNDS_TRIED = 800

/** What each frame of the recording costs beside the sound of the script that fits it best; 0 where nobody speaks. */
function nearestCosts({ features, heard, reference }: Learned): Float32Array {
  const step = Math.max(1, Math.floor(reference.frames / SOUNDS_TRIED))
  return Float32Array.from(heard.active, (on, n) => {
    if (!on) return 0
    let least = Number.POSITIVE_INFINITY
    for (let k = 0; k < reference.frames; k += step) least = Math.min(least, frameCost(features, n, reference.features, k))
    return least
  })
}

/** The same words, each by itself. */
const byWords = (reference: Reference): Reference => ({
  ...reference,
  words: reference.words.map((word, i) => ({ ...word, sentence: i })),
  sentences: reference.words.map((_, i) => ({ first: i, end: i + 1 })),
})

/** Words read again, without those that only the path went back for: what was said there does not sound like what was said before. */
function withoutFalseRepeats(words: readonly WordSpan[], { heard }: Learned, mostUnlike: number): WordSpan[] {
  let kept = [...words]
  for (let k = 1; k < kept.length; k++) {
    const [before, now] = [kept[k - 1]!, kept[k]!]
    if (now.word > before.word) continue
    const from = kept.findLastIndex((one, i) => i < k && one.word === now.word)
    if (from < 0) continue
    let same = 0
    while (from + same < k && kept[k + same]?.word === kept[from + same]!.word) same++
    const run = (first: number) => ({ start: kept[first]!.start, end: kept[first + same - 1]!.end })
    const unlike = unlikeness(heard.features, heard.active, run(from), run(k))
    if (unlike === null || unlike <= mostUnlike) continue
    const cost = (first: number) =>
      kept.slice(first, first + same).reduce((sum, one) => sum + one.cost * (one.end - one.start), 0)
    const worse = cost(from) > cost(k) ? from : k
    kept = kept.toSpliced(worse, same)
    k = Math.max(0, worse - 1)
  }
  return kept
}

/** @param learned how the speaker says the script */
export function wordPath(learned: Learned, chosen: ReadingCosts = READING_COSTS, mostUnlike = MOST_UNLIKE): WordPath {
  const { heard, features, reference, fitting, unlike } = learned
  const costs: SearchCosts = {
    silence: 0.3,
    unlike,
    garbage: fitting + chosen.garbage * (unlike - fitting),
    garbageEntry: chosen.garbageEntry,
    skip: chosen.skip,
    repeat: chosen.repeat,
    falseStart: chosen.repeat,
    unrested: 0,
    reach: REACH,
  }
  const path = search(features, heard.active, byWords(reference), costs)
  const nearest = nearestCosts(learned)
  const meanNearest = ({ start, end }: { start: number; end: number }) =>
    nearest.subarray(start, end).reduce((sum, cost) => sum + cost, 0) / Math.max(1, end - start)
  return {
    script: reference.words.map(({ text, sentence, start, end }) => ({
      text,
      sentence,
      seconds: (end - start) / FRAMES_A_SECOND,
    })),
    read: withoutFalseRepeats(path.words, learned, mostUnlike).map((span) => ({
      word: span.word,
      start: span.start / FRAMES_A_SECOND,
      end: span.end / FRAMES_A_SECOND,
      unlike: (span.cost - meanNearest(span)) / Math.max(0.05, unlike - fitting),
    })),
    strange: path.offScript.map(({ start, end }) => ({ start: start / FRAMES_A_SECOND, end: end / FRAMES_A_SECOND })),
  }
}
