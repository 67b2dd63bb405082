/** What the network is told of a voice in a room must be so: it is compared with rooms whose loudness is known. */
import { expect, test } from 'vitest'
import { BANDS, FEATURES, OUTPUTS } from '#core/audio/denoise/model-features.ts'
import { lay, noise, random, seconds, voice } from '#tests/made/sound.ts'
import { LENGTH, mixedExample, STEPS, studyVoice, unpack } from './examples.ts'

const said = lay(new Float32Array(LENGTH), voice(0.1, seconds(4)), seconds(2))
const studied = studyVoice({ voice: said, heard: said, said })
const told = (rooms: Float32Array[], seed: number) => {
  const features = new Float32Array(STEPS * FEATURES)
  return { features, ...unpack(mixedExample(studied, rooms, random(seed)), features) }
}
const steps = [...Array(STEPS).keys()]
const inVoice = steps.filter((s) => s > 250 && s < 500)
const outside = steps.filter((s) => s > 20 && s < 150)
const mean = (values: number[]) => values.reduce((sum, v) => sum + v, 0) / values.length
const gains = ({ targets }: { targets: Float32Array }, of: number[]) =>
  of.flatMap((s) => [...targets.subarray(s * OUTPUTS, s * OUTPUTS + BANDS)])

test('somebody is heard and speaks where the voice was laid, and nowhere else', () => {
  const { targets } = told([noise(0.1, seconds(20))], 1)
  const spoken = (of: number[], o: number) => mean(of.map((s) => targets[s * OUTPUTS + o]!))
  for (const o of [BANDS, BANDS + 1]) {
    expect(spoken(inVoice, o)).toBeGreaterThan(0.9)
    expect(spoken(outside, o)).toBe(0)
  }
})

test('in a silent room everything is voice, and what is heard is the voice', () => {
  const example = told([new Float32Array(seconds(20))], 2)
  expect(mean(gains(example, inVoice))).toBeGreaterThan(0.99)
  for (const s of inVoice)
    for (let i = s * BANDS; i < (s + 1) * BANDS; i++) expect(example.all[i]!).toBeCloseTo(example.voice[i]!, 5)
})

test('in a room that can be heard the roots of the gains are those of voice against everything, band by band', () => {
  const [room, other] = [told([noise(1, seconds(20), 3)], 3), told([noise(1, seconds(20), 4)], 3)]
  expect(mean(gains(room, outside))).toBeLessThan(0.1)
  // the same chance gives the same loudness: another noise of it changes single values and not what is told on the whole
  expect(mean(gains(room, inVoice))).toBeCloseTo(mean(gains(other, inVoice)), 1)
  let apart = 0
  for (const s of inVoice)
    for (let b = 0; b < BANDS; b++) {
      const i = s * BANDS + b
      const expected = Math.sqrt(Math.min(1, room.voice[i]! / room.all[i]!))
      apart += Math.abs(room.targets[s * OUTPUTS + b]! - expected) / inVoice.length / BANDS
    }
  // voice and noise add up in power only on the whole
  expect(apart).toBeLessThan(0.12)
})

test('a louder room is told from a quieter one: what is seen stands less far out of its noise', () => {
  const features = (level: number) => {
    const loud = { ...studied, sound: studied.sound.map((v) => v * level) }
    const out = new Float32Array(STEPS * FEATURES)
    unpack(mixedExample(loud, [noise(1, seconds(20), 5)], random(7)), out)
    return mean(inVoice.flatMap((s) => [...out.subarray(s * FEATURES, s * FEATURES + BANDS)]))
  }
  expect(features(4)).toBeGreaterThan(features(0.25) + 0.1)
})
