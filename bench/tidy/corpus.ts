/**
 * Made-up recordings with known truth: real voices from Debian packages, joined with logged pauses, in rooms made from a seed.
 *
 * Voices: asterisk-core-sounds-{en,fr,it,ru}-g722 (CC-BY-SA 3.0), 16 kHz; alsa-utils (GPL-2+), 48 kHz words. Nothing of them is committed.
 */
import { execFileSync } from 'node:child_process'
import { existsSync, readdirSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { applyBiquad, highPass } from '#core/audio/signal/filters.ts'
import { fromInt16, rms } from '#core/audio/signal/pcm.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { lay, random } from '#tests/made/sound.ts'
import type { Span } from '../measure/signal.ts'

const FOLDERS = {
  en: 'en_US_f_Allison',
  fr: 'fr_CA_f_June',
  it: 'it_IT_m_Carlo',
  ru: 'ru_RU_f_IvrvoiceRU',
} as const
export type Language = keyof typeof FOLDERS
export const LANGUAGES = Object.keys(FOLDERS) as Language[]
export const NOISES = ['white', 'pink', 'fan', 'hum 50', 'hum 60', 'rumble', 'varying', 'clicks'] as const
export type Noise = (typeof NOISES)[number]
export const STATIONARY: readonly Noise[] = ['white', 'pink', 'fan']
export const SNRS = [20, 15, 10, 5] as const

/** Speech stands at this level, root mean square over its phrases. */
const SPEECH_DB = -26
const SOUNDS = '/usr/share/asterisk/sounds'
export const PACKAGES = [...LANGUAGES.map((l) => `asterisk-core-sounds-${l}-g722`), 'alsa-utils']

export interface Recording {
  name: string
  language: Language | 'words'
  noise: Noise | 'none'
  snr: number
  clean: Float32Array
  noisy: Float32Array
  phrases: Span[]
  /** Between phrases, 120 ms away from them. */
  pauses: Span[]
}

export const hasVoices = () =>
  LANGUAGES.every((l) => existsSync(join(SOUNDS, FOLDERS[l]))) && existsSync('/usr/share/sounds/alsa')

export function decode(path: string): Float32Array {
  const format = path.endsWith('.g722') ? ['-f', 'g722'] : []
  const out = execFileSync(
    'ffmpeg',
    ['-nostdin', '-loglevel', 'error', ...format, '-i', path, '-f', 's16le', '-ar', '48000', '-ac', '1', 'pipe:1'],
    { maxBuffer: 1 << 28 },
  )
  return fromInt16(new Int16Array(out.buffer.slice(out.byteOffset, out.byteOffset + (out.length & ~1))))
}

/** The part of a prompt in which somebody speaks, with its edges faded over 3 ms. Edges: 45 dB below the loudest 10 ms. */
export function phrase(sound: Float32Array): Float32Array {
  const step = toSamples(0.01)
  const steady = applyBiquad(sound, highPass(80, 48_000))
  const levels = Array.from({ length: Math.floor(sound.length / step) }, (_, i) => rms(steady, i * step, (i + 1) * step))
  const least = Math.max(...levels) * 10 ** (-45 / 20)
  const first = levels.findIndex((v) => v > least)
  const last = levels.findLastIndex((v) => v > least)
  const out = sound.slice(first * step, (last + 1) * step)
  const fade = toSamples(0.003)
  for (let i = 0; i < fade; i++) {
    out[i] = out[i]! * (i / fade)
    out[out.length - 1 - i] = out[out.length - 1 - i]! * (i / fade)
  }
  return out
}

function pick<T>(list: T[], next: () => number): T {
  return list.splice(Math.floor(next() * list.length), 1)[0]!
}

/** Prompts are divided once and for all: those the voice model was trained on, and those that are held back for the bench. */
export const isHeldBack = (file: string) => [...file].reduce((sum, c) => sum + c.charCodeAt(0), 0) % 3 === 0

function promptFiles(language: Language | 'words', part: 'training' | 'bench'): string[] {
  const folder = language === 'words' ? '/usr/share/sounds/alsa' : join(SOUNDS, FOLDERS[language])
  const least = language === 'words' ? 20_000 : 12_000
  return readdirSync(folder)
    .filter((f) => /\.(g722|wav)$/.test(f) && f !== 'Noise.wav' && !/beep|tone|silence|music|monkey|tt-/.test(f))
    .filter((f) => statSync(join(folder, f)).size > least)
    .filter((f) => language === 'words' || isHeldBack(f) === (part === 'bench'))
    .sort()
    .map((f) => join(folder, f))
}

/** So many prompts of a language, as spoken. */
export function promptSounds(language: Language, count: number, part: 'training' | 'bench'): Float32Array[] {
  const next = random(17)
  const files = promptFiles(language, part)
  return Array.from({ length: Math.min(count, files.length) }, () => phrase(decode(pick(files, next))))
}

function voicesOf(language: Language | 'words', next: () => number, seconds: number): Float32Array[] {
  const files = promptFiles(language, 'bench')
  const out: Float32Array[] = []
  let total = 0
  while (total < seconds && files.length > 0) {
    const sound = phrase(decode(pick(files, next)))
    out.push(sound)
    total += sound.length / 48_000
  }
  return out
}

/** Speech joined with pauses of 0.4 to 1.4 s (one of 3 s), a second and more of room before and after. */
function speech(language: Language | 'words', seed: number, seconds: number) {
  const next = random(seed)
  const sounds = voicesOf(language, next, seconds).map((sound) => {
    const gain = 10 ** (SPEECH_DB / 20) / rms(sound)
    return sound.map((v) => v * gain)
  })
  const long = Math.floor(sounds.length / 2)
  const gaps = sounds.map((_, i) => (i === 0 ? 1.2 : i === long ? 3 : 0.4 + next()))
  const length = toSamples(gaps.reduce((a, b) => a + b, 0) + 1.5) + sounds.reduce((a, b) => a + b.length, 0)
  const clean = new Float32Array(length)
  const phrases: Span[] = []
  let at = 0
  sounds.forEach((sound, i) => {
    at += toSamples(gaps[i]!)
    lay(clean, sound, at)
    phrases.push({ start: at, end: at + sound.length })
    at += sound.length
  })
  return { clean, phrases }
}

const gaussian = (next: () => number) => Math.sqrt(-2 * Math.log(next() + 1e-12)) * Math.cos(2 * Math.PI * next())

/** Noise of unit root mean square (clicks: of unit peak). */
export function room(kind: Noise, length: number, seed: number): Float32Array {
  const next = random(seed)
  const out = new Float32Array(length)
  const white = () => gaussian(next)
  if (kind === 'white') for (let i = 0; i < length; i++) out[i] = white()
  if (kind === 'pink' || kind === 'varying') {
    // white through poles that fall by 3 dB an octave (values from memory)
    const b = [0, 0, 0, 0, 0, 0]
    const poles = [0.99886, 0.99332, 0.969, 0.8665, 0.55, -0.7616]
    const gains = [0.0555179, 0.0750759, 0.153852, 0.3104856, 0.5329522, -0.016898]
    for (let i = 0; i < length; i++) {
      const w = white()
      let sum = w * 0.5362
      for (let p = 0; p < 6; p++) {
        b[p] = poles[p]! * b[p]! + gains[p]! * w
        sum += b[p]!
      }
      const swell = kind === 'varying' ? 10 ** ((6 * Math.sin((2 * Math.PI * i) / toSamples(7.3) + seed)) / 20) : 1
      out[i] = sum * swell
    }
  }
  if (kind === 'fan') {
    let [low, lower] = [0, 0]
    for (let i = 0; i < length; i++) {
      const w = white()
      low += 0.12 * (w - low)
      lower += 0.03 * (w - lower)
      const blades = 0.06 * Math.sin((2 * Math.PI * 168 * i) / 48_000) + 0.03 * Math.sin((2 * Math.PI * 336 * i) / 48_000)
      out[i] = low + 0.7 * lower + 0.03 * w + blades * 0.4
    }
  }
  if (kind === 'hum 50' || kind === 'hum 60') {
    const base = kind === 'hum 50' ? 50 : 60
    const parts = [1, 2, 3, 4, 5, 7, 9].map((h, i) => ({ hz: base * h * 1.0003, gain: 0.6 ** i, phase: 6.28 * next() }))
    for (let i = 0; i < length; i++) {
      let sum = 0.02 * white()
      for (const { hz, gain, phase } of parts) sum += gain * Math.sin((2 * Math.PI * hz * i) / 48_000 + phase)
      out[i] = sum
    }
  }
  if (kind === 'rumble') {
    let [a, b, c] = [0, 0, 0]
    const k = 1 - Math.exp((-2 * Math.PI * 45) / 48_000)
    for (let i = 0; i < length; i++) {
      a += k * (white() - a)
      b += k * (a - b)
      c += k * (b - c)
      out[i] = c
    }
  }
  if (kind === 'clicks') {
    for (let at = toSamples(0.3); at < length; at += toSamples(0.25 + 0.9 * next())) {
      const tone = 1500 + 3500 * next()
      for (let i = 0; i < toSamples(0.02) && at + i < length; i++) {
        const t = i / 48_000
        out[at + i] = Math.exp(-t / 0.0025) * (0.6 * Math.sin(2 * Math.PI * tone * t) + 0.5 * white())
      }
    }
    const peak = out.reduce((m, v) => Math.max(m, Math.abs(v)), 0)
    for (let i = 0; i < length; i++) out[i] = out[i]! / peak + 0.003 * white()
    return out
  }
  const level = rms(out)
  return out.map((v) => v / level)
}

/**
 * One recording.
 *
 * @param snr dB, of speech over its phrases against noise; for clicks, of speech against the clicks' peaks less 12 dB
 */
export function recording(
  language: Language | 'words',
  noise: Noise | 'none',
  snr: number,
  seed: number,
  seconds = 12,
): Recording {
  const { clean, phrases } = speech(language, seed, seconds)
  const noisy = clean.slice()
  if (noise !== 'none') {
    const gain = 10 ** ((SPEECH_DB - snr + (noise === 'clicks' ? 12 : 0)) / 20)
    const sound = room(noise, clean.length, seed * 31 + 7)
    for (let i = 0; i < noisy.length; i++) noisy[i] = noisy[i]! + gain * sound[i]!
  }
  const margin = toSamples(0.12)
  const edges = [{ start: 0, end: 0 }, ...phrases, { start: clean.length, end: clean.length }]
  const pauses = edges.slice(1).flatMap((edge, i) => {
    const [start, end] = [edges[i]!.end + margin, edge.start - margin]
    return end - start > toSamples(0.15) ? [{ start, end }] : []
  })
  return { name: `${language} ${noise} ${snr} dB`, language, noise, snr, clean, noisy, phrases, pauses }
}
