/** Recordings for training: the voices of the packages, changed in pitch, colour and loudness, in rooms of every kind. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { applyBiquad, highPass } from '#core/audio/filters.ts'
import { rms } from '#core/audio/pcm.ts'
import { lay, random, voice } from '#tests/sound.ts'
import { decode, LANGUAGES, NOISES, phrase, promptSounds, room } from './corpus.ts'

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

let prompts: Float32Array[] | null = null

export function trainingRecording(seed: number): { clean: Float32Array; noisy: Float32Array } {
  prompts ??= [...LANGUAGES.flatMap((language) => promptSounds(language, 60, 'training')), ...synthesised()]
  const next = random(seed * 7919)
  const length = 48_000 * 9
  const clean = new Float32Array(length)
  const level = 10 ** ((-34 + 16 * next()) / 20)
  const ratio = 0.82 + 0.4 * next()
  const tilt = 2.4 * next() - 1.2
  let at = Math.floor(48_000 * (0.2 + next()))
  while (at < length - 24_000) {
    const sound = coloured(resampled(prompts[Math.floor(next() * prompts.length)]!, ratio), tilt)
    const gain = (level * (0.6 + 0.8 * next())) / (rms(sound) + 1e-9)
    lay(
      clean,
      sound.map((v) => v * gain),
      at,
    )
    at += sound.length + Math.floor(48_000 * (next() < 0.2 ? 1 + 2 * next() : 0.1 + 0.8 * next()))
  }
  const noisy = clean.slice()
  const layers = next() < 0.3 ? 2 : 1
  const spoken = rms(clean)
  for (let n = 0; n < layers; n++) {
    const kinds = next() < 0.7 ? BROAD : NOISES
    const kind = kinds[Math.floor(next() * kinds.length)]!
    let sound = room(kind, length, seed * 13 + n)
    if (next() < 0.4) sound = coloured(sound, 3 * next() - 1.5)
    if (next() < 0.2) sound = applyBiquad(sound, highPass(100 + 900 * next(), 48_000))
    const gain =
      (spoken * 10 ** (-(-2 + 30 * next()) / 20) * (kind === 'clicks' ? 4 : 1)) / (kind === 'clicks' ? 1 : rms(sound) + 1e-9)
    for (let i = 0; i < length; i++) noisy[i] = noisy[i]! + gain * sound[i]!
  }
  return { clean, noisy }
}
