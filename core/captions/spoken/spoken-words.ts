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

/** Words of captions that were typed or heard: where each begins is told by its length alone. */
export function wordsOfCues(cues: readonly CueWords[]): SpokenWord[] {
  return [...cues]
    .sort((a, b) => a.start - b.start)
    .flatMap(({ start, end, text }, utterance) => {
      const words = text.split(/\s+/u).filter(Boolean)
      const letters = words.reduce((sum, word) => sum + word.length, 0)
      let before = 0
      return words.map((word): SpokenWord => {
        const from = start + ((end - start) * before) / letters
        before += word.length
        return { text: word, start: from, end: start + ((end - start) * before) / letters, kind: 'script', utterance }
      })
    })
}
