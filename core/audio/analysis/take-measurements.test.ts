/** Figures of a take, worked block by block, against those of the whole. */
import { expect, test } from 'vitest'
import { heardLoudness } from '#core/audio/loudness/loudness.ts'
import { truePeak } from '#core/audio/loudness/true-peak.ts'
import { lay, noise, seconds, voice } from '#tests/made/sound.ts'
import { takeFigures } from './take-measurements.ts'

test('they are those of the whole, wherever blocks meet', () => {
  const x = noise(0.002, seconds(50.03), 3)
  for (const at of [1, 13, 28, 43]) lay(x, voice(0.3, seconds(4), at), seconds(at))
  // the highest level lies between two samples beside the seam
  x.set([0.9, 0.9, -0.9, -0.9, 0.9, 0.9], seconds(15) - 3)
  const { loudnessLufs, truePeakDbtp, clippedSamples } = takeFigures(x)
  expect(loudnessLufs).toBeCloseTo(heardLoudness(x), 9)
  expect(truePeakDbtp).toBe(truePeak(x))
  expect(clippedSamples).toBe(0)
})

test.each([
  [15 * 48_000 - 4, 9],
  [15 * 48_000 - 1, 2],
  [15 * 48_000 - 2, 3],
  [0, 5],
  [seconds(50) - 5, 5],
  [seconds(50) - 2, 2],
])('samples at full scale from %i on, %i of them, are counted once, where there are three', (at, count) => {
  const x = noise(0.002, seconds(50), 3)
  x.fill(1, at, at + count)
  expect(takeFigures(x).clippedSamples).toBe(count >= 3 ? count : 0)
})

test('silence and nothing have no level', () => {
  for (const length of [0, 100, seconds(40)])
    expect(takeFigures(new Float32Array(length))).toEqual({ loudnessLufs: null, truePeakDbtp: null, clippedSamples: 0 })
})
