/** What recordings for training are mixed of: the voices of the packages, changed in pitch, colour and loudness, and rooms of every kind. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { applyBiquad, highPass, lowPass } from '#core/audio/signal/filters.ts'
import { rms } from '#core/audio/signal/pcm.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { lay, random, voice } from '#tests/made/sound.ts'
import { decode, LANGUAGES, NOISES, type Noise, phrase, promptSounds, room } from './corpus.ts'

/** Faster and higher, or slower and lower, by linear interpolation. */
function resampled(sound: Float32Array, ratio: number): Float32Array {
  return Float32Array.from({ length: Math.floor((sound.length - 1) / ratio) }, (_, i) => {
    const at = i * ratio
    const k = Math.floor(at)
    return sound[k]! + (at - k) * ((sound[k + 1] ?? 0) - sound[k]!)
  })
}

/** Brighter or darker: a one-pole tilt. */
function coloured(sound: Float32Array, tilt: number): Float32Array {
  let low = 0
  return sound.map((v) => {
    low += 0.12 * (v - low)
    return tilt > 0 ? low + (v - low) * (1 + tilt) : low * (1 - tilt) + (v - low)
  })
}

/** Synthesised voices beside the real ones, so that the model does not learn four speakers by heart. */
function synthesised(): Float32Array[] {
  const texts = [
    'Seven wise foxes jumped over the frozen ditch before the hunters had their tea.',
    'Please check the third figure, then choose whichever value fits the measured curve.',
    'She sells fresh fish and thick soup at half past six; few people ask for more.',
    'What happens when the pressure falls? The thin sheet bends, and the valve shuts.',
  ]
  const folder = mkdtempSync(join(tmpdir(), 'voices-'))
  const spoken = ['kal16', 'awb', 'rms', 'slt'].flatMap((voice) =>
    texts.map((text, i) => {
      const file = join(folder, `${voice}${i}.wav`)
      execFileSync('flite', ['-voice', voice, '-t', text, '-o', file])
      return phrase(decode(file))
    }),
  )
  rmSync(folder, { recursive: true })
  const buzzes = Array.from({ length: 16 }, (_, i) => voice(0.3, 48_000 * 2, 1000 + i))
  return [...spoken, ...spoken, ...buzzes]
}

/** Noises that lie over the whole voice: the hard ones. */
const BROAD = ['white', 'pink', 'fan', 'varying'] as const

/** Air drawn or let go: noise through the resonances of an open mouth, that swells and falls. */
function breath(next: () => number): Float32Array {
  const length = toSamples(0.12 + 0.5 * next())
  const white = Float32Array.from({ length }, () => 2 * next() - 1)
  const between = (sound: Float32Array, low: number, high: number) =>
    applyBiquad(applyBiquad(sound, highPass(low, 48_000)), lowPass(high, 48_000)[0]!)
  const coarse = between(white, 200 + 600 * next(), 1500 + 6000 * next())
  const middle = 500 + 2500 * next()
  const peak = between(coarse, middle / 1.2, middle * 1.2)
  const [peaked, turn, sharp] = [2 * next(), 0.2 + 0.6 * next(), 0.5 + next()]
  return coarse.map((v, i) => {
    const part = i / length
    const swell = part < turn ? part / turn : (1 - part) / (1 - turn)
    return (v + peaked * peak[i]!) * swell ** sharp
  })
}

/** A room that answers: reflections that die away. */
function withReflections(dry: Float32Array, next: () => number): Float32Array {
  const out = dry.slice()
  const [fades, loud] = [0.15 + 0.5 * next(), 0.1 + 0.35 * next()]
  for (let k = 0; k < 60; k++) {
    const seconds = 0.004 + fades * next() ** 1.5
    const delay = toSamples(seconds)
    const gain = loud * 10 ** ((-3 * seconds) / fades) * (next() < 0.5 ? -1 : 1) * (0.3 + 0.7 * next())
    for (let i = delay; i < out.length; i++) out[i] = out[i]! + gain * dry[i - delay]!
  }
  return out
}

let voices: Float32Array[][] | null = null

export interface TrainingVoice {
  /** All that the speaker sounds like in the room, breaths too. */
  voice: Float32Array
  /** The words as the room answers them. */
  heard: Float32Array
  /** The words alone. */
  said: Float32Array
}

/** @param length samples */
export function trainingVoice(seed: number, length: number): TrainingVoice {
  voices ??= [...LANGUAGES.map((language) => promptSounds(language, 400, 'training')), synthesised()]
  const next = random(seed * 7919)
  const said = new Float32Array(length)
  const breaths = new Float32Array(length)
  const level = 10 ** ((-34 + 16 * next()) / 20)
  const ratio = 0.82 + 0.4 * next()
  const tilt = 2.4 * next() - 1.2
  const breathing = next() < 0.5
  const from = next() < 0.12 ? voices[LANGUAGES.length]! : voices[Math.floor(next() * LANGUAGES.length)]!
  let at = toSamples(0.2 + next())
  while (at < length - toSamples(0.5)) {
    const sound = coloured(resampled(from[Math.floor(next() * from.length)]!, ratio), tilt)
    const gain = (level * (0.6 + 0.8 * next())) / (rms(sound) + 1e-9)
    lay(
      said,
      sound.map((v) => v * gain),
      at,
    )
    if (breathing && next() < 0.7) {
      const air = breath(next)
      const loud = (level * 10 ** ((-8 - 26 * next()) / 20)) / (rms(air) + 1e-9)
      const place = next() < 0.8 ? at - air.length - toSamples(0.25 * next() ** 2) : at + sound.length + toSamples(0.15 * next())
      if (place > 0)
        lay(
          breaths,
          air.map((v) => v * loud),
          place,
        )
    }
    at += sound.length + toSamples(next() < 0.2 ? 1 + 2 * next() : 0.1 + 0.8 * next())
  }
  const heard = next() < 0.25 ? withReflections(said, next) : said
  return { voice: heard.map((v, i) => v + breaths[i]!), heard, said }
}

/** What a room sounds like, of unit root mean square; the loudest click peaks at 4. */
export function trainingRoom(seed: number, length: number): Float32Array {
  const next = random(seed * 6007)
  const kinds: readonly Noise[] = next() < 0.7 ? BROAD : NOISES
  const kind = kinds[Math.floor(next() * kinds.length)]!
  let sound = room(kind, length, seed * 13)
  if (next() < 0.4) sound = coloured(sound, 3 * next() - 1.5)
  if (next() < 0.2) sound = applyBiquad(sound, highPass(100 + 900 * next(), 48_000))
  const gain = kind === 'clicks' ? 4 : 1 / (rms(sound) + 1e-9)
  return sound.map((v) => v * gain)
}

/**
 * How loud the rooms are that a voice is laid into, root mean square over the voice's: one, or two together. Many are as loud as a laptop and
 * a fan make them, 5 to 15 dB below the voice; the others go from a voice that is hardly louder than the room to a room that can hardly be heard.
 */
export function roomLevels(next: () => number): number[] {
  return Array.from({ length: next() < 0.3 ? 2 : 1 }, () => {
    const kind = next()
    const [least, most] = kind < 0.15 ? [28, 58] : kind < 0.6 ? [5, 15] : [-2, 28]
    return 10 ** (-(least + (most - least) * next()) / 20)
  })
}
