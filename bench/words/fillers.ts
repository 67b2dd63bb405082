/**
 * Recordings with filled pauses at known places: real voices whose own vowels are held between their sentences, and synthetic voices
 * that say "um", "er", "euh" and "eh".
 */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Resampler } from '#core/audio/signal/resample.ts'
import { toSixteen } from '#core/captions/align/extract-features.ts'
import { pitchAt } from '#core/captions/spoken/pitch.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { random } from '#tests/made/sound.ts'
import type { PromptLanguage } from '../speech/prompts.ts'
import { decode, phrase } from '../tidy/corpus.ts'
import { type LaidPiece, overRoom, promptsOfHalf } from './layout.ts'

export interface Filled {
  name: string
  samples: Float32Array
  /** Samples. */
  fillers: { start: number; end: number }[]
  /** Words that were said beside them. */
  words: number
  script: string[]
  language: PromptLanguage
}

const SAID: Record<PromptLanguage, string[]> = {
  en: ['um', 'er', 'uh', 'uhm'],
  fr: ['euh', 'heu', 'eum'],
  es: ['eh', 'em', 'mm'],
}

/** The steadiest vowel of a voice: of its own sound, a few periods that sound alike. */
function vowelOf(sound: Float32Array, next: () => number): { from: number; period: number } | null {
  const found: { from: number; period: number; stray: number }[] = []
  const step = toSamples(0.01)
  const sixteen = toSixteen(sound)
  const pitches = Array.from({ length: Math.floor(sound.length / step) }, (_, n) => pitchAt(sixteen, (n * step) / 3, 16_000))
  for (let n = 10; n + 20 < pitches.length; n++) {
    const at = n * step
    const tones = pitches.slice(n, n + 6)
    if (tones.some((t) => t === null)) continue
    const least = Math.min(...(tones as number[]))
    const most = Math.max(...(tones as number[]))
    let level = 0
    for (let i = at; i < at + 5 * step; i++) level += sound[i]! ** 2
    if (level / (5 * step) < 1e-3) continue
    found.push({ from: at, period: Math.round(48_000 / tones[2]!), stray: most / least })
  }
  if (found.length === 0) return null
  found.sort((a, b) => a.stray - b.stray)
  const one = found[Math.floor(next() * Math.min(5, found.length))]!
  return one.stray < 1.06 ? one : null
}

/** A vowel held: periods of it, taken from here and there within 50 ms, laid one after the other with a pitch that drifts. */
function held(sound: Float32Array, { from, period }: { from: number; period: number }, seconds: number, next: () => number) {
  const length = toSamples(seconds)
  const out = new Float32Array(length + 4 * period)
  const drift = -0.06 * next()
  let at = 0
  while (at < length) {
    const source = from + Math.floor(next() * 3) * period
    for (let i = 0; i < 2 * period; i++) {
      const shape = 0.5 - 0.5 * Math.cos((Math.PI * (i + 0.5)) / period)
      out[at + i] = out[at + i]! + sound[source + i]! * shape
    }
    at += Math.round(period * (1 - drift * (at / length) + 0.01 * (next() - 0.5)))
  }
  const [rise, fall] = [toSamples(0.04), toSamples(0.08)]
  const gain = 0.5 + 0.4 * next()
  return out.subarray(0, length).map((v, i) => v * gain * Math.min(1, i / rise, (length - i) / fall))
}

const SENTENCES = 10

/** Between the sentences of a real voice, and in the rests inside them: its own vowels held. @param share of gaps that are filled */
export function realVoice(language: PromptLanguage, seed: number, share: number, snr = 55): Filled {
  const next = random(seed)
  const all = promptsOfHalf(language, seed)
  const pieces: LaidPiece[] = []
  const fillers: { start: number; end: number }[] = []
  const script: string[] = []
  let at = toSamples(0.5)
  let words = 0
  for (let s = 0; s < SENTENCES; s++) {
    const prompt = all.splice(Math.floor(next() * all.length), 1)[0]!
    const sound = phrase(decode(prompt.path))
    script.push(prompt.text)
    words += prompt.text.split(' ').length
    pieces.push({ sound, at })
    at += sound.length
    const vowel = next() < share ? vowelOf(sound, next) : null
    if (vowel) {
      at += toSamples(0.06 + 0.5 * next())
      const filler = held(sound, vowel, 0.22 + 0.4 * next(), next)
      pieces.push({ sound: filler, at })
      fillers.push({ start: at, end: at + filler.length })
      at += filler.length + toSamples(0.06 + 0.5 * next())
    } else at += toSamples(0.3 + 0.9 * next())
  }
  const samples = overRoom(pieces, at + toSamples(0.5), seed, snr)
  return { name: `${language} real ${seed}`, samples, fillers, words, script, language }
}

const bySynthesiser = new Map<PromptLanguage, Awaited<ReturnType<typeof openSynthesiser>>>()

/** @returns mono, 48 kHz, without the silence around it */
async function espeak(language: PromptLanguage, text: string): Promise<Float32Array> {
  if (!bySynthesiser.has(language)) bySynthesiser.set(language, await openSynthesiser(language))
  const { samples, rate } = bySynthesiser.get(language)!.speak(text)
  return phrase(new Resampler(rate, 48_000).push(samples))
}

function flite(text: string, voice: string, stretch: number): Float32Array {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-flite-'))
  const path = join(folder, 'said.wav')
  try {
    execFileSync('flite', ['-voice', voice, '--setf', `duration_stretch=${stretch}`, '-t', text, '-o', path])
    return phrase(decode(path))
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

/** A synthetic voice that says its fillers as words, slowly. @param voice of flite; null for the aligner's own synthesiser */
export async function syntheticVoice(
  language: PromptLanguage,
  voice: string | null,
  seed: number,
  share: number,
): Promise<Filled> {
  const next = random(seed)
  const all = promptsOfHalf(language, seed)
  const pieces: LaidPiece[] = []
  const fillers: Filled['fillers'] = []
  const script: string[] = []
  let at = toSamples(0.5)
  let words = 0
  const speak = async (text: string, stretch: number) => (voice ? flite(text, voice, stretch) : espeak(language, text))
  for (let s = 0; s < SENTENCES; s++) {
    const { text } = all.splice(Math.floor(next() * all.length), 1)[0]!
    script.push(text)
    words += text.split(' ').length
    const sound = await speak(text, 1)
    pieces.push({ sound, at })
    at += sound.length
    if (next() < share) {
      const said = SAID[language][Math.floor(next() * SAID[language].length)]!
      at += toSamples(0.06 + 0.5 * next())
      const filler = await speak(said, 1.2 + 0.8 * next())
      pieces.push({ sound: filler, at })
      fillers.push({ start: at, end: at + filler.length })
      at += filler.length + toSamples(0.06 + 0.5 * next())
    } else at += toSamples(0.3 + 0.9 * next())
  }
  const samples = overRoom(pieces, at + toSamples(0.5), seed, 50)
  return { name: `${language} ${voice ?? 'synthesiser'} ${seed}`, samples, fillers, words, script, language }
}
