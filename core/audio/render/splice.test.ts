import { describe, expect, test } from 'vitest'
import { rms, toDb } from '#core/audio/signal/pcm.ts'
import { firstDifference, lay, noise, seconds, voice } from '#tests/made/sound.ts'
import { patchTake, sentenceStretch } from './splice.ts'

const s = seconds
const stretch = (start: number, end: number) => ({ start: s(start), end: s(end) })
const speech = [stretch(0.5, 2), stretch(3, 4.5), stretch(5.5, 7)]
const take = () =>
  speech.reduce((all, one, i) => lay(all, voice(0.3, one.end - one.start, i + 1), one.start), noise(0.001, s(8), 5))

describe('a sentence said again', () => {
  const again = { samples: lay(noise(0.001, s(4), 6), voice(0.1, s(2), 9), s(1)), speech: [stretch(1, 3)] }
  const replaced = sentenceStretch(stretch(3.05, 4.4), speech, s(8))
  test('takes the place from pause to pause', () => {
    expect(replaced.start).toBeGreaterThan(s(2))
    expect(replaced.start).toBeLessThan(s(3))
    expect(replaced.end).toBeGreaterThan(s(4.4))
    expect(replaced.end).toBeLessThan(s(5.5))
    expect(sentenceStretch(stretch(0.5, 2), speech, s(8)).start).toBe(0)
    expect(sentenceStretch(stretch(5.5, 7), speech, s(8)).end).toBe(s(8))
  })
  test('without a pause it begins with its first word and ends with its last', () => {
    expect(sentenceStretch(stretch(3.6, 4), speech, s(8))).toEqual(stretch(3.6, 4))
  })
  test('is as loud as what it replaces, and leaves the rest as it was', () => {
    const before = take()
    const { samples, placed } = patchTake({ samples: before, speech }, again, replaced)
    const heard = toDb(rms(samples, placed.start + s(0.12), placed.end - s(0.12)))
    expect(heard).toBeCloseTo(toDb(rms(before, s(3), s(4.5))), 0)
    expect(firstDifference(samples.subarray(0, replaced.start - s(0.02)), before.subarray(0, replaced.start - s(0.02)))).toBe(-1)
    expect(firstDifference(samples.subarray(placed.end + s(0.02)), before.subarray(replaced.end + s(0.02)))).toBe(-1)
  })
  test('joins without a click', () => {
    const { samples, placed } = patchTake({ samples: take(), speech }, again, replaced)
    for (const at of [placed.start, placed.end]) {
      let largest = 0
      for (let i = at - s(0.02); i < at + s(0.02); i++) largest = Math.max(largest, Math.abs(samples[i]! - samples[i - 1]!))
      expect(largest).toBeLessThan(0.02)
    }
  })
  test('with nobody speaking changes nothing', () => {
    const before = take()
    expect(patchTake({ samples: before, speech }, { samples: noise(0.001, s(2)), speech: [] }, replaced).samples).toBe(before)
  })
})
