import { expect, test } from 'vitest'
import { lecture, slide as slideOf } from '#tests/made/lecture.ts'
import { toSeconds } from './clocks.ts'
import { expectedLength, outliers, profileOf, type SlideProfile, wordsThatFit } from './profile.ts'
import { schedule } from './schedule.ts'

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

const words = (count: number) => Array.from({ length: count }, (_, i) => `word${i}`).join(' ')
const profiled = (...slides: ReturnType<typeof made>[]) => {
  const l = lecture(slides)
  return profileOf(l, schedule(l))
}
const made = (id: string, seconds: number, script: string, hidden = false) => slideOf(id, seconds, { script, hidden })

test('a slide has its place, hidden ones counted, its length, and what its script takes', () => {
  const [a, c] = profiled(made('a', 6, words(29)), made('b', 3, '', true), made('c', 0, ''))
  expect(a).toMatchObject({ slideId: 'a', number: 1, spoken: true })
  expect(a!.expectedSeconds).toBeGreaterThan(10)
  expect(a!.pace).toBeCloseTo(290, -1)
  expect(c).toMatchObject({ slideId: 'c', number: 3, spoken: false, expectedSeconds: null, pace: null })
})

test('fewer than twelve words make no pace', () => {
  expect(profiled(made('a', 6, words(11)))[0]!.pace).toBeNull()
  expect(profiled(made('a', 6, words(12)))[0]!.pace).not.toBeNull()
  expect(profiled(made('a', 0, words(12)))[0]!.pace).toBeNull()
})

test('the lecture will be as long as it is scheduled, and longer where a script that nobody has spoken says more', () => {
  const of = (...slides: ReturnType<typeof made>[]) => {
    const l = lecture(slides)
    const times = schedule(l)
    return { ...expectedLength(l, times), scheduled: toSeconds(times.lengthSamples) }
  }
  const spoken = of(made('a', 6, words(100)))
  expect(spoken).toMatchObject({ isGuess: false, seconds: spoken.scheduled })
  const short = of(made('a', 0, words(2)))
  expect(short).toMatchObject({ isGuess: false, seconds: short.scheduled })
  const guessed = of(made('a', 6, words(10)), made('b', 0, words(100)))
  expect(guessed.isGuess).toBe(true)
  const [, b] = profiled(made('a', 6, words(10)), made('b', 0, words(100)))
  expect(guessed.seconds).toBeCloseTo(guessed.scheduled + b!.expectedSeconds! - b!.seconds, 6)
})

test('of two slides none is far longer, and 20 s more are needed as well', () => {
  expect(outliers([slide(1, 10), slide(2, 100)])).toEqual([])
  expect(outliers([slide(1, 10), slide(2, 10), slide(3, 30)])).toEqual([])
  expect(outliers([slide(1, 10), slide(2, 10), slide(3, 30.1)])).toHaveLength(1)
  expect(outliers([slide(1, 100), slide(2, 100), slide(3, 220)])).toEqual([])
  expect(outliers([slide(1, 100), slide(2, 100), slide(3, 221)])).toHaveLength(1)
  expect(outliers([])).toEqual([])
})

test('110 and 160 words a minute are comfortable', () => {
  expect(outliers([slide(1, 30, 110), slide(2, 30, 160)])).toEqual([])
  expect(outliers([slide(1, 30, 109), slide(2, 30, 161)]).map((o) => [o.slideId, o.by])).toEqual([
    ['s1', 'pace'],
    ['s2', 'pace'],
  ])
})
