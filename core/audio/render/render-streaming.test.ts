import { expect, test } from 'vitest'
import { firstDifference, lay, noise, seconds, voice } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'
import { tidyFresh, usualCleaning } from './render.ts'
import { tidyLong } from './render-streaming.ts'

const longTest = test.runIf(IS_LONG)

/** 66 s, so that chunks meet twice: a voice now loud, now soft, clicks between words, a knock that is limited. */
function lecture(): Float32Array {
  const take = noise(0.002, seconds(66), 4)
  for (let at = 1, n = 0; at < 63; at += 4, n++) lay(take, voice(n % 3 === 0 ? 0.3 : 0.05, seconds(2.4)), seconds(at))
  for (let at = 4; at < 63; at += 8) take.fill(0.4, seconds(at), seconds(at) + 40)
  lay(take, voice(0.9, seconds(0.3)), seconds(29.8))
  return take
}

longTest('a long take is tidied as one in memory is, wherever its chunks meet', () => {
  const take = lecture()
  const whole = tidyFresh(take)
  const read: number[] = []
  const pieces = {
    length: take.length,
    subarray: (from: number, to: number) => {
      read.push(to - from)
      return take.slice(from, to)
    },
  }
  const long = tidyLong(
    pieces,
    { cleaning: usualCleaning(), kept: 'suggested', level: whole.tidyUp.level },
    (length) => new Float32Array(length),
  )
  expect(long.tidyUp).toEqual(whole.tidyUp)
  expect(long.analysis).toEqual(whole.analysis)
  expect(long.clip.length).toBe(whole.clip.length)
  expect(long.gainReductionDb).toBeGreaterThan(0.1)
  expect(long.gainReductionDb).toBeCloseTo(whole.gainReductionDb, 3)
  const clip = long.clip.subarray(0, long.clip.length)
  let most = 0
  for (let i = 0; i < clip.length; i++) most = Math.max(most, Math.abs(clip[i]! - whole.clip[i]!))
  expect(most).toBeLessThan(1e-4)
  expect(long.figures).toEqual(whole.figures)
  // in pieces, but for its beginning, in which hum is sought
  expect(read.filter((length) => length > seconds(35))).toHaveLength(1)
})

test('what is not wanted is left out: its whole length, and its loudness', () => {
  const take = lecture().subarray(0, seconds(20))
  const { clip, tidyUp, gainDb } = tidyLong(
    take,
    { cleaning: { ...usualCleaning(), cleaning: 0, highPassHz: null, clicks: false, hum: false }, kept: null, level: null },
    (length) => new Float32Array(length),
  )
  expect([clip.length, tidyUp.kept.end, gainDb]).toEqual([take.length, take.length, 0])
  // at strength 0 and without switches it is what was recorded, but for the soft edges
  const inside = [clip, take].map((sound) => sound.subarray(seconds(1), seconds(19)))
  expect(firstDifference(inside[0]!, inside[1]!)).toBe(-1)
})
