/** A take and what tidying makes of it. */
import { describe, expect, test } from 'vitest'
import { spectrumOf } from '#core/audio/denoise/bands.ts'
import { clean } from '#core/audio/denoise/denoise.ts'
import { firstNoise } from '#core/audio/denoise/noise-estimate.ts'
import { heardLoudness } from '#core/audio/loudness/loudness.ts'
import { truePeak } from '#core/audio/loudness/true-peak.ts'
import { declick } from '#core/audio/repair/clicks.ts'
import { findHum, removeHum } from '#core/audio/repair/hum.ts'
import { applyBiquad, highPass } from '#core/audio/signal/filters.ts'
import { rms, toDb } from '#core/audio/signal/pcm.ts'
import { roomLevel } from '#core/audio/speech/voice-activity.ts'
import { pauseCuts } from '#core/audio/tidy-up/trim-pauses.ts'
import { firstDifference, lay, madeTake, noise, seconds, sine, voice } from '#tests/made/sound.ts'
import { cleaningOf, cleanTake, tidyFresh } from './render.ts'

const level = (x: Float32Array, from: number, to: number) => toDb(rms(x, seconds(from), seconds(to)))
const speechOf = (x: Float32Array) => tidyFresh(x).analysis.speech.map((s) => ({ start: s.start / 48000, end: s.end / 48000 }))
const cleaned = (samples: Float32Array, strength: number, highPassHz: number | null = null) =>
  clean(samples, { strength, highPassHz, noise: null }).samples

describe('finding the voice', () => {
  test('both phrases are found and the click is not', () => {
    const { samples, phrases } = madeTake()
    const found = speechOf(samples)
    expect(found).toHaveLength(2)
    found.forEach((s, i) => {
      expect(Math.abs(s.start - phrases[i]!.start)).toBeLessThan(0.1)
      expect(Math.abs(s.end - phrases[i]!.end)).toBeLessThan(0.15)
      expect(s.start).toBeLessThanOrEqual(phrases[i]!.start + 0.01)
    })
  })
  test('a soft hiss at the start of a word stays inside', () => {
    const take = noise(0.0005, seconds(3), 3)
    lay(take, applyBiquad(noise(0.01, seconds(0.15), 5), highPass(5000, 48000)), seconds(1))
    lay(take, voice(0.3, seconds(1)), seconds(1.15))
    expect(speechOf(take)[0]!.start).toBeLessThanOrEqual(1.01)
  })
  test.each([0.001, 0.01, 0.1])('a room alone, at %f, has no voice in it', (room) =>
    expect(speechOf(noise(room, seconds(4)))).toEqual([]),
  )
  test('hum alone has no voice in it', () => {
    expect(speechOf(lay(noise(0.001, seconds(4)), sine(50, 0.05, seconds(4)), 0))).toEqual([])
  })
  test('words said to oneself at the very end are pointed out and not removed', () => {
    const take = noise(0.001, seconds(8), 3)
    lay(take, voice(0.3, seconds(3)), seconds(0.8))
    lay(take, voice(0.2, seconds(0.9), 4), seconds(5.6))
    const { analysis, tidyUp } = tidyFresh(take)
    expect(Math.abs(analysis.trailingUtterance!.start / 48000 - 5.6)).toBeLessThan(0.1)
    expect(tidyUp.kept.end / 48000).toBeGreaterThan(6.4)
  })
})

describe('cleaning', () => {
  test('pauses fall by 20 dB and the voice stays as loud', () => {
    const { samples } = madeTake({ room: 0.01, click: 0 })
    const y = cleaned(samples, 1)
    expect(level(samples, 2.7, 3.1) - level(y, 2.7, 3.1)).toBeGreaterThan(20)
    expect(Math.abs(level(samples, 1.1, 2.4) - level(y, 1.1, 2.4))).toBeLessThan(0.7)
  })
  test('strength 0 without any switch leaves every sample', () => {
    const { samples } = madeTake()
    expect(firstDifference(cleaned(samples, 0), samples)).toBe(-1)
  })
  test('stronger is quieter, in pauses and under words, at every step', () => {
    const { samples } = madeTake({ room: 0.01, click: 0 })
    const pauses = [0.1, 0.3, 0.5, 0.7, 0.9, 1].map((strength) => level(cleaned(samples, strength), 2.7, 3.1))
    for (const [i, db] of pauses.slice(1).entries()) expect(db).toBeLessThan(pauses[i]!)
  })
  test('a long take worked in blocks has no seam', () => {
    const x = noise(0.01, seconds(30), 4)
    for (const at of [2, 10, 18, 26]) lay(x, voice(0.3, seconds(3), at), seconds(at))
    const y = cleaned(x, 0.6)
    const jump = (i: number) => Math.abs(y[i]! - y[i - 1]!)
    const room = Math.max(...Array.from({ length: 4000 }, (_, i) => jump(seconds(9) + i)))
    // where blocks of 7.5 s meet
    for (const at of [7.5, 15, 22.5]) {
      for (let i = seconds(at) - 10; i < seconds(at + 0.03); i++) expect(jump(i)).toBeLessThan(room * 2 + 1e-4)
      expect(Math.abs(level(y, at - 1.2, at - 0.1) - level(y, at + 0.1, at + 1.2))).toBeLessThan(1)
    }
  })
  test('blocks that were left alone are joined without a trace', () => {
    const x = noise(0.01, seconds(24), 4)
    expect(firstDifference(cleaned(x, 0), x)).toBe(-1)
  })
  test('hum is gone on both sides of where blocks meet, and there', () => {
    const x = noise(0.0005, seconds(24), 4)
    for (const at of [2, 10, 18]) lay(x, voice(0.3, seconds(3), at), seconds(at))
    for (const h of [1, 2, 3]) lay(x, sine(50.04 * h, 0.02 / h, seconds(24)), 0)
    const recipe = { cleaning: 0, highPassHz: null, hum: true, clicks: false, roomTone: null }
    const y = cleanTake(x, recipe, findHum(x)).samples
    for (const [from, to] of [
      [6, 7],
      [7.2, 7.8],
      [7.49, 7.53],
      [14.6, 15.4],
      [14.99, 15.03],
      [22, 23],
    ] as const)
      expect(level(y, from, to)).toBeLessThan(level(x, from, to) - 20)
  })
  test('a room that was pointed at is heard there as it is heard in the whole', () => {
    const x = lay(noise(0.002, seconds(9), 4), voice(0.3, seconds(3), 1), seconds(1))
    const roomTone = { start: seconds(6.2), end: seconds(7.9) }
    const recipe = { cleaning: 1, highPassHz: null, hum: false, clicks: false, roomTone }
    const pointed = cleaningOf(x, recipe, null).noise!
    const inWhole = firstNoise(spectrumOf(x), roomTone)
    const apart = pointed.map((v, unit) => Math.abs(10 * Math.log10(v / inWhole[unit]!)))
    expect(Math.max(...apart)).toBeLessThan(0.5)
  })
  test('the high-pass takes rumble and does not shift the voice', () => {
    const y = cleaned(lay(voice(0.3, seconds(2)), sine(15, 0.3, seconds(2)), 0), 0, 70)
    const x = voice(0.3, seconds(2))
    const error = x.map((v, i) => v - y[i]!)
    expect(toDb(rms(error, seconds(0.5), seconds(1.5)) / rms(x, seconds(0.5), seconds(1.5)))).toBeLessThan(-12)
  })
})

describe('a take, tidied', () => {
  test('lead-in, tail and the click of the stop key are gone', () => {
    const { tidyUp } = tidyFresh(madeTake().samples)
    expect(tidyUp.kept.start / 48000).toBeGreaterThan(0.8)
    expect(tidyUp.kept.end / 48000).toBeLessThan(5)
  })
  test.each([0.02, 0.1, 0.5])('recorded at %f, it comes out at −16 LUFS under −1 dBTP', (loud) => {
    const { clip, figures } = tidyFresh(madeTake({ level: loud, room: loud / 300 }).samples)
    expect(Math.abs(heardLoudness(clip) + 16)).toBeLessThan(0.3)
    expect(truePeak(clip)).toBeLessThanOrEqual(-1)
    expect(figures.loudnessLufs).toBeCloseTo(-16, 0)
  })
  test('the clip is exactly as long as its recipe says, cuts and all', () => {
    const { samples } = madeTake()
    const { clip, tidyUp } = tidyFresh(samples, (t) => ({ ...t, cuts: [{ start: seconds(2.6), end: seconds(3.1) }] }))
    expect(clip.length).toBe(tidyUp.kept.end - tidyUp.kept.start - seconds(0.5))
  })
  test('a take with nobody speaking is kept whole', () => {
    const room = noise(0.001, seconds(2))
    expect(tidyFresh(room).tidyUp.kept).toEqual({ start: 0, end: room.length })
  })
  test('an empty take, a very short one and digital silence do not fail', () => {
    for (const samples of [new Float32Array(0), noise(0.1, seconds(0.2)), new Float32Array(seconds(1))])
      expect(tidyFresh(samples).analysis.speech).toEqual([])
  })
  test('samples that are no numbers are silence, and an offset of the zero line is taken away', () => {
    const { samples } = madeTake()
    const broken = samples.map((v, i) => (i % 5000 === 0 ? Number.NaN : v + 0.2))
    const { clip } = tidyFresh(broken)
    expect(clip.every(Number.isFinite)).toBe(true)
    expect(Math.abs(clip.reduce((sum, v) => sum + v, 0) / clip.length)).toBeLessThan(0.002)
  })
  test('full-scale runs are counted as clipped', () => {
    const x = sine(100, 1.5, seconds(0.5)).map((v) => Math.max(-1, Math.min(1, v)))
    expect(tidyFresh(x).analysis.clippedSamples).toBeGreaterThan(1000)
  })
  test('the level of the room is measured between the words', () => {
    const { samples } = madeTake({ room: 0.01, click: 0 })
    expect(roomLevel(samples, tidyFresh(samples).analysis.speech)).toBeCloseTo(-40, 0)
  })
})

describe('by hand', () => {
  test('a silenced passage is filled with the room and not with nothing', () => {
    const { samples } = madeTake({ room: 0.01, click: 0 })
    const { clip, tidyUp } = tidyFresh(samples, (t) => ({
      ...t,
      cleaning: 0,
      level: null,
      highPassHz: null,
      kept: { start: 0, end: samples.length },
      silenced: [{ start: seconds(1.2), end: seconds(2.2) }],
    }))
    expect(tidyUp.silenced).toHaveLength(1)
    expect(Math.abs(level(clip, 1.3, 2.1) - level(samples, 2.7, 3.1))).toBeLessThan(2)
  })
  test('a passage is made quieter by so many decibels', () => {
    const { samples } = madeTake()
    const plain = tidyFresh(samples, (t) => ({ ...t, level: null }))
    const quiet = tidyFresh(samples, (t) => ({
      ...t,
      level: null,
      gains: [{ stretch: { start: seconds(3.2), end: seconds(4.6) }, db: -6 }],
    }))
    const from = (3.4 * 48000 - plain.tidyUp.kept.start) / 48000
    expect(level(plain.clip, from, from + 1) - level(quiet.clip, from, from + 1)).toBeCloseTo(6, 1)
  })
  test('long pauses become as long as allowed, short ones stay', () => {
    const take = noise(0.001, seconds(9), 3)
    for (const at of [0.5, 2, 6]) lay(take, voice(0.3, seconds(1.2), at), seconds(at))
    const whole = tidyFresh(take)
    expect(whole.analysis.speech).toHaveLength(3)
    const longest = 0.6
    const [a, b, c] = whole.analysis.speech as [
      { start: number; end: number },
      { start: number; end: number },
      { start: number; end: number },
    ]
    const shortened = tidyFresh(take, (t, analysis) => ({ ...t, pauseCuts: pauseCuts(analysis.speech, longest) }))
    const gone = whole.clip.length - shortened.clip.length
    expect(gone).toBe(Math.max(0, b.start - a.end - seconds(longest)) + (c.start - b.end - seconds(longest)))
  })
})

describe('hum and clicks', () => {
  // the made-up voice is a steady 120 Hz buzz, the worst there is beside hum at 60 Hz
  test.each([
    [49.9, 1.5],
    [50.1, 1.5],
    [60, 6],
  ])('hum at %f Hz with harmonics is found and taken away', (hz, leftDb) => {
    const { samples } = madeTake({ room: 0.0005, click: 0 })
    const plain = samples.slice()
    for (const [h, amplitude] of [
      [1, 0.02],
      [2, 0.01],
      [3, 0.012],
      [5, 0.004],
    ] as const)
      lay(samples, sine(hz * h, amplitude, samples.length), 0)
    const found = findHum(samples)!
    expect(Math.abs(found - hz)).toBeLessThan(0.06)
    const y = removeHum(samples, found)
    expect(level(y, 0.1, 0.8)).toBeLessThan(level(plain, 0.1, 0.8) + leftDb)
    const error = plain.map((v, i) => v - y[i]!)
    expect(level(error, 1.1, 2.4)).toBeLessThan(level(plain, 1.1, 2.4) - 25)
  })
  test('the frequency of hum is known to a few thousandths of a hertz in a loud room, so that nothing of it is left a second away', () => {
    for (const [seed, hz] of [
      [7, 59.97],
      [8, 50.11],
    ] as const) {
      const samples = noise(0.006, seconds(12), seed)
      for (const at of [1, 4.5, 8]) lay(samples, voice(0.1, seconds(2.4), seed), seconds(at))
      for (const [h, amplitude] of [0.006, 0.0036, 0.002, 0.0013, 0.0008].entries())
        lay(samples, sine(hz * (h + 1), amplitude, samples.length), 0)
      expect(Math.abs(findHum(samples)! - hz)).toBeLessThan(0.0015)
    }
  })
  test('without hum none is found, whatever the voice', () => {
    expect(findHum(madeTake().samples)).toBeNull()
    expect(findHum(noise(0.1, seconds(4)))).toBeNull()
  })
  test('a click between words is turned down to the room', () => {
    const { samples } = madeTake({ click: 0.5 })
    const { speech } = tidyFresh(samples).analysis
    const y = samples.slice()
    declick(y, speech)
    expect(level(samples, 5.69, 5.71)).toBeGreaterThan(-15)
    expect(level(y, 5.69, 5.71)).toBeLessThan(-45)
    expect(level(y, 1, 2.5)).toBe(level(samples, 1, 2.5))
  })
})
