import { describe, expect, test } from 'vitest'
import { toSeconds } from '#core/timing/clocks.ts'
import { findSpeech, SPEAKING_HOP } from './voice-activity.ts'

/** Probabilities: so many steps of each. */
const steps = (...parts: [probability: number, count: number][]) =>
  Float32Array.from(parts.flatMap(([probability, count]) => Array<number>(count).fill(probability)))
const seconds = (count: number) => toSeconds(count * SPEAKING_HOP)
const found = (probability: Float32Array) =>
  findSpeech(probability, probability.length * SPEAKING_HOP).map(({ start, end }) => ({
    start: toSeconds(start),
    end: toSeconds(end),
  }))

describe('speech', () => {
  test('is followed to its soft edges', () => {
    const [stretch] = found(steps([0, 50], [0.2, 3], [1, 40], [0.2, 3], [0, 50]))
    expect(stretch!.start).toBeLessThanOrEqual(seconds(50))
    expect(stretch!.end).toBeGreaterThanOrEqual(seconds(96))
  })
  test('is not followed far into what is unlikely: the room may hum a little like a voice', () => {
    const [stretch] = found(steps([0, 50], [0.2, 30], [1, 40], [0.2, 30], [0, 50]))
    expect(stretch!.start).toBeGreaterThan(seconds(80) - 0.08)
    expect(stretch!.end).toBeLessThan(seconds(120) + 0.1)
  })
  test('must be sure somewhere: what is likely for long is not enough', () => {
    expect(found(steps([0, 50], [0.7, 60], [0, 50]))).toEqual([])
    expect(found(steps([0, 50], [0.7, 30], [0.95, 8], [0.7, 30], [0, 50]))).toHaveLength(1)
  })
  test('what is sure for a step here and there is a click and the end of the recording after it', () => {
    expect(found(steps([0, 50], [0.5, 6], [0.97, 2], [0.3, 4], [0.99, 2], [0.5, 9], [0.95, 2], [0.5, 6], [0, 20]))).toEqual([])
  })
  test('reaches to a stop that is let go after the mouth was shut; a click well after a word is none of it', () => {
    const ends = (closed: number) =>
      found(steps([0, 50], [1, 40], [0, closed], [0.7, 1], [0.99, 3], [0.7, 1], [0, 90])).map((s) => s.end)
    expect(ends(5)[0]).toBeGreaterThan(seconds(50 + 40 + 5 + 5))
    expect(ends(12)[0]).toBeLessThan(seconds(50 + 40 + 8))
  })
  test('a key click is none, a word of a fifth of a second is', () => {
    expect(found(steps([0, 50], [1, 5], [0, 50]))).toEqual([])
    expect(found(steps([0, 50], [1, 20], [0, 50]))).toHaveLength(1)
  })
})
