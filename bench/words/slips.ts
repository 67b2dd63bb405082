/** Readings in which a sentence is begun anew or said twice, of real voices: found, and taken for one where there is none. */
import { usualCleaning } from '#core/audio/render/render.ts'
import { findHum } from '#core/audio/repair/hum.ts'
import { rms } from '#core/audio/signal/pcm.ts'
import { changeTempo } from '#core/audio/tidy-up/tempo.ts'
import { align } from '#core/captions/align/align.ts'
import { extractFeatures } from '#core/captions/align/extract-features.ts'
import { findSlips } from '#core/captions/spoken/find-slips.ts'
import { heardSounds, surelyNoWords } from '#core/captions/spoken/heard-sounds.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { random } from '#tests/made/sound.ts'
import type { PromptLanguage } from '../speech/prompts.ts'
import { decode, phrase } from '../tidy/corpus.ts'
import { type LaidPiece, overRoom, promptsOfHalf } from './layout.ts'

const SENTENCES = 10

interface Reading {
  samples: Float32Array
  script: string[]
  language: PromptLanguage
  /** What was said in vain, seconds. */
  slips: { kind: 'begun-anew' | 'said-twice'; start: number; end: number }[]
}

/** Where a sentence may be broken off: the quietest tenth of a second in its middle. @returns samples */
function breakOff(sound: Float32Array, next: () => number): number {
  const step = toSamples(0.01)
  const [from, to] = [0.3 + 0.1 * next(), 0.6 + 0.1 * next()]
  let best = { at: Math.round(sound.length / 2), level: Number.POSITIVE_INFINITY }
  for (let at = Math.round(from * sound.length); at < to * sound.length; at += step) {
    const level = rms(sound, at, at + 3 * step)
    if (level < best.level) best = { at: at + step, level }
  }
  return best.at
}

/** @param snr of the room under it, dB */
export function reading(language: PromptLanguage, seed: number, snr: number): Reading {
  const next = random(seed)
  const all = promptsOfHalf(language, seed)
  const pieces: LaidPiece[] = []
  const script: string[] = []
  const slips: Reading['slips'] = []
  let at = toSamples(0.5)
  const speak = (sound: Float32Array) => {
    pieces.push({ sound, at })
    at += sound.length
    return { start: toSeconds(at - sound.length), end: toSeconds(at) }
  }
  const slipping = [2 + Math.floor(next() * 2), 5 + Math.floor(next() * 3)]
  for (let s = 0; s < SENTENCES; s++) {
    const prompt = all.splice(Math.floor(next() * all.length), 1)[0]!
    const sound = phrase(decode(prompt.path))
    script.push(prompt.text)
    if (slipping.includes(s)) {
      const isWhole = s === slipping[1]
      const gain = next()
      // nobody says anything twice in the same way
      const other = changeTempo(isWhole ? sound : sound.slice(0, breakOff(sound, next)), 0.95 + 0.1 * next())
      const said = speak(other.map((v) => v * (0.7 + 0.3 * gain)))
      slips.push({ kind: isWhole ? 'said-twice' : 'begun-anew', ...said })
      at += toSamples(0.15 + 0.7 * next())
    }
    speak(sound)
    at += toSamples(0.25 + 0.9 * next())
  }
  const samples = overRoom(pieces, at + toSamples(0.5), seed, snr)
  return { samples, script, language, slips }
}

export interface SlipFigures {
  anew: { true: number; found: number }
  twice: { true: number; found: number }
  false: number
  sentences: number
}

/** @param seeds of the readings, one each language */
export async function slipFigures(
  languages: readonly PromptLanguage[],
  seeds: readonly number[],
  snr: number,
): Promise<SlipFigures> {
  const figures: SlipFigures = { anew: { true: 0, found: 0 }, twice: { true: 0, found: 0 }, false: 0, sentences: 0 }
  for (const seed of seeds)
    for (const language of languages) {
      const made = reading(language, seed, snr)
      const heard = extractFeatures(made.samples, usualCleaning(), findHum(made.samples))
      const sounds = heardSounds(heard)
      const alignment = align(heard, made.script, (await openSynthesiser(language))!, surelyNoWords(sounds))
      const found = findSlips({
        samples: made.samples.length,
        analysis: { speech: [], trailingUtterance: null },
        alignment,
        sounds,
      }).filter(({ kind }) => kind === 'begun-anew' || kind === 'said-twice')
      const both = (a: { start: number; end: number }, b: { start: number; end: number }) =>
        Math.min(a.end, b.end) - Math.max(a.start, b.start)
      const isIt = (slip: { start: number; end: number }, truth: Reading['slips'][number]) =>
        both(slip, truth) > 0.6 * (truth.end - truth.start) && both(slip, truth) > 0.6 * (slip.end - slip.start)
      for (const truth of made.slips) {
        const own = truth.kind === 'begun-anew' ? figures.anew : figures.twice
        own.true++
        if (found.some((slip) => isIt(slip, truth))) own.found++
      }
      figures.false += found.filter(
        (slip) => !made.slips.some((truth) => both(slip, truth) > 0.3 * (slip.end - slip.start)),
      ).length
      figures.sentences += SENTENCES
    }
  return figures
}
