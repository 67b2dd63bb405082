import { describe, expect, test } from 'vitest'
import { expint1 } from '#core/audio/denoise/exponential-integral.ts'
import { limit } from '#core/audio/loudness/limiter.ts'
import { integratedLoudness, RunningLoudness } from '#core/audio/loudness/loudness.ts'
import { peaksOver, truePeak } from '#core/audio/loudness/true-peak.ts'
import { lay, noise, random, seconds, sine } from '#tests/made/sound.ts'
import { crc32 } from './crc32.ts'
import { monoOf } from './downmix.ts'
import { realFft } from './fft.ts'
import { applyBiquad, highPass } from './filters.ts'
import { fromInt16, rms, toDb, toInt16 } from './pcm.ts'
import { BINS, frameStart, inverseStft, SIZE, stft } from './stft.ts'
import { writeWav } from './wav.ts'
import { peaksOf } from './waveform.ts'

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
    const y = inverseStft(stft(x), x.length)
    expect(Math.max(...x.map((value, i) => Math.abs(value - y[i]!)))).toBeLessThan(1e-5)
  })
})

test('the kernels’ spectra are those of the plain transform', () => {
  const x = noise(0.2, 5000, 4)
  const { frames, re, im } = stft(x)
  const fft = realFft(SIZE)
  const [r, i] = [new Float64Array(BINS), new Float64Array(BINS)]
  for (const f of [0, 3, 7, frames - 1]) {
    const input = Float64Array.from({ length: SIZE }, (_, n) => (x[frameStart(f) + n] ?? 0) * Math.sin((Math.PI * n) / SIZE))
    fft.forward(input, r, i)
    for (let k = 0; k < BINS; k++) {
      expect(re[f * BINS + k]).toBeCloseTo(r[k]!, 4)
      expect(im[f * BINS + k]).toBeCloseTo(i[k]!, 4)
    }
  }
})

describe('published values', () => {
  test('exponential integral', () => {
    // Abramowitz & Stegun, Handbook of Mathematical Functions, table 5.1 (E1; the values are from memory)
    expect(expint1(0.5)).toBeCloseTo(0.5597735948, 9)
    expect(expint1(1)).toBeCloseTo(0.2193839344, 9)
    expect(expint1(2)).toBeCloseTo(0.0489005107, 9)
  })
  test('checksum', () => {
    // the check value of CRC-32/ISO-HDLC in the catalogue of parametrised CRC algorithms
    expect(crc32(new TextEncoder().encode('123456789'))).toBe(0xcbf43926)
  })
  // EBU Tech 3341, table 1: minimum requirements test signals, ±0.1 LU
  const stereo = (parts: [number, number][]) => {
    const one = new Float32Array(seconds(parts.reduce((sum, [, s]) => sum + s, 0)))
    let at = 0
    for (const [db, s] of parts) {
      one.set(sine(1000, 10 ** (db / 20), seconds(s)), at)
      at += seconds(s)
    }
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
})

describe('EBU Tech 3341, table 1: true-peak signals, +0.2 / −0.4 dB (values from memory)', () => {
  // sine at a fraction of the rate, with a phase, at an amplitude: what stands between the samples is the true peak
  test.each([
    [15, 4, 0, 0.5, -6],
    [16, 4, 45, 0.5, -6],
    [17, 6, 60, 0.5, -6],
    [18, 8, 67.5, 0.5, -6],
    [19, 4, 45, 1.41, 3],
  ])('case %i', (_, fraction, degrees, amplitude, expected) => {
    const x = Float32Array.from(
      { length: 9600 },
      // faded at its edges: a jump there has peaks of its own
      (__, i) =>
        Math.min(1, i / 480, (9599 - i) / 480) * amplitude * Math.sin((2 * Math.PI * i) / fraction + (degrees * Math.PI) / 180),
    )
    expect(truePeak(x)).toBeGreaterThan(expected - 0.4)
    expect(truePeak(x)).toBeLessThan(expected + 0.2)
  })
  test('leaving out what cannot be a peak changes nothing', () => {
    const x = lay(noise(0.1, 4800, 3), sine(11_000, 0.7, 900), 1700)
    let highest = 0
    for (const value of peaksOver(x, 0)!) highest = Math.max(highest, value)
    expect(truePeak(x)).toBeCloseTo(toDb(highest), 6)
  })
})

test('a dead channel is left out, two that sound are averaged', () => {
  const [x, y] = [noise(0.1, 1000, 1), noise(0.1, 1000, 2)]
  expect(monoOf([x, new Float32Array(1000)])).toEqual({ samples: x, dead: 1, cancels: false })
  expect(monoOf([x, y]).samples[7]).toBeCloseTo((x[7]! + y[7]!) / 2, 6)
})
test('two that cancel each other out are not added up: one of them is taken', () => {
  const x = noise(0.1, 4000, 1)
  const against = noise(0.01, 4000, 2).map((value, i) => value - x[i]!)
  const { samples, dead, cancels } = monoOf([x, against])
  expect([dead, cancels]).toEqual([0, true])
  expect(rms(samples)).toBeGreaterThan(0.9 * rms(x))
  // as far apart as two microphones in a room are, they are added up
  expect(monoOf([x, noise(0.1, 4000, 3)]).cancels).toBe(false)
  const shared = noise(0.05, 4000, 4)
  expect(monoOf([x.map((v, i) => v + shared[i]!), x.map((v, i) => -0.5 * v + shared[i]!)]).cancels).toBe(false)
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

describe('loudness of the last three seconds', () => {
  test('a sine of 1 kHz at −23 dBFS on both loudspeakers is −23 LUFS (EBU Tech 3341, case 1), and is forgotten after three seconds', () => {
    const meter = new RunningLoudness()
    for (const x of sine(1000, 10 ** (-23 / 20), seconds(4))) meter.add(x)
    expect(meter.lufs()).toBeCloseTo(-23, 1)
    for (let i = 0; i < seconds(3); i++) meter.add(0)
    expect(meter.lufs()).toBeLessThan(-70)
  })
})
