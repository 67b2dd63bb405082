import { expect, test } from 'vitest'
import type { Reference } from './reference.ts'
import { onlySayings } from './sayings.ts'
import { snapWords } from './snap.ts'

/** Two sentences of two words, each word half a second. */
const reference: Reference = {
  words: [0, 1, 2, 3].map((n) => ({ sentence: n >> 1, index: n & 1, text: `w${n}`, start: 50 * n, end: 50 * n + 50 })),
  frames: 200,
  features: new Float32Array(0),
  sentences: [
    { first: 0, end: 2 },
    { first: 2, end: 4 },
  ],
}
const word = (n: number, start: number, end: number, cost: number) => ({ word: n, start, end, cost })
/** What costs nothing is certain, what costs 1 is not believed. */
const confidenceOf = (cost: number) => Math.max(0, 1 - cost)
const path = (costAgain: number) => ({
  words: [
    word(0, 0, 50, 0.1),
    word(1, 50, 100, 0.1),
    word(0, 150, 200, costAgain),
    word(1, 200, 250, costAgain),
    word(2, 400, 450, 0.7),
    word(3, 450, 500, 0.7),
  ],
  extra: [{ start: 260, end: 300 }],
  cost: 0.3,
})

test('a sentence that was said again is two sayings', () => {
  const { spans, strange } = onlySayings(path(0.3), reference, confidenceOf)
  expect(spans.map(({ sentence, confidence }) => [sentence, Number(confidence.toFixed(2))])).toEqual([
    [0, 0.9],
    [0, 0.7],
    [1, 0.3],
  ])
  expect(strange).toEqual([{ start: 260, end: 300 }])
})

test('what fits far worse than the saying beside it is something else, one with what is strange next to it', () => {
  const { spans, strange } = onlySayings(path(0.8), reference, confidenceOf)
  // a sentence that fits badly everywhere is not taken away: it was said, and is looked at
  expect(spans.map(({ sentence }) => sentence)).toEqual([0, 1])
  expect(strange).toEqual([{ start: 150, end: 300 }])
})

test('a word has no long silence within it: the piece beyond goes to the sentence that is nearer', () => {
  const active = new Uint8Array(600)
  // the end of the first sentence, a rest, the second sentence, whose last word took the first sound of a third
  for (const [from, to] of [
    [20, 110],
    [150, 260],
    [300, 312],
    [315, 400],
  ] as const)
    active.fill(1, from, to)
  const levels = Float32Array.from(active, (on) => (on ? -20 : -80))
  const snapped = snapWords(
    [[word(0, 20, 60, 0), word(1, 60, 100, 0)], [word(2, 102, 210, 0), word(3, 210, 312, 0)], [word(0, 315, 400, 0)]],
    active,
    levels,
    [],
  )
  expect(snapped.map((words) => [words[0]!.start, words.at(-1)!.end])).toEqual([
    [20, 110],
    [150, 260],
    [300, 400],
  ])
})
