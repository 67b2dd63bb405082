/** Spans to be captioned by ear. */
import { expect, test } from 'vitest'
import { spansByEar } from './caption-by-ear.ts'

const spans = (...speech: [number, number][]) =>
  spansByEar(speech.map(([start, end]) => ({ start, end }))).map((s) => [s.start, s.end])

test('speech that goes on after a breath is one span, up to four seconds', () => {
  expect(spans([1, 2], [2.3, 3])).toEqual([[1, 3]])
  expect(spans([1, 2], [2.34, 5])).toEqual([[1, 5]])
  expect(spans([1, 2], [2.3, 5.1])).toEqual([
    [1, 2],
    [2.3, 5.1],
  ])
})
test('a rest of a third of a second ends one', () =>
  expect(spans([1, 2], [2.36, 3])).toEqual([
    [1, 2],
    [2.36, 3],
  ]))
test('long speech without a rest is divided evenly, none longer than six seconds', () => {
  expect(spans([2, 8])).toEqual([[2, 8]])
  expect(spans([2, 10])).toEqual([
    [2, 6],
    [6, 10],
  ])
  expect(spans([0, 9], [10, 11])).toEqual([
    [0, 3],
    [3, 6],
    [6, 9],
    [10, 11],
  ])
})
test('where nobody speaks there is none', () => expect(spans()).toEqual([]))
