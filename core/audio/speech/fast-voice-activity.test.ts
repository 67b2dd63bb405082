import { describe, expect, test } from 'vitest'
import { analyse } from '#core/audio/analysis/analyse.ts'
import { studyMicrophone, verdictOf } from '#core/recording/microphone-check.ts'
import { lay, noise, seconds, sine, voice } from '#tests/made/sound.ts'
import { pickUpPoint, quickSpeech, wrongStretch } from './fast-voice-activity.ts'

const spoken = (room: number, spans: [number, number][], length: number) =>
  spans.reduce(
    (take, [from, to], i) => lay(take, voice(0.3, seconds(to - from), i + 1), seconds(from)),
    noise(room, seconds(length), 9),
  )
const s = seconds
const stretch = (start: number, end: number) => ({ start: s(start), end: s(end) })

describe('speech found at once', () => {
  test.each([0.0005, 0.004, 0.012])('sentences are told apart in a room of %s', (room) => {
    const found = quickSpeech(
      spoken(
        room,
        [
          [0.8, 2.6],
          [3.4, 5.1],
          [5.8, 7],
        ],
        8,
      ),
    )
    expect(found).toHaveLength(3)
    for (const [i, at] of [0.8, 3.4, 5.8].entries()) expect(Math.abs(found[i]!.start / 48_000 - at)).toBeLessThan(0.08)
  })
  test('a room alone is no speech', () => expect(quickSpeech(noise(0.0006, s(4), 3))).toEqual([]))
  test('a slip is taken up again in the pause before it; twice goes further back', () => {
    const speech = [stretch(1, 3), stretch(4, 6), stretch(7, 8)]
    expect(pickUpPoint(speech)).toBe(s(6.5))
    expect(pickUpPoint(speech, s(6.5))).toBe(s(3.5))
    expect(pickUpPoint(speech, s(3.5))).toBe(0)
    expect(pickUpPoint([])).toBe(0)
  })
  test('“that was wrong” is about what was said last', () => {
    const speech = [stretch(1, 3), stretch(4, 6), stretch(7, 8)]
    expect(wrongStretch(speech, s(6.4), s(9))).toEqual(stretch(3.5, 6.5))
    expect(wrongStretch(speech, s(7.5), s(9))).toEqual(stretch(6.5, 9))
    expect(wrongStretch(speech, s(0.5), s(9))).toBeNull()
  })
})

describe('a microphone and its room', () => {
  const verdict = (samples: Float32Array, humHz: number | null = null) => {
    const speech = quickSpeech(samples)
    const probability = new Float32Array(Math.ceil(samples.length / 480))
    const analysis = { ...analyse(samples, probability, humHz), speech }
    // the room between the words, as the analysis of a real take tells it
    const quiet = samples.subarray(0, s(0.6))
    const noiseFloorDb = 20 * Math.log10(Math.sqrt(quiet.reduce((sum, x) => sum + x * x, 0) / quiet.length))
    return verdictOf(studyMicrophone(samples, { ...analysis, noiseFloorDb }))
  }
  const sentence = (room: number, level = 1) =>
    spoken(
      room,
      [
        [0.8, 2.6],
        [3.6, 5.4],
      ],
      6.5,
    ).map((x) => x * level)
  test('a quiet room and a near voice are good', () => expect(verdict(sentence(0.0005))).toMatchObject({ grade: 'good' }))
  test('a loud room is told in decibels, and what to do', () => {
    expect(verdict(sentence(0.03))).toMatchObject({ grade: 'bad', says: expect.stringMatching(/^Your room is \d+ dB too loud/) })
  })
  test('nobody speaking', () => expect(verdict(noise(0.0005, s(5), 2))).toMatchObject({ says: 'No voice was heard.' }))
  test('peaks cut off', () => {
    const loud = sentence(0.0005, 8).map((x) => Math.max(-1, Math.min(1, x)))
    expect(verdict(loud)).toMatchObject({ grade: 'bad', says: expect.stringContaining('cut off') })
  })
  test('a faint voice', () => expect(verdict(sentence(0.00003, 0.03))).toMatchObject({ says: 'Your voice is faint.' }))
  test('mains hum', () => {
    const hum = sine(50, 0.0008, s(6.5))
    expect(
      verdict(
        sentence(0.0003).map((x, i) => x + hum[i]!),
        50,
      ),
    ).toMatchObject({ says: expect.stringContaining('50 Hz') })
  })
  test('a room that answers', () => {
    const dry = sentence(0.0002)
    const wet = Float32Array.from(dry)
    // a tail that dies by 60 dB in 1.4 s
    const tail = noise(1, s(1), 5).map((v, t) => v * 0.05 * 10 ** ((-3 * t) / s(1.4)))
    for (let i = 0; i < dry.length; i += 97)
      if (Math.abs(dry[i]!) > 0.01)
        for (let t = 960; t < tail.length && i + t < wet.length; t += 3) wet[i + t]! += dry[i]! * tail[t]!
    expect(verdict(wet)).toMatchObject({ says: 'The room answers with an echo.' })
  })
})
