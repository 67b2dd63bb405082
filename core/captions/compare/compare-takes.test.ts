/** Sentences of takes, to be compared. */
import { expect, test } from 'vitest'
import type { AlignedSentence, SentenceSpan } from '#core/captions/align/align.ts'
import { saidSentences, sideBySide } from './compare-takes.ts'

const span = (start: number, end: number, partial = false): SentenceSpan => ({ start, end, partial, words: [] })
const aligned = (text: string, spans: SentenceSpan[]): AlignedSentence => ({
  i: 0,
  text,
  skipped: spans.length === 0,
  confidence: 1,
  needsReview: false,
  spans,
})
const said = (text: string, start = 0) => ({ text, start, end: start + 1 })

test('a sentence that was said twice stands where it counts, one that was left out not at all', () => {
  const sentences = [
    aligned('Once.', [span(1, 2)]),
    aligned('Twice.', [span(3, 4), span(5, 6), span(7, 7.5, true)]),
    aligned('Never.', []),
  ]
  expect(saidSentences({ sentences, offScript: [] })).toEqual([
    { text: 'Once.', start: 1, end: 2 },
    { text: 'Twice.', start: 5, end: 6 },
  ])
})

test('sentences of two takes stand side by side, and what one of them lacks stays in its place', () => {
  const rows = sideBySide([said('A'), said('C'), said('D')], [said('A', 2), said('B', 4), said('C', 6), said('E', 8)])
  expect(rows.map(({ text, in: [a, b] }) => [text, a !== null, b !== null])).toEqual([
    ['A', true, true],
    ['B', false, true],
    ['C', true, true],
    ['D', true, false],
    ['E', false, true],
  ])
})

test('a sentence that stands twice in the script is told twice', () => {
  const rows = sideBySide([said('Look.', 1), said('Look.', 5)], [said('Look.', 2), said('Look.', 9)])
  expect(rows.map(({ in: [a, b] }) => [a!.start, b!.start])).toEqual([
    [1, 2],
    [5, 9],
  ])
})
