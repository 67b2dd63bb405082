/** Where words are cut out: in the rests beside them, and where there are none, told. */
import { expect, test } from 'vitest'
import { toSamples } from '#core/timing/clocks.ts'
import { lay, noise, seconds, voice } from '#tests/made/sound.ts'
import { type Piece, piecesFor, placeCut, type WordCut } from './place-cut.ts'

/** Phrases in a quiet room, and where they are, seconds. */
function take(phrases: readonly [number, number][], length = 8) {
  const samples = noise(0.0005, seconds(length), 3)
  for (const [i, [start, end]] of phrases.entries()) lay(samples, voice(0.3, seconds(end - start), 5 + i), seconds(start))
  return samples
}

const place = (samples: Float32Array, words: WordCut) => {
  const pieces = piecesFor(words, samples.length).map(({ start, end }) => ({ from: start, samples: samples.slice(start, end) }))
  return placeCut(words, pieces as [Piece, Piece], samples.length)
}
const cut = (before: number | null, first: number, last: number, after: number | null): WordCut => ({
  before: before === null ? null : toSamples(before),
  first: toSamples(first),
  last: toSamples(last),
  after: after === null ? null : toSamples(after),
})

const THREE: [number, number][] = [
  [1, 2],
  [2.6, 3.6],
  [4.4, 5.4],
]

test('both edges lie in the rests, however far the aligner was off', () => {
  for (const off of [-0.06, 0, 0.06]) {
    const { cut: placed, isHeard } = place(take(THREE), cut(2 + off, 2.6 - off, 3.6 + off, 4.4 - off))
    expect(isHeard).toBe(false)
    expect(placed.start / 48_000).toBeGreaterThan(2.02)
    expect(placed.start / 48_000).toBeLessThan(2.58)
    expect(placed.end / 48_000).toBeGreaterThan(3.62)
    expect(placed.end / 48_000).toBeLessThan(4.38)
  }
})

test('of the rests on both sides one is left, no longer than the longer of them', () => {
  const { cut: placed } = place(take(THREE), cut(2, 2.6, 3.6, 4.4))
  const left = placed.start / 48_000 - 2 + (4.4 - placed.end / 48_000)
  expect(left).toBeGreaterThan(0.3)
  expect(left).toBeLessThan(0.81)
})

test('a click of the key in a rest does not draw the cut into a word', () => {
  const samples = lay(take(THREE), noise(0.2, seconds(0.01), 9), seconds(2.3))
  const { cut: placed } = place(samples, cut(2, 2.6, 3.6, 4.4))
  expect(placed.start / 48_000).toBeGreaterThan(2.02)
  expect(placed.start / 48_000).toBeLessThan(2.58)
})

test('in the middle of speech the cut stays near the words, and it is said that the join may be heard', () => {
  const { cut: placed, isHeard } = place(take([[1, 6]]), cut(2, 2, 3, 3))
  expect(isHeard).toBe(true)
  expect(Math.abs(placed.start / 48_000 - 2)).toBeLessThanOrEqual(0.08)
  expect(Math.abs(placed.end / 48_000 - 3)).toBeLessThanOrEqual(0.08)
})

test('with a rest on one side only, that side keeps no pause that the other never had', () => {
  const { cut: placed } = place(
    take([
      [1, 3],
      [4, 5],
    ]),
    cut(2, 2, 3, 4),
  )
  expect(placed.end / 48_000).toBeGreaterThan(3.9)
  expect(placed.end / 48_000).toBeLessThan(4)
})

test('the first words go with the silence before them, the last with the silence after them', () => {
  expect(place(take(THREE), cut(null, 1, 2, 2.6)).cut.start).toBe(0)
  expect(place(take(THREE), cut(3.6, 4.4, 5.4, null)).cut.end).toBe(seconds(8))
})

test('what nobody knows the words of is no silence: with no word known before it or after it, a sound goes alone', () => {
  const { cut: placed } = place(take(THREE), cut(null, 2.6, 3.6, null))
  expect(placed.start / 48_000).toBeGreaterThan(2)
  expect(placed.start / 48_000).toBeLessThan(2.6)
  expect(placed.end / 48_000).toBeGreaterThan(3.6)
  expect(placed.end / 48_000).toBeLessThan(4.4)
})

test('a take without a sample of silence is cut all the same', () => {
  const { cut: placed } = place(voice(0.3, seconds(4), 1), cut(1, 1, 2, 2))
  expect(placed.end).toBeGreaterThan(placed.start)
})
