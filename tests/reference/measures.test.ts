/** The bench's own measures, on signals whose values are known. */
import { expect, test } from 'vitest'
import { estoi, resampleTo10k } from '#bench/measure/intelligibility.ts'
import { logKurtosisRatio, siSdr } from '#bench/measure/signal.ts'
import { noise, seconds, sine, voice } from '#tests/made/sound.ts'

const speech = voice(0.3, seconds(4))
const plus = (x: Float32Array, y: Float32Array, gain: number) => x.map((v, i) => v + gain * y[i]!)
const room = noise(1, speech.length, 9)

test('ESTOI is 1 for equal signals and falls with the noise (Jensen & Taal 2016)', () => {
  expect(estoi(speech, speech)).toBeCloseTo(1, 6)
  const values = [0.003, 0.03, 0.3].map((gain) => estoi(speech, plus(speech, room, gain)))
  expect(values[0]!).toBeGreaterThan(values[1]!)
  expect(values[1]!).toBeGreaterThan(values[2]!)
  expect(estoi(speech, room)).toBeLessThan(0.2)
})

test('SI-SDR is the ratio of the parts, whatever the gain (Le Roux et al. 2019)', () => {
  const tone = sine(1000, 0.5, seconds(2))
  const other = sine(3000, 0.05, seconds(2))
  expect(siSdr(tone, plus(tone, other, 1))).toBeCloseTo(20, 1)
  expect(
    siSdr(
      tone,
      plus(tone, other, 1).map((v) => 0.3 * v),
    ),
  ).toBeCloseTo(20, 1)
})

test('a tone below 5 kHz goes through the change of rate unchanged, one above is gone', () => {
  const level = (hz: number) => {
    const y = resampleTo10k(sine(hz, 1, seconds(1)))
    return Math.sqrt(y.slice(1000, 9000).reduce((sum, v) => sum + v * v, 0) / 8000) * Math.SQRT2
  }
  expect(level(1000)).toBeCloseTo(1, 2)
  expect(level(4300)).toBeCloseTo(1, 1)
  expect(level(6500)).toBeLessThan(0.001)
})

test('noise that is only quieter keeps its kurtosis, gated noise does not (Uemura et al. 2008)', () => {
  const x = noise(0.1, seconds(3), 5)
  const spans = [{ start: 0, end: x.length }]
  expect(
    logKurtosisRatio(
      x,
      x.map((v) => v * 0.01),
      spans,
    ),
  ).toBeCloseTo(0, 6)
  expect(
    logKurtosisRatio(
      x,
      x.map((v, i) => (Math.floor(i / 4800) % 7 === 0 ? v : v * 0.01)),
      spans,
    ),
  ).toBeGreaterThan(0.5)
})
