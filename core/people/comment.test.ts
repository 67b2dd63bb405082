import { expect, test } from 'vitest'
import { lectureSeconds, toSamples } from '#core/timing/clocks.ts'
import { type Comment, momentOfComment, placeOfComment, talksOf } from './comment.ts'
import { holds, rightBySpace, rightOf } from './rights.ts'

const range = (start: number, end: number) => ({ start: toSamples(start), end: toSamples(end) })
const take = { id: 'take', tidyUp: { kept: range(2, 10), cuts: [range(4, 5)] } }
const slide = { keptTakeId: 'take', takes: [take] } as never
const scheduled = { startSamples: toSamples(30), leadSamples: toSamples(0.5), lengthSamples: toSamples(8) }

test('a comment stays on its word, whatever is trimmed before it', () => {
  // 3 s of the take are 1 s into the clip, after half a second of rest
  expect(momentOfComment({ takeId: 'take', at: 3 }, slide, scheduled)).toBeCloseTo(31.5, 9)
  expect(placeOfComment(lectureSeconds(31.5), slide, scheduled)).toEqual({ takeId: 'take', at: expect.closeTo(3, 9) })
  // after a cut of a second
  expect(momentOfComment({ takeId: 'take', at: 6 }, slide, scheduled)).toBeCloseTo(33.5, 9)
})

test('a comment on what was cut out, another take or the whole slide stands nowhere', () => {
  for (const one of [
    { takeId: 'take', at: 4.5 },
    { takeId: 'other', at: 3 },
    { takeId: null, at: null },
  ])
    expect(momentOfComment(one, slide, scheduled)).toBe(null)
  // and a moment of another slide is no place on this one
  expect(placeOfComment(lectureSeconds(29), slide, scheduled)).toBe(null)
  expect(placeOfComment(lectureSeconds(38), slide, scheduled)).toBe(null)
})

test('answers stand under what they answer, in the order they were made', () => {
  const one = (id: string, createdAt: number, answerTo: string | null = null) => ({ id, createdAt, answerTo }) as Comment
  const talks = talksOf([one('d', 4, 'a'), one('b', 2), one('a', 1), one('c', 3, 'a')])
  expect(talks.map(({ comment, answers }) => [comment.id, answers.map(({ id }) => id)])).toEqual([
    ['a', ['c', 'd']],
    ['b', []],
  ])
})

test('a right holds those before it; the most that was given counts; a reviewer never changes anything', () => {
  expect(holds('edit', 'comment')).toBe(true)
  expect(holds('comment', 'edit')).toBe(false)
  expect(holds(null, 'see')).toBe(false)
  expect(rightOf('teacher', ['see', 'edit'])).toBe('edit')
  expect(rightOf('teacher', [])).toBe(null)
  expect(rightOf('reviewer', ['own'])).toBe('comment')
  expect(rightOf('reviewer', ['see'])).toBe('see')
  expect(rightBySpace('manage')).toBe('edit')
  expect(rightBySpace('see')).toBe('see')
})
