/** The parts of the cleaner, each on its own, and what holds for the whole. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { siSdr } from '#bench/measure/signal.ts'
import { rms, toDb } from '#core/audio/signal/pcm.ts'
import { SPEAKING_HOP } from '#core/audio/speech/voice-activity.ts'
import { lay, noise, random, seconds, sine, voice } from '#tests/made/sound.ts'
import { BIN_HZ, frameMiddle, spectrumOf, UNIT_EDGES, UNITS, VOICE_UNITS } from './bands.ts'
import { clean } from './denoise.ts'
import { floorsAt } from './floors.ts'
import { roughLog10 } from './log-mmse.ts'
import { BAND_EDGES, BANDS, FEATURES, type StepFeatures, stepFeatures } from './model-features.ts'
import { firstNoise, trackNoise } from './noise-estimate.ts'
import { analyseForDenoise, applyDenoise, highPassGain } from './suppress.ts'
import { voiceMask } from './voice-model.ts'
import { readVoiceModel } from './voice-model-file.ts'

const USUAL = { strength: 0.6, highPassHz: 70, noise: null }
const level = (x: Float32Array, from: number, to: number) => toDb(rms(x, seconds(from), seconds(to)))

describe('units and bands', () => {
  test('every bin belongs to exactly one unit', () => {
    expect(UNIT_EDGES[0]).toBe(0)
    expect(UNIT_EDGES.at(-1)).toBe(513)
    for (let u = 0; u < UNITS; u++) expect(UNIT_EDGES[u + 1]!).toBeGreaterThan(UNIT_EDGES[u]!)
  })
  test('the model’s bands reach from 94 Hz to 8 kHz without a gap', () => {
    expect(UNIT_EDGES[BAND_EDGES[0]!]! * BIN_HZ).toBeCloseTo(93.75, 2)
    expect(UNIT_EDGES[BAND_EDGES.at(-1)!]! * BIN_HZ).toBeCloseTo(8062.5, 1)
    expect(BAND_EDGES.at(-1)).toBe(VOICE_UNITS)
  })
  test('features are written in full and stay between their limits', () => {
    const spectrum = spectrumOf(lay(noise(1e-4, seconds(0.6)), noise(0.5, seconds(0.2), 4), seconds(0.2)))
    const under = new Float32Array(spectrum.power.length).fill(1e-9)
    const { steps, values } = stepFeatures(spectrum, under)
    expect(values.length).toBe(steps * FEATURES)
    expect(values.every((v) => v >= -1 && v <= 2.5)).toBe(true)
    for (let i = 0; i < FEATURES; i++)
      expect(new Set(Array.from({ length: steps }, (_, s) => values[s * FEATURES + i])).size).toBeGreaterThan(1)
  })
})

describe('what is said', () => {
  /** The surest moment of a second voice, so much softer than the first. */
  const surest = (db: number) => {
    const take = noise(2e-6, seconds(7), 2)
    lay(take, voice(0.3, seconds(2.5)), seconds(0.5))
    lay(take, voice(0.3 * 10 ** (db / 20), seconds(1.5), 3), seconds(5))
    const { speechProbability } = clean(take, USUAL)
    return Math.max(...speechProbability.slice(Math.ceil((5 * 48_000) / SPEAKING_HOP), Math.floor((6.5 * 48_000) / SPEAKING_HOP)))
  }
  test('a soft word is, a trace of something with the harmonics of a voice is not', () => {
    expect(surest(-30)).toBeGreaterThan(0.8)
    expect(surest(-50)).toBe(0)
  })
})

describe('gains', () => {
  test('the quick logarithm is true to 0.003', () => {
    fc.assert(fc.property(fc.double({ min: -12, max: 6, noNaN: true }), (x) => Math.abs(roughLog10(10 ** x) - x) < 0.003))
  })
  test('the high-pass is 3 dB down at its corner and falls by 24 dB an octave (Butterworth, fourth order)', () => {
    const at = (hz: number) => 20 * Math.log10(highPassGain(hz, 2))
    expect(at(2 * BIN_HZ)).toBeCloseTo(-3.01, 2)
    expect(at(8 * BIN_HZ) - at(16 * BIN_HZ)).toBeCloseTo(24, 0)
    expect(highPassGain(null, 0)).toBe(1)
  })
  test('both floors fall with the strength and begin at nothing', () => {
    expect(floorsAt(0)).toEqual({ speechDb: -0, pauseDb: -0 })
    let last = floorsAt(0)
    for (let s = 0.05; s <= 1; s += 0.05) {
      const next = floorsAt(s)
      expect(next.speechDb).toBeLessThan(last.speechDb)
      expect(next.pauseDb).toBeLessThan(last.pauseDb)
      last = next
    }
  })
})

describe('the followed noise', () => {
  const meanDb = (values: Float32Array, from: number, to: number) => {
    const part = values.slice(from * UNITS, to * UNITS)
    return 10 * Math.log10(part.reduce((a, b) => a + b, 0) / part.length)
  }
  const followed = (x: Float32Array) => {
    const spectrum = spectrumOf(x)
    return { spectrum, noise: trackNoise(spectrum, firstNoise(spectrum, null)) }
  }
  test('is as strong as steady noise, to 1.5 dB', () => {
    const { spectrum, noise: found } = followed(noise(0.02, seconds(4), 3))
    expect(Math.abs(meanDb(found, 100, 600) - meanDb(spectrum.power, 100, 600))).toBeLessThan(1.5)
  })
  test('rises with a room that becomes louder by 8 dB', () => {
    const x = noise(0.01, seconds(8), 3).map((v, i) => (i > seconds(4) ? v * 2.5 : v))
    const { noise: found } = followed(x)
    const frame = (s: number) => Math.round((s * 48_000) / 256)
    expect(meanDb(found, frame(6), frame(7.5)) - meanDb(found, frame(1), frame(3))).toBeCloseTo(8, 0)
  })
  /** A room that is darker above: 20 dB from 200 Hz to 4 kHz. */
  const dark = (length: number, swell: (i: number) => number) => {
    let low = 0
    return noise(0.05, length, 3).map((v, i) => {
      low += 0.03 * (v - low)
      return swell(i) * (low + 0.05 * v)
    })
  }
  /** How far the units of the found noise are from those of a steady room, beside what all are: standard deviation, dB. */
  const unevenness = (found: Float32Array, mean: Float32Array, from: number, to: number) => {
    let sum = 0
    for (let f = from; f < to; f++) {
      const off = Array.from({ length: VOICE_UNITS - 2 }, (_, u) => 10 * Math.log10(found[f * UNITS + u + 2]! / mean[u + 2]!))
      const all = off.reduce((a, b) => a + b, 0) / off.length
      sum += off.reduce((a, b) => a + (b - all) ** 2, 0) / off.length
    }
    return Math.sqrt(sum / (to - from))
  }
  const means = ({ power, frames }: { power: Float32Array; frames: number }) =>
    Float32Array.from({ length: UNITS }, (_, u) => {
      let sum = 0
      for (let f = 0; f < frames; f++) sum += power[f * UNITS + u]! / frames
      return sum
    })
  // followed unit by unit alone it is 2.7 dB off there
  test('is even where the room is, and still where somebody speaks much louder', () => {
    const room = dark(seconds(8), () => 1)
    const voiced = lay(room.slice(), voice(0.2, seconds(1.5)), seconds(3))
    const mean = means(spectrumOf(room))
    expect(unevenness(followed(room).noise, mean, 400, 1000)).toBeLessThan(0.9)
    expect(unevenness(followed(voiced).noise, mean, 400, 1000)).toBeLessThan(1.8)
  })
  test('a room that swells by 12 dB in 3.5 s is followed in what it is loud, whatever its colour', () => {
    const swell = (i: number) => 10 ** ((6 * Math.sin((2 * Math.PI * i) / seconds(7))) / 20)
    const { noise: found } = followed(dark(seconds(10), swell))
    const mean = means(spectrumOf(dark(seconds(10), () => 1)))
    const off: number[] = []
    for (let f = 200; f < 1600; f += 50) {
      let sum = 0
      for (let u = 2; u < VOICE_UNITS; u++)
        sum += (10 * Math.log10(found[f * UNITS + u]! / mean[u]! / swell(frameMiddle(f)) ** 2)) / (VOICE_UNITS - 2)
      off.push(Math.abs(sum))
    }
    expect(Math.max(...off)).toBeLessThan(1.7)
  })
  test('a muted second says nothing of the room around it', () => {
    const room = dark(seconds(6), () => 1)
    const muted = room.slice().fill(0, seconds(2.5), seconds(3.5))
    const mean = means(spectrumOf(room))
    const { noise: found } = followed(muted)
    expect(unevenness(found, mean, 200, 420)).toBeLessThan(0.9)
    expect(unevenness(found, mean, 700, 1000)).toBeLessThan(0.9)
    expect(meanDb(found, 700, 1000) - meanDb(found, 100, 200)).toBeCloseTo(0, 0)
  })
  test('is a power above nothing, however much its colour changes', () => {
    // a hiss that is uneven and goes for good, then a hum with nothing above it: the sums of the one are rounding beside the other
    const powers = (f: number, u: number) =>
      f < 900 ? (u < 100 ? 1e-14 : 1e6 * (1 + ((f * 37 + u) % 11))) : u < 100 ? 1e6 : 1e-14
    const frames = 3000
    const spectrum = {
      stft: spectrumOf(new Float32Array(1024)).stft,
      frames,
      power: Float32Array.from({ length: frames * UNITS }, (_, i) => powers(Math.floor(i / UNITS), i % UNITS)),
    }
    const found = trackNoise(spectrum, firstNoise(spectrum, null))
    expect(found.every((v) => v > 0 && Number.isFinite(v))).toBe(true)
  })
  test('a pointed-at room is believed', () => {
    const x = lay(noise(0.001, seconds(4), 3), noise(0.05, seconds(1), 8), seconds(2))
    const spectrum = spectrumOf(x)
    const [found, pointed] = [firstNoise(spectrum, null), firstNoise(spectrum, { start: seconds(2.1), end: seconds(2.9) })]
    expect(10 * Math.log10(pointed[50]! / found[50]!)).toBeGreaterThan(25)
  })
})

describe('the voice model', () => {
  const VOICE_LAYERS = readVoiceModel(readFileSync(join(import.meta.dirname, 'voice-model.bin')))
  const maskOf = (x: Float32Array) => {
    const spectrum = spectrumOf(x)
    return voiceMask(stepFeatures(spectrum, trackNoise(spectrum, firstNoise(spectrum, null))))
  }
  const mean = (values: Float32Array, from: number, to: number) => {
    const part = values.slice(Math.round((from * 48_000) / 512), Math.round((to * 48_000) / 512))
    return part.reduce((a, b) => a + b, 0) / part.length
  }
  test('hears somebody speak, and nobody in the pause', () => {
    const { voiceProbability } = maskOf(lay(noise(0.01, seconds(4), 3), voice(0.3, seconds(1.5)), seconds(1)))
    expect(mean(voiceProbability, 1.2, 2.3)).toBeGreaterThan(0.9)
    expect(mean(voiceProbability, 3, 3.8)).toBeLessThan(0.1)
  })
  /** The same network without windows, kernels and side-by-side steps. */
  function plainly({ steps, values }: StepFeatures): Float64Array[] {
    let rows = Array.from({ length: steps }, (_, s) => Float64Array.from(values.subarray(s * FEATURES, (s + 1) * FEATURES)))
    for (const [l, { inputs, outputs, apart, scales, biases, weights }] of VOICE_LAYERS.entries()) {
      const offsets = apart > 0 ? [-apart, 0, apart] : [0]
      rows = rows.map((own, s) =>
        Float64Array.from({ length: outputs }, (_, o) => {
          let sum: number = biases[o]!
          for (const [t, offset] of offsets.entries()) {
            const seen = rows[Math.min(steps - 1, Math.max(0, s + offset))]!
            for (let i = 0; i < inputs; i++) sum += scales[o]! * weights[(o * offsets.length + t) * inputs + i]! * seen[i]!
          }
          const last = l === VOICE_LAYERS.length - 1
          return last ? 1 / (1 + Math.exp(-sum)) : Math.max(sum, 0.1 * sum) + (l > 0 ? own[o]! : 0)
        }),
      )
    }
    return rows
  }
  test('is worked in windows as if there were none', () => {
    const next = random(3)
    // more than one window; away from the ends, where what lies beyond is made up in two ways
    const steps = 560
    const values = Float32Array.from({ length: steps * FEATURES }, () => 2 * next() - 0.5)
    const mask = voiceMask({ steps, values })
    const rows = plainly({ steps, values })
    let most = 0
    const compare = (a: number, b: number) => {
      // what is no number differs from everything
      most = Math.max(most, Math.abs(a - b))
    }
    for (let s = 40; s < steps - 40; s++) {
      for (let b = 0; b < BANDS; b++) compare(mask.roots[s * BANDS + b]!, rows[s]![b]!)
      compare(mask.voiceProbability[s]!, rows[s]![BANDS]!)
      compare(mask.speechProbability[s]!, rows[s]![BANDS + 1]!)
    }
    expect(most).toBeLessThan(1e-3)
  })
  test('does not depend on what was heard before, to the last bit', () => {
    const heard = (steps: number, loud: number, seed: number): StepFeatures => {
      const next = random(seed)
      return { steps, values: Float32Array.from({ length: steps * FEATURES }, () => loud * (2 * next() - 0.5)) }
    }
    const first = voiceMask(heard(203, 0.1, 4))
    voiceMask(heard(900, 3, 5))
    expect(voiceMask(heard(203, 0.1, 4))).toEqual(first)
  })
  test('gives gains between nothing and all', () => {
    const { roots } = maskOf(lay(noise(0.01, seconds(2), 3), voice(0.3, seconds(1)), seconds(0.5)))
    expect(roots.every((g) => g >= 0 && g <= 1)).toBe(true)
  })
})

describe('the whole', () => {
  const take = lay(lay(noise(0.01, seconds(5), 3), voice(0.3, seconds(1.2)), seconds(1)), voice(0.2, seconds(1), 5), seconds(3))

  test('does not depend on how loud the recording is', () => {
    const loud = clean(take, USUAL).samples
    const quiet = clean(
      take.map((v) => v / 8),
      USUAL,
    ).samples
    const error = loud.map((v, i) => v - 8 * quiet[i]!)
    expect(toDb(rms(error) / rms(loud))).toBeLessThan(-40)
  })
  test('moves with the recording', () => {
    const shift = 512 * 20
    const later = new Float32Array(take.length + shift)
    later.set(noise(0.01, shift, 77))
    later.set(take, shift)
    const [a, b] = [clean(take, USUAL).samples, clean(later, USUAL).samples.subarray(shift)]
    const error = a.map((v, i) => v - b[i]!)
    expect(level(error, 1.2, 2) - level(a, 1.2, 2)).toBeLessThan(-25)
  })
  test('leaves a recording alone that is clean already', () => {
    const studio = lay(
      lay(new Float32Array(seconds(5)), voice(0.3, seconds(1.2)), seconds(1)),
      voice(0.2, seconds(1), 5),
      seconds(3),
    )
    expect(siSdr(studio, clean(studio, USUAL).samples)).toBeGreaterThan(40)
  })
  test('brings the recording nearer to the clean one', () => {
    const studio = lay(
      lay(new Float32Array(seconds(5)), voice(0.3, seconds(1.2)), seconds(1)),
      voice(0.2, seconds(1), 5),
      seconds(3),
    )
    const y = clean(take, USUAL).samples
    expect(siSdr(studio, y)).toBeGreaterThan(siSdr(studio, take) + 5)
  })
  test('no strength makes the voice itself more than 1 dB quieter', () => {
    for (const strength of [0.3, 0.6, 1])
      expect(Math.abs(level(clean(take, { ...USUAL, strength }).samples, 1.1, 2.1) - level(take, 1.1, 2.1))).toBeLessThan(1)
  })
  test('a study is not used up: the same strength gives the same samples again', () => {
    const study = analyseForDenoise(take, null)
    const first = applyDenoise(study, 0.6, 70, take.length)
    applyDenoise(study, 1, null, take.length)
    expect(applyDenoise(study, 0.6, 70, take.length)).toEqual(first)
  })
  test('a low rumble goes and a low voice stays', () => {
    const low = sine(110, 0.1, seconds(3))
    const y = clean(lay(low.slice(), sine(25, 0.1, seconds(3)), 0), { ...USUAL, strength: 0 }).samples
    expect(Math.abs(level(y, 1, 2) - level(low, 1, 2))).toBeLessThan(1)
  })
})
