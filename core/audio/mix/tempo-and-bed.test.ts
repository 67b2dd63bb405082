import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { changeTempo } from '#core/audio/tidy-up/tempo.ts'
import type { Bed } from '#core/model/bed.ts'
import { DEFAULT_BED } from '#core/model/bed.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { addBed, bedPortion, gainAt, placeBed } from './music-bed.ts'

const sine = (hz: number, seconds: number, amplitude = 0.5) =>
  Float32Array.from({ length: toSamples(seconds) }, (_, i) => amplitude * Math.sin((2 * Math.PI * hz * i) / 48_000))
/** Frequency by counting upward zero crossings. */
const pitch = (samples: Float32Array) => {
  let crossings = 0
  for (let i = 1; i < samples.length; i++) if (samples[i - 1]! < 0 && samples[i]! >= 0) crossings++
  return crossings / (samples.length / 48_000)
}
const rms = (samples: Float32Array) => Math.sqrt(samples.reduce((sum, v) => sum + v * v, 0) / samples.length)

describe('tempo', () => {
  test.each([0.95, 1.03, 1.05])('at %f a tone keeps its pitch and level and takes its new length', (tempo) => {
    const out = changeTempo(sine(220, 2), tempo)
    expect(out.length).toBe(Math.round(96_000 / tempo))
    const inner = out.subarray(4800, -4800)
    expect(Math.abs(pitch(inner) - 220)).toBeLessThan(2)
    expect(rms(inner)).toBeCloseTo(0.5 / Math.SQRT2, 1)
  })
  test('an event comes at its moment divided by the tempo', () => {
    const samples = new Float32Array(96_000)
    samples.set(sine(300, 0.1), 60_000)
    const out = changeTempo(samples, 1.05)
    const first = out.findIndex((v) => Math.abs(v) > 0.05)
    expect(Math.abs(first - 60_000 / 1.05)).toBeLessThan(toSamples(0.02))
  })
  test('tempo 1 is the sound itself, and impossible tempos are refused', () => {
    const samples = sine(100, 0.1)
    expect(changeTempo(samples, 1)).toBe(samples)
    expect(() => changeTempo(samples, 3)).toThrow(RangeError)
  })
})

const bed = (more: Partial<Bed> = {}): Bed => ({
  id: 'bed',
  name: 'music',
  sound: 'file',
  peaks: '',
  samples: toSamples(10),
  loudnessLufs: -16,
  fromSlideId: '',
  toSlideId: '',
  ...DEFAULT_BED,
  volumeDb: 0,
  ...more,
})

describe('a bed', () => {
  const run = { start: 0, end: toSamples(30) }
  const speech = [{ start: toSamples(10), end: toSamples(15) }]
  const placed = placeBed(bed(), run, speech)!
  const at = (seconds: number) => gainAt(placed.gains, toSamples(seconds))
  test('fades in and out, and gives way by 14 dB exactly while somebody speaks', () => {
    expect(at(0)).toBe(0)
    expect(at(5)).toBeCloseTo(1, 6)
    expect(20 * Math.log10(at(10))).toBeCloseTo(-14, 3)
    expect(20 * Math.log10(at(14.99))).toBeCloseTo(-14, 3)
    expect(at(16)).toBeCloseTo(1, 6)
    expect(at(28.5)).toBeCloseTo(0.5, 2)
    expect(at(30)).toBe(0)
  })
  test('is as loud beside the voice as it was set, whatever its file', () => {
    const loud = placeBed(bed({ loudnessLufs: -10, volumeDb: -6 }), run, [])!
    expect(20 * Math.log10(gainAt(loud.gains, toSamples(5)))).toBeCloseTo(-12, 6)
  })
  test('does not come up for a short pause', () => {
    const two = placeBed(bed(), run, [...speech, { start: toSamples(16), end: toSamples(20) }])!
    expect(20 * Math.log10(gainAt(two.gains, toSamples(15.5)))).toBeCloseTo(-14, 3)
  })
  test('played once it ends with its file, fading there', () => {
    const once = placeBed(bed({ loop: false }), run, [])!
    expect(once.end).toBe(toSamples(10))
    expect(gainAt(once.gains, toSamples(10))).toBe(0)
    expect(bedPortion(once, toSamples(12), toSamples(14))).toBeNull()
  })
  test('cut into portions and joined again it is the same sound, wherever it is cut', () => {
    const file = sine(100, 10)
    const looped = placeBed(bed(), run, speech)!
    const mixed = (start: number, end: number) => {
      const mix = new Float32Array(end - start)
      const portion = bedPortion(looped, start, end)
      if (portion) addBed(mix, file, portion)
      return mix
    }
    const whole = mixed(0, run.end)
    fc.assert(
      fc.property(fc.integer({ min: 1, max: run.end - 1 }), (cut) => {
        const [a, b] = [mixed(0, cut), mixed(cut, run.end)]
        for (const i of [0, cut - 1, cut, cut + 1, run.end - 1]) {
          const value = i < cut ? a[i] : b[i - cut]
          if (i < run.end) expect(value).toBeCloseTo(whole[i]!, 4)
        }
      }),
      { numRuns: 20 },
    )
  })
})
