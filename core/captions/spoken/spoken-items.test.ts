/** A take as a text: what stands in it, what of it is struck out, and what marking some of it means for the sound. */
import { describe, expect, test } from 'vitest'
import { toSamples } from '#core/timing/clocks.ts'
import { cutOfItems, itemsWithin, returnOfItems, type SpokenItem, spokenItems, struckItems, struckRun } from './spoken-items.ts'
import { wordsOfAlignment, wordsOfCues } from './spoken-words.ts'

const range = (start: number, end: number) => ({ start: toSamples(start), end: toSamples(end) })
/** Words of half a second, one each second. */
const items = (...texts: string[]): SpokenItem[] =>
  texts.map((text, i) => ({ kind: text === '–' ? 'pause' : 'script', text, start: i, end: i + 0.5, utterance: 0 }))
const recipe = (...cuts: [number, number][]) => ({ kept: range(0, 60), cuts: cuts.map(([a, b]) => range(a, b)), pauseCuts: [] })

test('all sayings stand in the order in which they are heard, each told what it is', () => {
  const span = (start: number, text: string, partial = false) => ({
    start,
    end: start + 1,
    partial,
    words: [{ k: 0, w: text, start, end: start + 1 }],
  })
  const words = wordsOfAlignment({
    sentences: [
      {
        i: 0,
        text: 'A',
        skipped: false,
        confidence: 1,
        needsReview: false,
        spans: [span(1, 'A', true), span(3, 'A'), span(5, 'A')],
      },
      { i: 1, text: 'B', skipped: false, confidence: 1, needsReview: false, spans: [span(7, 'B')] },
    ],
    offScript: [{ start: 4.1, end: 4.9 }],
  })
  expect(words.map(({ kind, text, utterance }) => [kind, text, utterance])).toEqual([
    ['beginning', 'A', 0],
    ['repeat', 'A', 1],
    ['unknown', '', 2],
    ['script', 'A', 3],
    ['script', 'B', 4],
  ])
})

test('words of captions lie one after the other, longer ones longer', () => {
  const words = wordsOfCues([{ start: 2, end: 4, text: 'to measuring\nit' }])
  expect(words.map(({ text }) => text)).toEqual(['to', 'measuring', 'it'])
  expect([words[0]!.start, words.at(-1)!.end]).toEqual([2, 4])
  expect(words[1]!.end - words[1]!.start).toBeCloseTo((2 * 9) / 13)
  expect(wordsOfCues([{ start: 0, end: 1, text: '  ' }])).toEqual([])
  // where some of them were heard they stand there, and what was corrected shares what is between
  const heard = [
    { text: 'read', start: 2.2, end: 2.4 },
    { text: 'the', start: 2.4, end: 2.5 },
    { text: 'gouge', start: 2.6, end: 3 },
    { text: 'at', start: 3.1, end: 3.2 },
    { text: 'the', start: 3.2, end: 3.3 },
    { text: 'bottom', start: 3.4, end: 3.8 },
  ]
  const corrected = wordsOfCues([{ start: 2, end: 4, text: 'Read the gauge\nat the bottom.' }], heard)
  expect(corrected.map(({ text, start, end }) => [text, start, end])).toEqual([
    ['Read', 2.2, 2.4],
    ['the', 2.4, 2.5],
    ['gauge', 2.5, 3.1],
    ['at', 3.1, 3.2],
    ['the', 3.2, 3.3],
    ['bottom.', 3.4, 3.8],
  ])
  // another's words are not its own
  expect(wordsOfCues([{ start: 9, end: 10, text: 'read' }], heard)).toMatchObject([{ start: 9, end: 10 }])
})

test('sounds and pauses stand between the words; a sound takes the place of words nobody knows', () => {
  const found = spokenItems({
    words: [
      { text: 'One', start: 0, end: 1, kind: 'script', utterance: 0 },
      { text: '', start: 2, end: 2.5, kind: 'unknown', utterance: 1 },
      { text: 'two', start: 6, end: 7, kind: 'script', utterance: 2 },
    ],
    sounds: [
      { kind: 'filled-pause', start: 2, end: 2.5, certainty: 0 },
      { kind: 'cough', start: 0.2, end: 0.6, certainty: 0 },
    ],
    slips: [{ kind: 'long-pause', start: 3, end: 5.5, text: '', words: null }],
  })
  expect(found.map(({ kind, utterance }) => [kind, utterance])).toEqual([
    ['script', 0],
    ['filled-pause', 0],
    ['pause', 0],
    ['script', 2],
  ])
})

describe('what is struck out', () => {
  test('is what is not heard for the greater part, by cuts and by curtains', () => {
    const five = items('a', 'b', 'c', 'd', 'e')
    expect(struckItems(five, recipe([1, 2.1]))).toEqual([false, true, false, false, false])
    expect(struckItems(five, { ...recipe([3.3, 3.4]), kept: range(0.9, 4.1) })).toEqual([true, false, false, false, true])
  })

  test('comes back as a whole, and alone where only a part of it is marked', () => {
    const five = items('a', 'b', 'c', 'd', 'e')
    const cuts = recipe([0.8, 3.7])
    const struck = struckItems(five, cuts)
    expect(struckRun(struck, 2)).toEqual({ first: 1, last: 3 })
    expect(struckRun(struck, 0)).toEqual({ first: 0, last: 0 })
    expect(returnOfItems(five, struck, { first: 1, last: 3 }, cuts)).toEqual(range(0.8, 3.7))
    expect(returnOfItems(five, struck, { first: 2, last: 2 }, cuts)).toEqual(range(2, 2.5))
  })
})

describe('what cutting means', () => {
  const six = items('a', 'b', '–', 'c', 'd', 'e')
  const nothing = six.map(() => false)

  test('words are told with those beside them', () => {
    expect(cutOfItems(six, nothing, { first: 4, last: 4 })).toEqual({
      words: { before: toSamples(3.5), first: toSamples(4), last: toSamples(4.5), after: toSamples(5) },
    })
    expect(cutOfItems(six, nothing, { first: 0, last: 5 })).toEqual({
      words: { before: null, first: 0, last: toSamples(5.5), after: null },
    })
  })

  test('a pause alone is cut where it is, and is no neighbour of words', () => {
    expect(cutOfItems(six, nothing, { first: 2, last: 2 })).toEqual({ cut: range(2, 2.5) })
    expect(cutOfItems(six, nothing, { first: 3, last: 3 })).toEqual({
      words: { before: toSamples(1.5), first: toSamples(3), last: toSamples(3.5), after: toSamples(4) },
    })
  })

  test('what is cut out already beside them goes with them, so that no scrap is left between', () => {
    const struck = [false, false, false, true, false, false]
    expect(cutOfItems(six, struck, { first: 4, last: 4 })).toEqual({
      words: { before: toSamples(1.5), first: toSamples(3), last: toSamples(4.5), after: toSamples(5) },
    })
  })
})

test('a stretch of sound marks the items that lie for the greater part in it', () => {
  const five = items('a', 'b', 'c', 'd', 'e')
  expect(itemsWithin(five, range(0.9, 2.3))).toEqual({ first: 1, last: 2 })
  expect(itemsWithin(five, range(0.6, 0.9))).toBeNull()
})
