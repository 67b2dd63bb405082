import { expect, test } from 'vitest'
import { outliers, type SlideProfile, wordsThatFit } from './profile.ts'

const slide = (number: number, seconds: number, pace: number | null = 140): SlideProfile => ({
  slideId: `s${number}`,
  number,
  seconds,
  expectedSeconds: null,
  pace,
  spoken: true,
})

test('nothing stands out among slides that are alike', () =>
  expect(outliers([slide(1, 30), slide(2, 40), slide(3, 25), slide(4, 38)])).toEqual([]))
test('a slide far longer than the rest is named, with how much', () =>
  expect(outliers([slide(1, 30), slide(2, 120), slide(3, 40), slide(4, 38)])).toEqual([
    { slideId: 's2', by: 'length', sentence: 'Slide 2 is 3.0 times as long as most' },
  ]))
test('hasty and slow slides are named, the worst first, three at most', () => {
  const found = outliers([slide(1, 30, 90), slide(2, 30, 250), slide(3, 30, 165), slide(4, 30, 170), slide(5, 30, null)])
  expect(found.map((o) => o.sentence)).toEqual([
    'Slide 2 is spoken fast: 250 words a minute',
    'Slide 1 is spoken slowly: 90 words a minute',
    'Slide 4 is spoken fast: 170 words a minute',
  ])
})
test('48 words fit into 20 s at 145 a minute', () => expect(wordsThatFit(20, 145)).toBe(48))
