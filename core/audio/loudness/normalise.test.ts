/** Loudness, ceiling and gentle levelling. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { rms, toDb } from '#core/audio/signal/pcm.ts'
import { lay, noise, seconds, sine, voice } from '#tests/made/sound.ts'
import { limit } from './limiter.ts'
import { heardLoudness } from './loudness.ts'
import { normaliseLoudness } from './normalise.ts'
import { truePeak } from './true-peak.ts'

const TARGET = { targetLufs: -16, ceilingDbtp: -1, even: false }

/** @returns the clip unchanged when nothing in it is above the gate */
function levelled(clip: Float32Array, level: Parameters<typeof normaliseLoudness>[1]) {
  const into = new Float32Array(clip.length)
  const gains = normaliseLoudness(clip, level, into)
  return gains ? { clip: into, ...gains } : { clip, gainDb: 0, gainReductionDb: 0 }
}

describe('bringing a clip to its loudness', () => {
  test.each([-16, -23])('to %f LUFS', (targetLufs) => {
    const { clip } = levelled(voice(0.02, seconds(3)), { ...TARGET, targetLufs })
    expect(Math.abs(heardLoudness(clip) - targetLufs)).toBeLessThan(0.15)
  })
  test('a knock is held down and the voice is not', () => {
    const take = lay(voice(0.1, seconds(4)), sine(200, 0.95, seconds(0.02)), seconds(2))
    const { clip, gainReductionDb } = levelled(take, TARGET)
    expect(truePeak(clip)).toBeLessThanOrEqual(-1)
    expect(gainReductionDb).toBeGreaterThan(1)
    expect(Math.abs(heardLoudness(clip) + 16)).toBeLessThan(0.3)
  })
  test('silence stays silence', () => {
    const quiet = new Float32Array(seconds(1))
    expect(levelled(quiet, TARGET)).toEqual({ clip: quiet, gainDb: 0, gainReductionDb: 0 })
  })
  test('what is level already is left where it is', () => {
    const { clip } = levelled(voice(0.1, seconds(3)), TARGET)
    expect(Math.abs(levelled(clip, TARGET).gainDb)).toBeLessThan(0.15)
  })
  test('evening out takes about half of the difference between a loud and a quiet passage', () => {
    const take = lay(lay(noise(0.0001, seconds(17), 4), voice(0.3, seconds(8)), 0), voice(0.1, seconds(8)), seconds(9))
    const difference = (x: Float32Array) => toDb(rms(x, seconds(2), seconds(6)) / rms(x, seconds(11), seconds(15)))
    const plain = levelled(take, TARGET).clip
    const evened = levelled(take, { ...TARGET, even: true }).clip
    expect(difference(plain)).toBeGreaterThan(9)
    expect(difference(evened)).toBeLessThan(difference(plain) * 0.65)
    expect(difference(evened)).toBeGreaterThan(difference(plain) * 0.35)
    expect(Math.abs(heardLoudness(evened) + 16)).toBeLessThan(0.3)
  })
})

describe('the limiter', () => {
  test('keeps every true peak under its ceiling, whatever comes', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1000 }),
        fc.double({ min: 0.1, max: 4, noNaN: true }),
        fc.integer({ min: 30, max: 20_000 }),
        fc.constantFrom(-1, -3, -6),
        (seed, loud, hz, ceiling) => {
          const x = lay(noise(0.2 * loud, 9600, seed), sine(hz, loud, 2000), 3000)
          expect(truePeak(limit(x, ceiling))).toBeLessThanOrEqual(ceiling)
        },
      ),
      { numRuns: 40 },
    )
  })
  test('comes back to rest within half a second', () => {
    const x = lay(voice(0.1, seconds(2)), sine(300, 1.5, 480), seconds(0.5))
    const y = limit(x, -1)
    for (let i = seconds(1.2); i < seconds(2); i++) expect(Math.abs(y[i]! - x[i]!)).toBeLessThan(Math.abs(x[i]!) * 0.005 + 1e-6)
  })
})
