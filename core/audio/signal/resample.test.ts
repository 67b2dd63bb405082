/** A change of rate, sample by sample, against signals whose samples are known at every rate. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { firstDifference } from '#tests/made/sound.ts'
import { Resampler } from './resample.ts'

const tone = (hz: number, rate: number, s: number) =>
  Float32Array.from({ length: Math.round(rate * s) }, (_, i) => 0.5 * Math.sin((2 * Math.PI * hz * i) / rate))
const REACH = 200

test.each([44_100, 16_000, 8000, 96_000, 22_050, 32_000])(
  '%i Hz: a tone of the voice stands where it stood, sample for sample',
  (rate) => {
    const hz = Math.min(3000, 0.4 * rate)
    const out = new Resampler(rate, 48_000).push(tone(hz, rate, 1))
    const wanted = tone(hz, 48_000, 1)
    expect(out.length).toBeGreaterThan(48_000 - 64 * Math.ceil(48_000 / rate) - 2)
    let worst = 0
    for (let i = 10 * REACH; i < out.length - REACH; i++) worst = Math.max(worst, Math.abs(out[i]! - wanted[i]!))
    expect(20 * Math.log10(worst / 0.5)).toBeLessThan(-80)
  },
)

test('what lies above half the lower rate is not folded into the voice', () => {
  const out = new Resampler(96_000, 48_000).push(tone(30_000, 96_000, 0.5))
  expect(20 * Math.log10(Math.max(...out.subarray(2000)) / 0.5)).toBeLessThan(-75)
})

test('pieces of any length give what the whole gives', () => {
  const whole = tone(440, 44_100, 0.2).map((v, i) => v + 0.1 * Math.sin(i * i))
  const wanted = new Resampler(44_100, 48_000).push(whole)
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 2000 }), { minLength: 1, maxLength: 12 }), (lengths) => {
      const resampler = new Resampler(44_100, 48_000)
      const out = new Float32Array(wanted.length + 1)
      let written = 0
      let at = 0
      for (const length of [...lengths, whole.length]) {
        const piece = resampler.push(whole.subarray(at, at + length))
        out.set(piece, written)
        written += piece.length
        at = Math.min(whole.length, at + length)
      }
      expect([written, firstDifference(out.subarray(0, written), wanted)]).toEqual([wanted.length, -1])
    }),
  )
})

test('there is no rate of nothing', () => {
  expect(() => new Resampler(0, 48_000)).toThrow(RangeError)
  expect(() => new Resampler(44_100.5, 48_000)).toThrow('44100.5')
})
