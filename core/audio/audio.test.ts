import { describe, expect, test } from 'vitest'
import { lay, madeTake, noise, random, seconds, sine, voice } from '#tests/sound.ts'
import { findSpeech, roomLevel } from './activity.ts'
import { crc32 } from './crc32.ts'
import { denoise, logMmseGain } from './denoise.ts'
import { expint1 } from './exponential-integral.ts'
import { realFft } from './fft.ts'
import { applyBiquad, highPass } from './filters.ts'
import { limit } from './limiter.ts'
import { heardLoudness, integratedLoudness, truePeak } from './loudness.ts'
import { fromInt16, rms, toDb, toInt16 } from './pcm.ts'
import { peaksOf } from './peaks.ts'
import { analyse, render, suggestTidyUp } from './render.ts'
import { inverseStft, stft } from './stft.ts'
import { writeWav } from './wav.ts'

describe('the transforms', () => {
  test('the Fourier transform agrees with its definition', () => {
    const size = 64
    const next = random(3)
    const input = Float64Array.from({ length: size }, () => next() - 0.5)
    const fft = realFft(size)
    const [re, im] = [new Float64Array(33), new Float64Array(33)]
    fft.forward(input, re, im)
    for (let k = 0; k <= 32; k++) {
      let [r, i] = [0, 0]
      input.forEach((x, n) => {
        r += x * Math.cos((2 * Math.PI * k * n) / size)
        i -= x * Math.sin((2 * Math.PI * k * n) / size)
      })
      expect(re[k]).toBeCloseTo(r, 9)
      expect(im[k]).toBeCloseTo(i, 9)
    }
  })
  test('forth and back by windows gives the signal, to its edges', () => {
    const x = noise(0.2, 10_000)
    const y = inverseStft(stft(x, 1024, 256), x.length)
    expect(Math.max(...x.map((value, i) => Math.abs(value - y[i]!)))).toBeLessThan(1e-5)
  })
})

describe('published values', () => {
  test('exponential integral', () => {
    // Abramowitz & Stegun, Handbook of Mathematical Functions, table 5.1 (E1; the values are from memory)
    expect(expint1(0.5)).toBeCloseTo(0.5597735948, 9)
    expect(expint1(1)).toBeCloseTo(0.2193839344, 9)
    expect(expint1(2)).toBeCloseTo(0.0489005107, 9)
  })
  test('log-MMSE gain comes near the Wiener gain when the signal stands far out', () => {
    // Ephraim & Malah 1985, section III: the integral vanishes for large v
    expect(logMmseGain(100, 101)).toBeCloseTo(100 / 101, 3)
    expect(logMmseGain(1, 1)).toBeCloseTo(0.5 * Math.exp(expint1(0.5) / 2), 2)
  })
  test('checksum', () => {
    // the check value of CRC-32/ISO-HDLC in the catalogue of parametrised CRC algorithms
    expect(crc32(new TextEncoder().encode('123456789'))).toBe(0xcbf43926)
  })
  // EBU Tech 3341, table 1: minimum requirements test signals, ±0.1 LU
  const stereo = (parts: [number, number][]) => {
    const one = Float32Array.from(parts.flatMap(([db, s]) => [...sine(1000, 10 ** (db / 20), seconds(s))]))
    return integratedLoudness([one, one])
  }
  test('EBU Tech 3341 case 1: −23.0 dBFS sine reads −23.0 LUFS', () =>
    expect(Math.abs(stereo([[-23, 20]]) + 23)).toBeLessThan(0.1))
  test('EBU Tech 3341 case 2: −33.0 dBFS sine reads −33.0 LUFS', () =>
    expect(Math.abs(stereo([[-33, 20]]) + 33)).toBeLessThan(0.1))
  test('EBU Tech 3341 case 3: quiet ends are gated', () =>
    expect(
      Math.abs(
        stereo([
          [-36, 10],
          [-23, 60],
          [-36, 10],
        ]) + 23,
      ),
    ).toBeLessThan(0.1))
  test('EBU Tech 3341 case 4: very quiet ends are gated', () =>
    expect(
      Math.abs(
        stereo([
          [-72, 10],
          [-36, 10],
          [-23, 60],
          [-36, 10],
          [-72, 10],
        ]) + 23,
      ),
    ).toBeLessThan(0.1))
  test('EBU Tech 3341 case 5: a louder middle counts', () =>
    expect(
      Math.abs(
        stereo([
          [-26, 20],
          [-20, 20.1],
          [-26, 20],
        ]) + 23,
      ),
    ).toBeLessThan(0.1))
  test('EBU Tech 3341 case 15: a peak between samples is found', () => {
    // sine at a quarter of the rate, phase 0, 0.5 full scale: −6.0 dBTP, tolerance +0.2/−0.4 dB; case 16 with 45°
    for (const phase of [0, Math.PI / 4]) {
      const x = Float32Array.from({ length: 4800 }, (_, i) => 0.5 * Math.sin((Math.PI * i) / 2 + phase))
      expect(truePeak(x)).toBeGreaterThan(-6.4)
      expect(truePeak(x)).toBeLessThan(-5.8)
    }
  })
})

describe('small parts', () => {
  test('16-bit samples come back unchanged', () => {
    const all = Int16Array.from({ length: 65536 }, (_, i) => i - 32768)
    expect(toInt16(fromInt16(all))).toEqual(all)
  })
  test('what is not a number becomes silence, what is too loud stays at the edge', () => {
    expect([...toInt16(Float32Array.of(Number.NaN, 3, -3))]).toEqual([0, 32767, -32768])
  })
  test('a WAV file says its rate and length', () => {
    const view = new DataView(writeWav(Int16Array.of(1, -2, 3), 48000).buffer)
    expect([view.getUint32(24, true), view.getUint32(40, true), view.getInt16(46, true)]).toEqual([48000, 6, -2])
  })
  test('each peak pair holds the extremes of its piece', () => {
    const x = new Int16Array(1000)
    x[10] = 500
    x[999] = -7
    expect([...peaksOf(x)]).toEqual([0, 500, 0, 0, -7, 0])
  })
  test('the high-pass takes 20 Hz and leaves 300 Hz', () => {
    const level = (hz: number) => toDb(rms(applyBiquad(sine(hz, 1, seconds(1)), highPass(70, 48000)), seconds(0.5)) * Math.SQRT2)
    expect(level(20)).toBeLessThan(-20)
    expect(level(70)).toBeCloseTo(-3, 1)
    expect(Math.abs(level(300))).toBeLessThan(0.1)
  })
  test('the limiter holds the ceiling and leaves quiet sound alone', () => {
    const loud = lay(noise(0.05, seconds(1)), sine(997, 1.6, seconds(0.2)), seconds(0.4))
    expect(truePeak(limit(loud, -1))).toBeLessThanOrEqual(-1)
    const quiet = noise(0.05, seconds(0.2))
    expect(limit(quiet, -1)).toBe(quiet)
  })
})

describe('finding the voice', () => {
  test('both phrases are found and the click is not', () => {
    const { samples, phrases } = madeTake()
    const found = findSpeech(samples)
    expect(found).toHaveLength(2)
    found.forEach((s, i) => {
      expect(Math.abs(s.start / 48000 - phrases[i]!.start)).toBeLessThan(0.1)
      expect(Math.abs(s.end / 48000 - phrases[i]!.end)).toBeLessThan(0.15)
      expect(s.start / 48000).toBeLessThanOrEqual(phrases[i]!.start + 0.01)
    })
  })
  test('a soft hiss at the start of a word stays inside', () => {
    const take = noise(0.0005, seconds(3), 3)
    lay(take, applyBiquad(noise(0.01, seconds(0.15), 5), highPass(5000, 48000)), seconds(1))
    lay(take, voice(0.3, seconds(1)), seconds(1.15))
    expect(findSpeech(take)[0]!.start / 48000).toBeLessThanOrEqual(1.01)
  })
  test('a room alone has no voice in it', () => expect(findSpeech(noise(0.01, seconds(4)))).toEqual([]))
  test('hum alone has no voice in it', () => {
    expect(findSpeech(lay(noise(0.001, seconds(4)), sine(50, 0.05, seconds(4)), 0))).toEqual([])
  })
  test('digital silence and a very short take are no trouble', () => {
    expect(findSpeech(new Float32Array(seconds(2)))).toEqual([])
    expect(findSpeech(new Float32Array(100))).toEqual([])
    expect(findSpeech(new Float32Array(0))).toEqual([])
  })
})

describe('cleaning', () => {
  test('pauses fall by 20 dB and the voice stays as loud', () => {
    const { samples } = madeTake({ room: 0.01, click: 0 })
    const cleaned = denoise(samples, 1)
    const level = (x: Float32Array, from: number, to: number) => toDb(rms(x, seconds(from), seconds(to)))
    expect(level(samples, 2.7, 3.2) - level(cleaned, 2.7, 3.2)).toBeGreaterThan(20)
    expect(Math.abs(level(samples, 1.1, 2.4) - level(cleaned, 1.1, 2.4))).toBeLessThan(0.7)
  })
  test('strength 0 leaves every sample', () => {
    const { samples } = madeTake()
    expect(denoise(samples, 0)).toBe(samples)
  })
  test('stronger is quieter', () => {
    const { samples } = madeTake({ room: 0.01, click: 0 })
    const pause = (strength: number) => rms(denoise(samples, strength), seconds(2.7), seconds(3.2))
    expect(pause(0.3)).toBeGreaterThan(pause(0.6))
    expect(pause(0.6)).toBeGreaterThan(pause(1))
  })
  test('a long take worked in blocks has no seam', () => {
    const x = noise(0.01, seconds(90), 4)
    for (const at of [5, 30, 45, 75]) lay(x, voice(0.3, seconds(3), at), seconds(at))
    const cleaned = denoise(x, 0.6)
    const jump = (i: number) => Math.abs(cleaned[i]! - cleaned[i - 1]!)
    const room = Math.max(...Array.from({ length: 4000 }, (_, i) => jump(seconds(20) + i)))
    for (const seam of [40, 80]) expect(jump(seconds(seam))).toBeLessThan(room * 1.5 + 1e-4)
  })
})

describe('a take, tidied', () => {
  const tidied = (take: ReturnType<typeof madeTake>) => {
    const analysis = analyse(take.samples)
    const tidyUp = suggestTidyUp(analysis, take.samples.length)
    return { analysis, tidyUp, ...render(take.samples, tidyUp) }
  }
  test('lead-in, tail and the click of the stop key are gone', () => {
    const { tidyUp } = tidied(madeTake())
    expect(tidyUp.kept.start / 48000).toBeGreaterThan(0.8)
    expect(tidyUp.kept.end / 48000).toBeLessThan(5)
  })
  test.each([0.02, 0.1, 0.5])('recorded at %f, it comes out at −16 LUFS under −1 dBTP', (level) => {
    const { clip, figures } = tidied(madeTake({ level, room: level / 300 }))
    expect(Math.abs(heardLoudness(clip) + 16)).toBeLessThan(0.3)
    expect(truePeak(clip)).toBeLessThanOrEqual(-1)
    expect(figures.loudnessLufs).toBeCloseTo(-16, 0)
  })
  test('the clip is exactly as long as its recipe says, cuts and all', () => {
    const { samples } = madeTake()
    const tidyUp = { ...suggestTidyUp(analyse(samples), samples.length), cuts: [{ start: seconds(2.6), end: seconds(3.1) }] }
    expect(render(samples, tidyUp).clip.length).toBe(tidyUp.kept.end - tidyUp.kept.start - seconds(0.5))
  })
  test('a take with nobody speaking is kept whole', () => {
    const room = noise(0.001, seconds(2))
    expect(suggestTidyUp(analyse(room), room.length).kept).toEqual({ start: 0, end: room.length })
  })
  test('an empty take and digital silence do not fail', () => {
    for (const samples of [new Float32Array(0), new Float32Array(seconds(1))]) {
      const analysis = analyse(samples)
      expect(analysis.speech).toEqual([])
      expect(() => render(samples, suggestTidyUp(analysis, samples.length))).not.toThrow()
    }
  })
  test('full-scale runs are counted as clipped', () => {
    const x = sine(100, 1.5, seconds(0.1)).map((v) => Math.max(-1, Math.min(1, v)))
    expect(analyse(x).clippedSamples).toBeGreaterThan(1000)
  })
  test('the level of the room is measured between the words', () => {
    const { samples } = madeTake({ room: 0.01, click: 0 })
    expect(roomLevel(samples, findSpeech(samples))).toBeCloseTo(-40, 0)
  })
})
