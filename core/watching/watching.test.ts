import { expect, test } from 'vitest'
import { mostAt, nothingWatched, withReport } from './watching.ts'

test('passes are added up by stretches of five seconds, a last one that is shorter as well', () => {
  const once = withReport(nothingWatched(12), { passes: [[0, 12]], back: [], left: null }, 12)
  expect(once.played).toEqual([1, 1, 1])
  const more = withReport(
    once,
    {
      passes: [
        [2.5, 7.5],
        [11, 12],
      ],
      back: [3, 11.9],
      left: 7.4,
    },
    12,
  )
  expect(more.played).toEqual([1.5, 1.5, 1.5])
  expect(more.back).toEqual([1, 0, 1])
  expect(more.left).toEqual([0, 1, 0])
})
test('what lies outside the lecture counts nothing', () => {
  const found = withReport(
    nothingWatched(10),
    {
      passes: [
        [8, 50_000],
        [6, 2],
      ],
      back: [10, 99_999],
      left: 11,
    },
    10,
  )
  expect(found.played).toEqual([0, 0.4])
  expect([...found.back, ...found.left]).toEqual([0, 0, 0, 0])
})
test('the slide that most go back to is told, where it is no chance', () => {
  expect(mostAt([0, 1, 0, 2, 1, 0], [0, 14, 25])).toBe(1)
  expect(mostAt([0, 1, 0, 1, 0, 0], [0, 14, 25])).toBeNull()
})
