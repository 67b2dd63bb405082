/** How fluently a script was read out: words read correctly a minute, and what was left out, said twice, read otherwise or waited for. */

import type { SampleRange } from '#core/model/sample-range.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import type { ReadWord, WordPath } from './word-path.ts'

/** `listen`: it may have been read otherwise; who wants to know listens. */
export const READING_EVENTS = ['left-out', 'repeated', 'read-otherwise', 'listen', 'pause', 'hesitation'] as const
export type ReadingEventKind = (typeof READING_EVENTS)[number]

export interface ReadingEvent {
  kind: ReadingEventKind
  /** Words of the script, as they stand in it; '' for a pause. */
  text: string
  /** Words of the script that it is about. */
  words: number
  /** Where it is heard, seconds of the take; of what was left out, where it would have been. */
  start: number
  end: number
}

export interface ReadingReport {
  /** Words of the script up to the last one that was read. */
  words: number
  /** Of those, the ones read as they stand there, in time. */
  correct: number
  /** From the first word to the end of the last. */
  seconds: number
  /** Over the first minute; of who reads for less, over what there is. */
  correctPerMinute: number
  /** False where so little of the script was heard that the figures say nothing. */
  isSure: boolean
  events: ReadingEvent[]
}

/** What surely is another word, and what may be one: how unlike the word of the script it is. Chosen with `npm run bench -- reading`. */
export interface ReadingLimits {
  otherwise: number
  listen: number
  /** Of the time that unread words take, so much was filled with something else: they were read otherwise. */
  filled: number
  /** Words that take less time have hardly a sound of their own: nothing is told of how they were read. Seconds. */
  shortest: number
}
export const READING_LIMITS: ReadingLimits = { otherwise: 9, listen: 0.7, filled: 0.8, shortest: 0.1 }
/** Of the words up to the last one, so many must have been heard without a doubt for the rest to be told. */
const HEARD_LEAST = 0.6

/** Common practice in reading lessons, no published source: a minute is looked at, and who waits for over three seconds is given the word. From memory. */
const LOOKED_AT_S = 60
const HESITATION_S = 3
const PAUSE_S = 1
/** Words may lie a little over each other. Seconds. */
const OVER_S = 0.05

const overlap = (a: { start: number; end: number }, b: { start: number; end: number }) =>
  Math.max(0, Math.min(a.end, b.end) - Math.max(a.start, b.start))

/** Of each word of the script, the times it was said. */
function sayings({ script, read }: WordPath): ReadWord[][] {
  const all = script.map((): ReadWord[] => [])
  for (const word of read) all[word.word]!.push(word)
  return all
}

/** What was done with each word of the script. */
export type WordState = 'read' | 'left-out' | 'repeated' | 'read-otherwise' | 'listen'

/** @returns of each word of the script what was done with it; words after the last one that was read are left out */
export function wordStates(path: WordPath, limits: ReadingLimits = READING_LIMITS): WordState[] {
  const said = sayings(path)
  const states = said.map((times, i): WordState => {
    const last = times.at(-1)
    if (!last) return 'left-out'
    if (times.length > 1) return 'repeated'
    if (path.script[i]!.seconds < limits.shortest) return 'read'
    if (last.unlike >= limits.otherwise) return 'read-otherwise'
    return last.unlike >= limits.listen ? 'listen' : 'read'
  })
  for (let i = 0; i < said.length; ) {
    if (said[i]!.length > 0) {
      i++
      continue
    }
    let end = i
    while (end < said.length && said[end]!.length === 0) end++
    const gap = {
      start: (said[i - 1]?.at(-1)?.end ?? 0) - OVER_S,
      end: (said[end]?.[0]?.start ?? Number.POSITIVE_INFINITY) + OVER_S,
    }
    const wanted = path.script.slice(i, end).reduce((sum, word) => sum + word.seconds, 0)
    const filled = path.strange.reduce((sum, piece) => sum + overlap(piece, gap), 0)
    if (filled >= limits.filled * wanted) states.fill('read-otherwise', i, end)
    // nobody can tell whether a single "a" was said
    else if (wanted < limits.shortest) states.fill('listen', i, end)
    i = end
  }
  return states
}

/** Runs of words of which the same is to be told. */
function eventsOfWords(path: WordPath, states: readonly WordState[], upTo: number): ReadingEvent[] {
  const said = sayings(path)
  const events: ReadingEvent[] = []
  for (let i = 0; i < upTo; ) {
    const kind = states[i]!
    let end = i + 1
    while (end < upTo && states[end] === kind) end++
    if (kind !== 'read') {
      const heard = said.slice(i, end).flat()
      const before =
        said
          .slice(0, i)
          .findLast((times) => times.length > 0)
          ?.at(-1)?.end ?? 0
      const after = said.slice(end).find((times) => times.length > 0)?.[0]?.start ?? before
      const start = heard.length > 0 ? Math.min(...heard.map((word) => word.start)) : before
      const until = heard.length > 0 ? Math.max(...heard.map((word) => word.end)) : Math.max(before, after)
      const text = path.script
        .slice(i, end)
        .map((word) => word.text)
        .join(' ')
      events.push({ kind, text, words: end - i, start, end: until })
    }
    i = end
  }
  return events
}

/** Rests between the first word and the last. @param speech samples of the take */
function rests(speech: readonly SampleRange[], from: number, to: number): ReadingEvent[] {
  return speech.slice(1).flatMap((piece, i): ReadingEvent[] => {
    const [start, end] = [toSeconds(speech[i]!.end), toSeconds(piece.start)]
    if (start < from || end > to || end - start < PAUSE_S) return []
    return [{ kind: end - start >= HESITATION_S ? 'hesitation' : 'pause', text: '', words: 0, start, end }]
  })
}

/**
 * @param path which words were read
 * @param speech where the voice is, samples of the take, in order
 * @returns of which nothing is sure where nothing of the script was read
 */
export function readingReport(path: WordPath, speech: readonly SampleRange[]): ReadingReport {
  const { read } = path
  if (read.length === 0) return { words: 0, correct: 0, seconds: 0, correctPerMinute: 0, isSure: false, events: [] }
  const start = read[0]!.start
  const end = Math.max(...read.map((word) => word.end))
  const upTo = Math.max(...read.map(({ word }) => word)) + 1
  const states = wordStates(path)
  const pauses = rests(speech, start, end)
  const events = [...eventsOfWords(path, states, upTo), ...pauses].sort((a, b) => a.start - b.start)
  const said = sayings(path)
  const isCorrect = (i: number) => states[i] === 'read' || states[i] === 'repeated' || states[i] === 'listen'
  const firstMinute = Math.min(end, start + LOOKED_AT_S)
  // a word too short to be missed was said, if it was, with the one after it
  const endOf = (i: number) =>
    said
      .slice(i)
      .find((times) => times.length > 0)
      ?.at(-1)?.end ?? Number.POSITIVE_INFINITY
  const inMinute = said.slice(0, upTo).filter((_, i) => isCorrect(i) && endOf(i) <= firstMinute).length
  const waited = pauses.filter(({ kind, start: from }) => kind === 'hesitation' && from < firstMinute).length
  const correct = said.slice(0, upTo).filter((_, i) => isCorrect(i)).length
  const doubtful = states.slice(0, upTo).filter((state) => state === 'listen').length
  return {
    words: upTo,
    correct,
    seconds: end - start,
    isSure: correct - doubtful >= HEARD_LEAST * upTo,
    correctPerMinute: (60 * Math.max(0, inMinute - waited)) / Math.max(1, firstMinute - start),
    events,
  }
}
