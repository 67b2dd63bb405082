/** What was said in a take, word by word: what the aligner knows of a script, or what captions tell where there is none. */

import { type Alignment, finalUtterance } from '#core/captions/align/align.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { toSeconds } from '#core/timing/clocks.ts'

/** `repeat`: of a sentence that was said again later; `beginning`: of one that was broken off; `unknown`: nobody knows which words these are. */
export type SpokenKind = 'script' | 'repeat' | 'beginning' | 'unknown'

export interface SpokenWord {
  /** '' where it is not known. */
  text: string
  /** Seconds of the take. */
  start: number
  end: number
  kind: SpokenKind
  /** Which of the times a sentence was said it belongs to, counted through the take; words of one are spoken in one go. */
  utterance: number
}

/** Captions of a take, as far as their words are told. */
interface CueWords {
  start: number
  end: number
  text: string
}

/** Words of an alignment, every utterance of every sentence, in the order in which they are heard. */
export function wordsOfAlignment({ sentences, offScript }: Alignment): SpokenWord[] {
  const utterances = sentences.flatMap((sentence) => {
    const meant = finalUtterance(sentence)
    return sentence.spans.map((span) => ({
      kind: span === meant ? ('script' as const) : span.partial ? ('beginning' as const) : ('repeat' as const),
      start: span.start,
      words: span.words.map(({ w, start, end }) => ({ text: w, start, end })),
    }))
  })
  const strange = offScript.map(({ start, end }) => ({ kind: 'unknown' as const, start, words: [{ text: '', start, end }] }))
  return [...utterances, ...strange]
    .sort((a, b) => a.start - b.start)
    .flatMap(({ kind, words }, utterance) => words.map((word) => ({ ...word, kind, utterance })))
}

/** Shorter pieces of speech are the soft edges of what stands beside them. Seconds. */
const SHORTEST_S = 0.12

/** What is said in a take of which no words are known: stretches of speech, without the sounds in them. @param speech samples */
export function unknownWords(speech: readonly SampleRange[], sounds: readonly { start: number; end: number }[]): SpokenWord[] {
  const pieces = sounds.reduce(
    (all, sound) =>
      all.flatMap(({ start, end }) =>
        [
          { start, end: Math.min(end, sound.start) },
          { start: Math.max(start, sound.end), end },
        ].filter((piece) => piece.end > piece.start),
      ),
    speech.map(({ start, end }) => ({ start: toSeconds(start), end: toSeconds(end) })),
  )
  return pieces
    .filter(({ start, end }) => end - start >= SHORTEST_S)
    .map(({ start, end }, utterance) => ({ text: '', start, end, kind: 'unknown', utterance }))
}

/** Captions and what was heard of them are near each other in time. Seconds. */
const NEAR_S = 0.6

/** A word without what changes it in writing only. */
const bare = (text: string) => text.toLowerCase().replace(/[^\p{L}\p{N}]/gu, '')

/** Which of the words are which of the known ones, in order: the longest list of both. @returns for each word the known one, or null */
function matched<T extends { text: string }>(words: readonly string[], known: readonly T[]): (T | null)[] {
  const best = Array.from({ length: words.length + 1 }, () => new Uint16Array(known.length + 1))
  const same = (i: number, j: number) => bare(words[i]!) !== '' && bare(words[i]!) === bare(known[j]!.text)
  for (let i = words.length - 1; i >= 0; i--)
    for (let j = known.length - 1; j >= 0; j--)
      best[i]![j] = same(i, j) ? best[i + 1]![j + 1]! + 1 : Math.max(best[i + 1]![j]!, best[i]![j + 1]!)
  let j = 0
  return words.map((_, i) => {
    while (j < known.length && !same(i, j) && best[i]![j + 1]! >= best[i]![j]! && best[i]![j]! > best[i + 1]![j]!) j++
    return j < known.length && same(i, j) && best[i]![j] === best[i + 1]![j + 1]! + 1 ? known[j++]! : null
  })
}

/** Words that share a stretch of time by their lengths. */
function shared(words: readonly string[], start: number, end: number): { text: string; start: number; end: number }[] {
  const letters = words.reduce((sum, word) => sum + word.length, 0)
  let before = 0
  return words.map((text) => {
    const from = start + ((end - start) * before) / letters
    before += text.length
    return { text, start: from, end: start + ((end - start) * before) / letters }
  })
}

/**
 * Words of captions: where each begins is told by those that were heard, where it is one of them, and else by its length alone.
 *
 * @param heard words with their times, as a recogniser's draft has them
 */
export function wordsOfCues(
  cues: readonly CueWords[],
  heard: readonly Pick<SpokenWord, 'text' | 'start' | 'end'>[] = [],
): SpokenWord[] {
  return [...cues]
    .sort((a, b) => a.start - b.start)
    .flatMap(({ start, end, text }, utterance) => {
      const words = text.split(/\s+/u).filter(Boolean)
      const near = heard.filter((word) => word.end > start - NEAR_S && word.start < end + NEAR_S)
      const found = matched(words, near)
      const placed: SpokenWord[] = []
      for (let i = 0; i < words.length; ) {
        const own = found[i]
        if (own) {
          placed.push({ text: words[i++]!, start: own.start, end: own.end, kind: 'script', utterance })
          continue
        }
        const next = found.findIndex((word, k) => k > i && word !== null)
        const to = next < 0 ? words.length : next
        const from = placed.at(-1)?.end ?? start
        const until = next < 0 ? end : found[next]!.start
        const between = shared(words.slice(i, to), from, Math.max(until, from))
        placed.push(...between.map((word) => ({ ...word, kind: 'script' as const, utterance })))
        i = to
      }
      return placed
    })
}
