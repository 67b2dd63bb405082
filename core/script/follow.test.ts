import { describe, expect, test } from 'vitest'
import { random } from '#tests/made/sound.ts'
import { FOLLOWING, follow } from './follow.ts'

const STEP = 0.05

/** A speaker reads sentences, some faster and some slower, with rests inside and between. @returns share of speech in which the sentence was told rightly */
function told(seed: number, rate: number, inner: number): number {
  const next = random(seed)
  const lengths = Array.from({ length: 12 }, () => 1 + next() * 6)
  let state = FOLLOWING
  let [right, all] = [0, 0]
  const pass = (seconds: number, speaking: boolean, sentence: number) => {
    for (let t = 0; t < seconds; t += STEP) {
      if (speaking) {
        all++
        if (state.sentence === sentence) right++
      }
      state = follow(state, lengths, speaking, STEP)
    }
  }
  for (const [i, length] of lengths.entries()) {
    const spoken = length * rate * (0.85 + 0.3 * next())
    const pieces = 1 + Math.floor(spoken / 2.5)
    for (let p = 0; p < pieces; p++) {
      pass(spoken / pieces, true, i)
      if (p < pieces - 1) pass(inner * (0.6 + 0.8 * next()), false, i)
    }
    pass(0.4 + 0.6 * next(), false, i)
  }
  return right / all
}

describe('following a speaker through a script', () => {
  test.each([
    ['at the expected rate', 1],
    ['slowly', 1.35],
    ['fast', 0.75],
  ])('%s, most of what is said is told rightly', (_, rate) => {
    const shares = Array.from({ length: 40 }, (_, seed) => told(seed + 1, rate, 0.18)).sort((a, b) => a - b)
    expect(shares[20]).toBeGreaterThan(0.9)
    expect(shares[4]).toBeGreaterThan(0.5)
  })
  test('it waits in a long rest, and goes no further than the last sentence', () => {
    let state = FOLLOWING
    for (let t = 0; t < 3; t += STEP) state = follow(state, [3, 3], true, STEP)
    for (let t = 0; t < 60; t += STEP) state = follow(state, [3, 3], false, STEP)
    expect(state.sentence).toBe(1)
    for (let t = 0; t < 60; t += STEP) state = follow(state, [3, 3], true, STEP)
    expect(state.sentence).toBeLessThanOrEqual(2)
  })
})
