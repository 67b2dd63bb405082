/** What the script should sound like: each sentence spoken by a synthesiser, as frames that know which word they belong to. */
import { activeFrames, BANDS, cepstra, DIMENSIONS, FRAMES_A_SECOND, frameLevels, melSpectrum, saidFrames } from './features.ts'

/** Speaks a sentence. It comes from outside: a library with voices in it. */
export interface Synthesiser {
  /**
   * @param text one sentence
   * @returns mono samples, full scale ±1, and where words begin: seconds, and which character of the text (counted in code points)
   */
  speak(text: string): { samples: Float32Array; rate: number; words: { seconds: number; character: number }[] }
}

export interface ReferenceWord {
  sentence: number
  /** Counted from 0 within the sentence: its space-separated words. */
  index: number
  text: string
  /** Frames of the reference. */
  start: number
  end: number
}

export interface Reference {
  words: ReferenceWord[]
  frames: number
  /** `DIMENSIONS` values a frame. */
  features: Float32Array
  /** First and one past the last word of each sentence. */
  sentences: { first: number; end: number }[]
}

/** Features lie within ±4; as 16-bit numbers they are sent in so many steps a unit. */
export const REFERENCE_STEPS = 8000

/** A word takes at least so many frames, however short the synthesiser made it. */
const SHORTEST_WORD = 4
/** Inside a sentence the synthesiser's own pauses are left out: where the speaker pauses is not known. */
const QUIET_DB = 34

/** Words of a sentence with the code point each begins at. `index` counts all of its space-separated words; those without a letter or digit are not said. */
export function wordsOf(sentence: string): { text: string; index: number; character: number }[] {
  const words: { text: string; index: number; character: number }[] = []
  let character = 0
  let index = 0
  for (const part of sentence.split(/(\s+)/)) {
    if (/[\p{L}\p{N}]/u.test(part)) words.push({ text: part, index, character })
    if (part.trim() !== '') index++
    character += [...part].length
  }
  return words
}

/** When each word begins, seconds; words without an event of their own share the time between those that have one. */
function wordStarts(
  words: readonly { text: string; character: number }[],
  events: readonly { seconds: number; character: number }[],
  end: number,
): number[] {
  const starts: (number | null)[] = words.map((word, i) => {
    const next = words[i + 1]?.character ?? Number.POSITIVE_INFINITY
    return events.find((event) => event.character >= word.character && event.character < next)?.seconds ?? null
  })
  if (starts[0] === null) starts[0] = 0
  for (let i = 1; i < starts.length; i++) {
    if (starts[i] !== null) continue
    let next = i
    while (next < starts.length && starts[next] === null) next++
    const from = starts[i - 1]!
    const to = starts[next] ?? end
    const letters = words.slice(i - 1, next).map((w) => w.text.length)
    const all = letters.reduce((a, b) => a + b, 0)
    let before = 0
    for (let k = i; k < next; k++) {
      before += letters[k - i]!
      starts[k] = from + ((to - from) * before) / all
    }
  }
  return starts as number[]
}

/**
 * Speaks all sentences and takes their features.
 *
 * @param sentences without empty ones
 * @param seconds about how long the recording speaks: the reference is stretched to it; null leaves its own rate
 * @throws Error of the synthesiser when it cannot speak the language
 */
export function makeReference(sentences: readonly string[], synthesiser: Synthesiser): Reference {
  const words: ReferenceWord[] = []
  const bounds: Reference['sentences'] = []
  const pieces: Float32Array[] = []
  let frames = 0
  for (const [s, sentence] of sentences.entries()) {
    const parts = wordsOf(sentence)
    const spoken = synthesiser.speak(sentence)
    const mel = melSpectrum(spoken.samples, spoken.rate)
    const levels = frameLevels(mel)
    const loudest = levels.reduce((a, b) => Math.max(a, b), -200)
    const starts = wordStarts(parts, spoken.words, mel.frames / FRAMES_A_SECOND)
    const first = words.length
    for (const [i, part] of parts.entries()) {
      const from = Math.round(starts[i]! * FRAMES_A_SECOND)
      const to = i + 1 < parts.length ? Math.round(starts[i + 1]! * FRAMES_A_SECOND) : mel.frames
      const kept: number[] = []
      for (let n = Math.max(0, from); n < Math.min(mel.frames, to); n++) if (levels[n]! > loudest - QUIET_DB) kept.push(n)
      while (kept.length < SHORTEST_WORD) kept.push(kept.at(-1) ?? Math.min(mel.frames - 1, Math.max(0, from)))
      const piece = new Float32Array(kept.length * BANDS)
      for (const [k, n] of kept.entries()) piece.set(mel.power.subarray(n * BANDS, (n + 1) * BANDS), k * BANDS)
      pieces.push(piece)
      words.push({ sentence: s, index: part.index, text: part.text, start: frames, end: frames + kept.length })
      frames += kept.length
    }
    bounds.push({ first, end: words.length })
  }
  const power = new Float32Array(frames * BANDS)
  let at = 0
  for (const piece of pieces) {
    power.set(piece, at)
    at += piece.length
  }
  const mel = { frames, power }
  const on = activeFrames(frameLevels(mel), saidFrames(null, mel.frames))
  return { words, frames, features: cepstra(mel, on), sentences: bounds }
}

/** The reference spoken slower or faster: its frames repeated or left out evenly. @param factor 2 makes it twice as long */
export function stretchReference(reference: Reference, factor: number): Reference {
  if (Math.abs(factor - 1) < 0.04) return reference
  const words: ReferenceWord[] = []
  const sources: number[] = []
  for (const word of reference.words) {
    const length = Math.max(SHORTEST_WORD, Math.round((word.end - word.start) * factor))
    const start = sources.length
    for (let k = 0; k < length; k++) sources.push(word.start + ((k + 0.5) * (word.end - word.start)) / length - 0.5)
    words.push({ ...word, start, end: sources.length })
  }
  const features = new Float32Array(sources.length * DIMENSIONS)
  for (const [k, source] of sources.entries()) {
    const low = Math.max(0, Math.floor(source))
    const high = Math.min(reference.frames - 1, low + 1)
    const part = Math.max(0, source - low)
    for (let d = 0; d < DIMENSIONS; d++)
      features[k * DIMENSIONS + d] =
        reference.features[low * DIMENSIONS + d]! * (1 - part) + reference.features[high * DIMENSIONS + d]! * part
  }
  return { words, frames: sources.length, features, sentences: reference.sentences }
}
