/** Recordings with known words: prompts of real voices joined with logged gaps, with the slips that real readings have. */
import { applyBiquad, highPass } from '#core/audio/signal/filters.ts'
import { rms } from '#core/audio/signal/pcm.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { lay, random } from '#tests/made/sound.ts'
import { type PromptLanguage, prompts } from '../speech/prompts.ts'
import { decode, phrase, room } from '../tidy/corpus.ts'

export const KINDS = ['plain', 'skip', 'repeat', 'ad-lib', 'misread', 'breath', 'echo'] as const
export type Kind = (typeof KINDS)[number]

export interface Said {
  /** A sentence of the script; null for words that are not in it. */
  sentence: number | null
  /** Samples. */
  start: number
  end: number
}

export interface Case {
  language: PromptLanguage
  kind: Kind
  samples: Float32Array
  script: string[]
  said: Said[]
  /** Sentences of the script that were not said. */
  skipped: number[]
  /** Sentences that were said twice. */
  repeated: number[]
}

const SENTENCES = 12
const [GAP_LEAST, GAP_MOST] = [0.25, 1.2]

/** Steps of 10 ms: words are where they are no more than so many dB below the loudest one, for so long on end. */
const [WORDS_DB, WORDS_STEPS] = [40, 3]

/** Where words begin and end in a prompt: around them stands up to a fifth of a second of the room it was recorded in, which is no part of a sentence. */
function wordsIn(sound: Float32Array): { start: number; end: number } {
  const step = toSamples(0.01)
  const steady = applyBiquad(sound, highPass(80, 48_000))
  const levels = Array.from({ length: Math.floor(sound.length / step) }, (_, i) => rms(steady, i * step, (i + 1) * step))
  const least = Math.max(...levels) * 10 ** (-WORDS_DB / 20)
  const isLasting = (i: number) => levels.slice(i, i + WORDS_STEPS).every((level) => level > least)
  const lasting = [...levels.keys()].filter((i) => i + WORDS_STEPS <= levels.length && isLasting(i))
  return { start: lasting[0]! * step, end: (lasting.at(-1)! + WORDS_STEPS) * step }
}

/** A breath: noise that swells and falls, as loud as breaths are beside speech. */
function breath(next: () => number): Float32Array {
  const length = toSamples(0.3 + 0.2 * next())
  let low = 0
  return Float32Array.from({ length }, (_, i) => {
    low = 0.75 * low + 0.25 * (2 * next() - 1)
    return 0.02 * low * Math.sin((Math.PI * i) / length)
  })
}

/** A small hard room: a dozen reflections dying away over a third of a second. */
function withEcho(dry: Float32Array, next: () => number): Float32Array {
  const out = dry.slice()
  for (let k = 0; k < 24; k++) {
    const delay = toSamples(0.012 + 0.3 * next())
    const gain = 0.28 * 10 ** ((-40 * (delay / 48_000)) / 0.35 / 20) * (next() < 0.5 ? -1 : 1)
    for (let i = delay; i < out.length; i++) out[i] = out[i]! + gain * dry[i - delay]!
  }
  return out
}

/** @param noise what is laid under it, and its distance from the voice in dB; null leaves it clean */
export function makeCase(
  language: PromptLanguage,
  kind: Kind,
  seed: number,
  noise: { kind: 'white' | 'pink' | 'fan'; snr: number } | null,
): Case {
  const next = random(seed)
  const all = prompts(language, 5)
  const pick = () => all.splice(Math.floor(next() * all.length), 1)[0]!
  const pieces: { sound: Float32Array; at: number }[] = []
  const spoken: typeof pieces = []
  const script: string[] = []
  const said: Said[] = []
  const skipped: number[] = []
  const repeated: number[] = []
  let at = toSamples(0.3 + next())
  const gap = () => {
    at += toSamples(GAP_LEAST + (GAP_MOST - GAP_LEAST) * next())
  }
  const speak = (sound: Float32Array, sentence: number | null) => {
    if (kind === 'breath' && next() < 0.5) {
      const air = breath(next)
      pieces.push({ sound: air, at: Math.max(0, at - air.length - toSamples(0.06)) })
    }
    pieces.push({ sound, at })
    spoken.push({ sound, at })
    const { start, end } = wordsIn(sound)
    said.push({ sentence, start: at + start, end: at + end })
    at += sound.length
    gap()
  }
  // two of the twelve slip, not the first and not two in a row
  const slips =
    kind === 'plain' || kind === 'breath' || kind === 'echo' ? [] : [3 + Math.floor(next() * 3), 7 + Math.floor(next() * 3)]
  for (let s = 0; s < SENTENCES; s++) {
    const prompt = pick()
    const slip = slips.includes(s)
    if (slip && kind === 'ad-lib') speak(phrase(decode(pick().path)), null)
    let { text } = prompt
    if (slip && kind === 'misread') {
      // one word of the script is another than the one that was said
      const words = text.split(' ')
      const other = pick().text.split(' ')
      words[Math.floor(words.length / 2)] = other[Math.floor(other.length / 2)]!.replace(/[.,!?]/g, '')
      text = words.join(' ')
    }
    script.push(text)
    if (slip && kind === 'skip') {
      skipped.push(s)
      continue
    }
    const sound = phrase(decode(prompt.path))
    speak(sound, s)
    if (slip && kind === 'repeat') {
      repeated.push(s)
      speak(sound, s)
    }
  }
  let samples: Float32Array = new Float32Array(at + toSamples(0.4))
  for (const piece of pieces) lay(samples, piece.sound, piece.at)
  if (kind === 'echo') samples = withEcho(samples, next)
  let power = 0
  for (const { sound, at } of spoken) for (let i = at; i < at + sound.length; i++) power += samples[i]! ** 2
  const voice = Math.sqrt(power / spoken.reduce((sum, { sound }) => sum + sound.length, 0))
  const level = voice * 10 ** (-(noise?.snr ?? 55) / 20)
  lay(
    samples,
    room(noise?.kind ?? 'pink', samples.length, seed).map((v) => v * level),
    0,
  )
  return { language, kind, samples, script, said, skipped, repeated }
}
