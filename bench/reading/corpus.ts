/** Readings with known errors: prompts of real voices one after the other, with words that their script has and nobody says, others than it has, and words said twice. */
import { usualCleaning } from '#core/audio/render/render.ts'
import { align } from '#core/captions/align/align.ts'
import { extractFeatures } from '#core/captions/align/extract-features.ts'
import type { Synthesiser } from '#core/captions/align/reference.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { lay, random } from '#tests/made/sound.ts'
import { type Prompt, type PromptLanguage, prompts } from '../speech/prompts.ts'
import { decode, phrase, room } from '../tidy/corpus.ts'

export type ReadingError = 'left-out' | 'repeated' | 'read-otherwise'
const ERRORS: readonly ReadingError[] = ['left-out', 'repeated', 'read-otherwise']

export interface Reading {
  language: PromptLanguage
  samples: Float32Array
  /** Its sentences. */
  script: string[]
  /** Of each word of the script, in order, what was done with it; null: it was read. */
  truth: (ReadingError | null)[]
}

const SENTENCES = 10
const FEWEST_WORDS = 6
/** Three of four sentences have an error, one each, so that what is found near one is not the next. */
const ERROR_SHARE = 0.75
/** Words that are swapped or put in have so many letters at least: the shortest ones have hardly a sound of their own. */
const FEWEST_LETTERS = 3
/** Who says words again rests before. Seconds. */
const REST = { least: 0.05, most: 0.4 }
/** Nobody says them just so again: they are so much slower or faster, higher or lower with it, and so much louder or softer (dB). */
const OTHERWISE = { pace: 0.06, gain: 2.5 }

/** The same words said a little otherwise: resampled, and louder or softer. */
function saidOtherwise(sound: Float32Array, next: () => number): Float32Array {
  const pace = 1 + OTHERWISE.pace * (2 * next() - 1)
  const gain = 10 ** ((OTHERWISE.gain * (2 * next() - 1)) / 20)
  return Float32Array.from({ length: Math.floor((sound.length - 1) / pace) }, (_, i) => {
    const at = i * pace
    const low = Math.floor(at)
    return gain * (sound[low]! + (at - low) * (sound[low + 1]! - sound[low]!))
  })
}

const lettersOf = (word: string) => word.replace(/[^\p{L}\p{N}]/gu, '').toLowerCase()
const isWord = (word: string) => lettersOf(word) !== ''

/** Words that may stand for another: none that begins or ends as it does. */
function otherWord(word: string, pool: readonly string[], next: () => number): string {
  const own = lettersOf(word)
  for (;;) {
    const other = lettersOf(pool[Math.floor(next() * pool.length)]!)
    const isNear = other.slice(0, 2) === own.slice(0, 2) || other.slice(-2) === own.slice(-2)
    if (other.length >= FEWEST_LETTERS && !isNear) return other
  }
}

interface Spoken {
  sound: Float32Array
  words: string[]
  truth: (ReadingError | null)[]
}

/** Where words of a prompt begin and end, by the aligner on the prompt alone, without noise. */
function timesIn(sound: Float32Array, text: string, synthesiser: Synthesiser) {
  const [found] = align(extractFeatures(sound, usualCleaning(), null), [text], synthesiser).sentences
  return found?.spans.at(-1)?.words ?? []
}

/** The words from one to another said twice. @returns null where the prompt's words are not known */
function saidTwice(sound: Float32Array, prompt: Prompt, synthesiser: Synthesiser, next: () => number): Spoken | null {
  const words = prompt.text.split(' ')
  const times = timesIn(sound, prompt.text, synthesiser)
  if (times.length !== words.filter(isWord).length) return null
  const count = 1 + Math.floor(next() * 3)
  const first = 1 + Math.floor(next() * Math.max(1, times.length - count - 1))
  const [from, to] = [times[first], times[first + count - 1]]
  if (!from || !to || to.end - from.start < 0.15) return null
  const [start, end] = [toSamples(from.start), toSamples(to.end)]
  const rest = new Float32Array(toSamples(REST.least + (REST.most - REST.least) * next()))
  const before = [sound.subarray(0, start), saidOtherwise(sound.subarray(start, end), next)]
  const parts = [...before, rest, sound.subarray(start)]
  const joined = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0))
  let at = 0
  for (const part of parts) {
    joined.set(part, at)
    at += part.length
  }
  const truth = times.map((_, i): ReadingError | null => (i >= first && i < first + count ? 'repeated' : null))
  return { sound: joined, words, truth }
}

function withError(kind: ReadingError, prompt: Prompt, pool: readonly string[], synthesiser: Synthesiser, next: () => number) {
  const sound = phrase(decode(prompt.path))
  const words = prompt.text.split(' ')
  const plain: Spoken = { sound, words, truth: words.filter(isWord).map(() => null) }
  if (kind === 'repeated') return saidTwice(sound, prompt, synthesiser, next) ?? plain
  const long = [...words.keys()].filter((i) => lettersOf(words[i]!).length >= FEWEST_LETTERS && i > 0 && i < words.length - 1)
  if (words.some((word) => !isWord(word)) || long.length === 0) return plain
  const at = long[Math.floor(next() * long.length)]!
  const other = otherWord(words[at]!, pool, next)
  const script = kind === 'left-out' ? words.toSpliced(at, 0, other) : words.toSpliced(at, 1, other)
  return { sound, words: script, truth: script.map((_, i): ReadingError | null => (i === at ? kind : null)) }
}

/** @param snr distance of the noise from the voice, dB */
export function makeReading(language: PromptLanguage, seed: number, synthesiser: Synthesiser, snr: number): Reading {
  const next = random(seed)
  const all = prompts(language, FEWEST_WORDS)
  const pool = all.flatMap(({ text }) => text.split(' ')).filter(isWord)
  const pieces: { sound: Float32Array; at: number }[] = []
  const script: string[] = []
  const truth: Reading['truth'] = []
  let at = toSamples(0.3 + next())
  for (let s = 0; s < SENTENCES; s++) {
    const prompt = all.splice(Math.floor(next() * all.length), 1)[0]!
    const kind = next() < ERROR_SHARE ? ERRORS[Math.floor(next() * ERRORS.length)]! : null
    const said: Spoken = kind
      ? withError(kind, prompt, pool, synthesiser, next)
      : {
          sound: phrase(decode(prompt.path)),
          words: prompt.text.split(' '),
          truth: prompt.text
            .split(' ')
            .filter(isWord)
            .map(() => null),
        }
    pieces.push({ sound: said.sound, at })
    at += said.sound.length + toSamples(0.15 + 0.6 * next())
    script.push(said.words.join(' '))
    truth.push(...said.truth)
  }
  const samples = new Float32Array(at + toSamples(0.4))
  for (const piece of pieces) lay(samples, piece.sound, piece.at)
  let power = 0
  for (const { sound, at: from } of pieces) for (let i = from; i < from + sound.length; i++) power += samples[i]! ** 2
  const voice = Math.sqrt(power / pieces.reduce((sum, { sound }) => sum + sound.length, 0))
  const kinds = ['white', 'pink', 'fan'] as const
  const level = voice * 10 ** (-snr / 20)
  lay(
    samples,
    room(kinds[Math.floor(next() * kinds.length)]!, samples.length, seed).map((v) => v * level),
    0,
  )
  return { language, samples, script, truth }
}
