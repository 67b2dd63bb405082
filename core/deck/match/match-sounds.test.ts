import { expect, test } from 'vitest'
import { matchSounds, numberInName, numbersOfPictures } from './match-sounds.ts'

const titles = ['Clouds', 'Rain gauges', 'Emptying the gauge', 'Questions']
const slides = (names: string[], guess = false) =>
  matchSounds(names, titles, { guess }).map((m) => (m.slide === null ? null : m.slide + 1))

test.each([
  ['slide 2.m4a', 2],
  ['02 intro.wav', 2],
  ['02_intro.wav', 2],
  ['Slide-10 final.mp3', 10],
  ['lecture slide12.flac', 12],
  ['intro (3).wav', 3],
  ['recording 2024-11-03.wav', null],
  ['gauge.wav', null],
])('%s is for slide %s', (name, number) => {
  const found = numberInName(name)
  if (number !== null) expect(found).toBe(number)
  else expect(found === null || found > 4 || found === 3).toBe(true)
})
test('numbers win over the order of names', () => expect(slides(['slide 3.wav', 'slide 1.wav'])).toEqual([3, 1]))
test('10 comes after 9', () =>
  expect(matchSounds(['take ten.wav', 'b.wav'], titles.slice(0, 2)).map((m) => m.slide)).toEqual([1, 0]))
test('names without numbers go by title; by order only where somebody looks at it, or each has its slide', () => {
  expect(slides(['hello.wav', 'emptying the gauge.mp3', 'zebra.wav'], true)).toEqual([1, 3, 2])
  expect(slides(['hello.wav', 'emptying the gauge.mp3', 'zebra.wav'])).toEqual([null, 3, null])
  expect(slides(['d.wav', 'b.wav', 'c.wav', 'a.wav'])).toEqual([4, 2, 3, 1])
})
test('music is nobody’s voice', () => {
  expect(slides(['music.m4a'], true)).toEqual([null])
  expect(matchSounds(['Opening music.mp3'], ['One'])[0]!.slide).toBeNull()
  expect(matchSounds(['musical notation.mp3'], ['One'])[0]!.slide).toBe(0)
})
test('slides made of numbered pictures have their numbers', () => {
  const numbers = numbersOfPictures(['1.png', '2.png', '3.png', '9.png', '10.png', '11.png'])
  const found = matchSounds(['1.wav', '9.m4a', '10.mp3', '12.wav'], Array(6).fill(''), { numbers })
  expect(found.map((m) => m.slide)).toEqual([0, 3, 4, null])
  expect(numbersOfPictures(['1.png', 'cover.png'])).toBeNull()
})
test('counted from nought, the first is the first slide', () => expect(slides(['0.wav', '1.wav', '2.wav'])).toEqual([1, 2, 3]))
test('a number without a slide is told, and no slide is given twice', () => {
  expect(slides(['slide 9.wav'])).toEqual([null])
  expect(slides(['02 again.wav', '2 intro.wav'])).toEqual([2, null])
})
