import { expect, test } from 'vitest'
import { random } from '#tests/made/sound.ts'
import { DIMENSIONS } from './features.ts'
import { recoverSayings } from './recover.ts'
import type { Reference } from './reference.ts'
import { search } from './search.ts'
import { snapWords } from './snap.ts'
import { hasCompetingSegment, isTorn, onlySayings } from './utterances.ts'

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

/** A recording of sounds, each frame one of its own: `sounds` from one frame to another, played so many times slower. */
function recording(...pieces: { from: number; at: number; frames: number; pace: number }[]) {
  const frames = 600
  const features = new Float32Array(frames * DIMENSIONS)
  const active = new Uint8Array(frames)
  const tremble = random(5)
  for (const { from, at, frames: length, pace } of pieces)
    for (let n = 0; n < length; n++) {
      // a sound lasts five frames, and never comes twice the same
      const sound = random(1 + Math.floor((from + n / pace) / 5))
      active[at + n] = 1
      for (let d = 0; d < DIMENSIONS; d++) features[(at + n) * DIMENSIONS + d] = 3 * (sound() - 0.5) + (tremble() - 0.5)
    }
  return { features, active }
}
const path = {
  words: [
    word(0, 0, 50, 0.1),
    word(1, 50, 100, 0.1),
    word(0, 150, 210, 0.2),
    word(1, 210, 270, 0.2),
    word(2, 400, 450, 0.7),
    word(3, 450, 500, 0.7),
  ],
  offScript: [{ start: 280, end: 300 }],
  cost: 0.3,
}
const first = { from: 0, at: 0, frames: 100, pace: 1 }
const second = { from: 5000, at: 400, frames: 100, pace: 1 }

test('a sentence that was said again, slower and not quite the same, is two utterances', () => {
  const heard = recording(first, { from: 0, at: 150, frames: 120, pace: 1.2 }, second)
  const { spans, strange } = onlySayings(path, reference, heard, confidenceOf)
  expect(spans.map(({ sentence, confidence }) => [sentence, Number(confidence.toFixed(2))])).toEqual([
    [0, 0.9],
    [0, 0.8],
    [1, 0.3],
  ])
  expect(strange).toEqual([{ start: 280, end: 300 }])
})

test('what does not sound like the utterance beside it is something else, one with what is strange next to it', () => {
  const heard = recording(first, { from: 900, at: 150, frames: 120, pace: 1.2 }, second)
  const { spans, strange } = onlySayings(path, reference, heard, confidenceOf)
  // a sentence that was said once is not taken away, however badly it fits
  expect(spans.map(({ sentence }) => sentence)).toEqual([0, 1])
  expect(strange).toEqual([{ start: 150, end: 300 }])
})

test('a few words that fit well by chance do not take the place of the whole sentence', () => {
  const chance = { ...path, words: [word(0, 0, 50, 0), word(0, 150, 210, 0.2), word(1, 210, 270, 0.2), ...path.words.slice(4)] }
  const heard = recording({ ...first, from: 900, frames: 50 }, { from: 0, at: 150, frames: 120, pace: 1.2 }, second)
  const { spans, strange } = onlySayings(chance, reference, heard, confidenceOf)
  expect(spans.map(({ sentence, words }) => [sentence, words.length])).toEqual([
    [0, 2],
    [1, 2],
  ])
  expect(strange[0]).toEqual({ start: 0, end: 50 })
})

test('a beginning that fits badly is that of its sentence when it follows a rest and runs into the words', () => {
  const begun = {
    ...path,
    words: path.words.filter(({ start }) => start < 100 || start >= 400),
    offScript: [{ start: 300, end: 400 }],
  }
  const heard = (at: number) => recording(first, { from: 5000, at, frames: 500 - at, pace: 1 })
  const short = onlySayings(begun, reference, heard(350), confidenceOf)
  expect(short.spans[1]!.words[0]!.start).toBe(350)
  expect(short.strange).toEqual([{ start: 300, end: 350 }])
  // a whole second of it is something else
  const long = onlySayings(begun, reference, heard(290), confidenceOf)
  expect(long.spans[1]!.words[0]!.start).toBe(400)
  expect(long.strange).toEqual([{ start: 300, end: 400 }])
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

test.each([
  ['its last word stands at the next sentence', [word(0, 0, 50, 0), word(1, 90, 110, 0)], [word(2, 112, 160, 0)], true],
  ['its first word stands at the sentence before', [word(2, 112, 130, 0), word(3, 170, 250, 0)], [word(0, 0, 110, 0)], true],
  [
    'a pause for thought, and a rest after the last word',
    [word(0, 0, 50, 0), word(1, 90, 110, 0)],
    [word(2, 150, 200, 0)],
    false,
  ],
  ['sentences that follow at once', [word(0, 0, 50, 0), word(1, 52, 110, 0)], [word(2, 112, 160, 0)], false],
])('an utterance may be torn: %s', (_, words, other, torn) => expect(isTorn(words, other)).toBe(torn))

test('what no path went through is an utterance when it sounds like the one beside it, and else stays strange', () => {
  const spans = onlySayings(
    { ...path, words: path.words.filter(({ start }) => start !== 150 && start !== 210) },
    reference,
    recording(first, second),
    confidenceOf,
  ).spans
  const again = recoverSayings(
    spans,
    [{ start: 145, end: 275 }],
    reference,
    recording(first, { from: 0, at: 150, frames: 120, pace: 1.2 }, second),
    1,
  )
  expect(again.spans.map(({ sentence, words }) => [sentence, words[0]!.start, words.at(-1)!.end])).toEqual([
    [0, 0, 100],
    [0, 150, 270],
    [1, 400, 500],
  ])
  expect(again.strange).toEqual([])
  const other = recording(first, { from: 900, at: 150, frames: 120, pace: 1.2 }, second)
  expect(recoverSayings(spans, [{ start: 145, end: 275 }], reference, other, 1)).toEqual({
    spans,
    strange: [{ start: 145, end: 275 }],
  })
})

test('a sentence that was found nowhere is what stands in its place, if that is about as long; nobody is sure of it', () => {
  const heard = recording(first, { from: 900, at: 210, frames: 100, pace: 1 })
  const { spans } = onlySayings({ ...path, words: path.words.slice(0, 2) }, reference, heard, confidenceOf)
  const found = recoverSayings(spans, [{ start: 200, end: 320 }], reference, heard, 1)
  expect(found.strange).toEqual([])
  expect(found.spans[1]).toMatchObject({ sentence: 1, confidence: 0 })
  expect(found.spans[1]!.words.map(({ start, end }) => [start, end])).toEqual([
    [210, 260],
    [260, 310],
  ])
  // a second of something for what takes three
  expect(recoverSayings(spans, [{ start: 200, end: 320 }], reference, heard, 3).spans).toHaveLength(1)
})

test('a word that fits anything does not stand where nobody speaks', () => {
  // the second sentence was left out, and in silence nothing but the silence speaks against it
  const heard = recording({ from: 0, at: 20, frames: 100, pace: 1 })
  const features = new Float32Array(200 * DIMENSIONS)
  features.set(heard.features.subarray(20 * DIMENSIONS, 120 * DIMENSIONS))
  const costs = { silence: 0.3, unlike: 1, garbage: 0.7, garbageEntry: 9, skip: 24, repeat: 8, falseStart: 9, unrested: 6 }
  const { words } = search(heard.features, heard.active, { ...reference, features }, costs)
  expect(words.map((found) => found.word)).toEqual([0, 1])
})

test('strange speech as long as a doubtful sentence and beside it may be the sentence; what is short, or beyond the next one, is not', () => {
  const utterance = (sentence: number, at: number, confidence: number) => ({
    sentence,
    words: [word(2 * sentence, at, at + 50, 0.3), word(2 * sentence + 1, at + 50, at + 100, 0.3)],
    confidence,
  })
  const [needsReview, sure] = [utterance(0, 200, 0.6), utterance(0, 200, 0.9)]
  const next = utterance(1, 400, 1)
  expect(hasCompetingSegment(needsReview, undefined, next, [{ start: 20, end: 110 }])).toBe(true)
  expect(hasCompetingSegment(needsReview, undefined, next, [{ start: 305, end: 395 }])).toBe(true)
  expect(hasCompetingSegment(sure, undefined, next, [{ start: 20, end: 110 }])).toBe(false)
  expect(hasCompetingSegment(needsReview, undefined, next, [{ start: 20, end: 80 }])).toBe(false)
  expect(hasCompetingSegment(needsReview, undefined, next, [{ start: 520, end: 610 }])).toBe(false)
})
