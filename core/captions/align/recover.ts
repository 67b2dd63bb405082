/** Sayings that no path went through, found among what is strange: by their sound, or by standing where a sentence belongs. */
import { unlikeness, unlikenessOfBeginning } from './dtw-distance.ts'
import { FRAMES_A_SECOND } from './features.ts'
import type { Reference } from './reference.ts'
import type { Run } from './runs.ts'
import type { WordSpan } from './traceback.ts'
import type { Utterance } from './utterances.ts'

/** A sentence is said again about as fast. */
const LIKE_LENGTH = 1.25
/** A sentence that fits nowhere may be said so many times slower or faster than the others. */
const ODD_LENGTH = 1.6
/** Said again: nearer to each other than almost any other words are (see `unlikeness`). */
const SAID_AGAIN = 0.36
/** Who begins anew does not wait for longer. Frames. */
const LONGEST_REST = 3 * FRAMES_A_SECOND

export interface Recording {
  features: Float32Array
  active: Uint8Array
}

const lengthOf = ({ start, end }: Run) => end - start
const within = (factor: number, a: number, b: number) => a < b * factor && b < a * factor

/** From the first frame to the last in which somebody speaks. */
function spokenPart({ start, end }: Run, active: Uint8Array): Run {
  let [from, to] = [start, end]
  while (from < to && !active[from]) from++
  while (to > from && !active[to - 1]) to--
  return { start: from, end: to }
}

/** Words of a sentence laid into a run, each as long as its part of the whole. @param words with the frames they have elsewhere */
function laidInto(run: Run, words: readonly { word: number; start: number; end: number }[]): WordSpan[] {
  const [from, to] = [words[0]!.start, words.at(-1)!.end]
  const place = (frame: number) => Math.round(run.start + ((frame - from) / (to - from)) * lengthOf(run))
  return words.map(({ word, start, end }) => {
    const begin = place(start)
    return { word, start: begin, end: Math.max(begin + 1, place(end)), cost: 0 }
  })
}

/** The utterance beside a strange stretch that it repeats. */
function repeatedBy(run: Run, spans: readonly Utterance[], { features, active }: Recording): Utterance | undefined {
  const before = spans.findLast(({ words }) => words.at(-1)!.end <= run.start)
  const after = spans.find(({ words }) => words[0]!.start >= run.end)
  return [before, after].find((utterance) => {
    if (!utterance) return false
    const own = { start: utterance.words[0]!.start, end: utterance.words.at(-1)!.end }
    if (!within(LIKE_LENGTH, lengthOf(own), lengthOf(run))) return false
    return (unlikeness(features, active, own, run) ?? 1) <= SAID_AGAIN
  })
}

/** The words of the utterance after a strange stretch that this is the beginning of: it was broken off and begun anew. */
function begunBy(run: Run, spans: readonly Utterance[], { features, active }: Recording): Utterance | undefined {
  const next = spans.find(({ words }) => words[0]!.start >= run.end)
  if (!next || spans.some(({ words }) => words[0]!.start >= run.start && words.at(-1)!.end < next.words[0]!.start)) return
  const whole = { start: next.words[0]!.start, end: next.words.at(-1)!.end }
  if (whole.start - run.end > LONGEST_REST) return
  const found = unlikenessOfBeginning(features, active, run, whole)
  if (!found || found.unlike > SAID_AGAIN) return
  // the last word may have been broken off, too
  const words = next.words.filter(({ start }) => start < found.end)
  return words.length < next.words.length ? { ...next, words: laidInto(run, words) } : undefined
}

/** The sentence that belongs where a strange stretch is, and was found nowhere. @param rate how much slower than the reference the others were said */
function missingAt(run: Run, spans: readonly Utterance[], reference: Reference, rate: number): number | null {
  const before = spans.findLast(({ words }) => words[0]!.start < run.start)?.sentence ?? -1
  const after = spans.find(({ words }) => words[0]!.start >= run.start)?.sentence ?? reference.sentences.length
  // two that are missing beside each other may be both left out, and something else said
  if (after !== before + 2) return null
  const { first, end } = reference.sentences[before + 1]!
  if (end === first) return null
  const expected = (reference.words[end - 1]!.end - reference.words[first]!.start) * rate
  return within(ODD_LENGTH, expected, lengthOf(run)) ? before + 1 : null
}

/**
 * @param spans utterances in order
 * @param strange what is none of them
 * @param rate how much slower than the reference the speaker is
 * @returns both, after what was strange and is an utterance has changed sides; one that only stands in its place has no confidence
 */
export function recoverSayings(
  spans: readonly Utterance[],
  strange: readonly Run[],
  reference: Reference,
  heard: Recording,
  rate: number,
): { spans: Utterance[]; strange: Run[] } {
  const all = [...spans]
  const left = strange.filter((stretch) => {
    const run = spokenPart(stretch, heard.active)
    const add = (utterance: Utterance) => {
      all.push(utterance)
      all.sort((a, b) => a.words[0]!.start - b.words[0]!.start)
    }
    const twin = repeatedBy(run, all, heard)
    if (twin) {
      add({ ...twin, words: laidInto(run, twin.words) })
      return false
    }
    const begun = begunBy(run, all, heard)
    if (begun) {
      add(begun)
      return false
    }
    const sentence = missingAt(run, all, reference, rate)
    if (sentence === null) return true
    const { first, end } = reference.sentences[sentence]!
    const words = Array.from({ length: end - first }, (_, i) => ({ ...reference.words[first + i]!, word: first + i }))
    add({ sentence, words: laidInto(run, words), confidence: 0 })
    return false
  })
  return { spans: all, strange: left }
}
