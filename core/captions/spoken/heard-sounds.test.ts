/** Sounds between words, on made-up voices; how well they are found in real ones is measured by `npm run bench -- words`. */
import { expect, test } from 'vitest'
import { melOfSixteen, toSixteen } from '#core/captions/align/extract-features.ts'
import { heldVowel, lay, noise, seconds, sine, voice } from '#tests/made/sound.ts'
import { heardSounds } from './heard-sounds.ts'
import { pitchAt } from './pitch.ts'

const hear = (samples: Float32Array) => {
  const sixteen = toSixteen(samples)
  return heardSounds({ mel: melOfSixteen(sixteen), sixteen, speechProbability: null })
}

/** Two phrases with a rest of two seconds between them. */
function phrases(between: Float32Array, at = 2.8) {
  const samples = noise(0.0003, seconds(7), 2)
  lay(samples, voice(0.3, seconds(1.5), 3), seconds(0.8))
  lay(samples, voice(0.3, seconds(1.5), 4), seconds(4.3))
  return lay(samples, between, seconds(at))
}

test('a vowel held between rests is a filled pause, where it is', () => {
  const [found, ...more] = hear(phrases(heldVowel(seconds(0.4))))
  expect(more).toEqual([])
  expect(found!.kind).toBe('filled-pause')
  expect(Math.abs(found!.start - 2.8)).toBeLessThan(0.05)
  expect(Math.abs(found!.end - 3.2)).toBeLessThan(0.08)
})

test('vowels that change are a word, though they stand between rests on one note', () => {
  const word = new Float32Array(seconds(0.4))
  for (const [i, formants] of [
    [300, 2300],
    [750, 1200],
    [300, 2300],
    [450, 800],
  ].entries())
    lay(word, heldVowel(seconds(0.11), formants), seconds(0.095 * i))
  expect(hear(phrases(word))).toEqual([])
})

test('a burst of noise as loud as the voice is a cough; a soft one is a breath, and nothing', () => {
  const burst = (level: number) => noise(level, seconds(0.25), 6).map((v, i) => v * Math.exp(-i / seconds(0.12)))
  expect(hear(phrases(burst(0.12))).map(({ kind }) => kind)).toEqual(['cough'])
  expect(hear(phrases(burst(0.004)))).toEqual([])
})

test('silence, noise and nothing at all have no such sounds', () => {
  expect(hear(new Float32Array(seconds(2)))).toEqual([])
  expect(hear(noise(0.1, seconds(2)))).toEqual([])
  expect(hear(new Float32Array(0))).toEqual([])
})

test.each([70, 110, 220, 400])('the pitch of a tone of %i Hz is told within one part in a hundred', (hz) => {
  const tone = sine(hz, 0.3, 16_000).map((_, i) => 0.3 * Math.sin((2 * Math.PI * hz * i) / 16_000))
  const found = pitchAt(tone, 8000, 16_000)!
  expect(Math.abs(found / hz - 1)).toBeLessThan(0.01)
})

test('noise and silence have no pitch', () => {
  expect(pitchAt(noise(0.2, 16_000, 4), 8000, 16_000)).toBeNull()
  expect(pitchAt(new Float32Array(16_000), 8000, 16_000)).toBeNull()
})
