import { expect, test } from 'vitest'
import { noise, seconds, sine } from '#tests/made/sound.ts'
import { bandEdgeHz, SAMPLES_A_COLUMN, SPECTROGRAM_BANDS, spectrogramOf } from './spectrogram.ts'

test('one column for each 20 ms begun', () => {
  expect(spectrogramOf(noise(0.1, 48_001)).length).toBe(Math.ceil(48_001 / SAMPLES_A_COLUMN) * SPECTROGRAM_BANDS)
  expect(spectrogramOf(new Float32Array(0)).length).toBe(0)
})

test.each([120, 440, 1000, 3000, 9000])('a tone of %i Hz is darkest in its own band', (hz) => {
  const bytes = spectrogramOf(sine(hz, 0.01, seconds(1)))
  const column = [...bytes.slice(25 * SPECTROGRAM_BANDS, 26 * SPECTROGRAM_BANDS)]
  const band = column.indexOf(Math.max(...column))
  expect(bandEdgeHz(band - 1)).toBeLessThan(hz)
  expect(bandEdgeHz(band + 2)).toBeGreaterThan(hz)
})

test('louder is darker, and silence is paper', () => {
  const middle = (amplitude: number) => Math.max(...spectrogramOf(sine(1000, amplitude, seconds(0.5))).slice(900, 1000))
  expect(middle(0)).toBe(0)
  expect(middle(0.001)).toBeLessThan(middle(0.01))
})
