import fc from 'fast-check'
import { expect, test } from 'vitest'
import { mergeTexts, placeIn } from './merge-texts.ts'

const BASE = 'Lower the stick gently. If you drop it, water climbs the wood. Read the line.'

test('changes of different words come together', () => {
  expect(mergeTexts(BASE, BASE.replace('gently', 'slowly'), BASE.replace('the line', 'that line twice'))).toBe(
    'Lower the stick slowly. If you drop it, water climbs the wood. Read that line twice.',
  )
  expect(mergeTexts(BASE, `${BASE} Write it down.`, `At seven: ${BASE}`)).toBe(`At seven: ${BASE} Write it down.`)
  expect(mergeTexts(BASE, BASE.replace(' If you drop it, water climbs the wood.', ''), BASE.replace('line', 'mark'))).toBe(
    'Lower the stick gently. Read the mark.',
  )
})

test('the same words changed in two ways are for somebody to choose', () => {
  expect(mergeTexts(BASE, BASE.replace('gently', 'slowly'), BASE.replace('gently', 'softly'))).toBe(null)
  expect(mergeTexts(BASE, '', BASE.replace('gently', 'softly'))).toBe(null)
  expect(mergeTexts('', 'mine', 'theirs')).toBe(null)
  // both did the same
  expect(mergeTexts(BASE, BASE.replace('gently', 'slowly'), BASE.replace('gently', 'slowly'))).toBe(
    BASE.replace('gently', 'slowly'),
  )
})

test('scripts without spaces come together too', () => {
  expect(
    mergeTexts('雲の形を見て、天気を知ります。', '白い雲の形を見て、天気を知ります。', '雲の形を見て、明日の天気を知ります。'),
  ).toBe('白い雲の形を見て、明日の天気を知ります。')
})

const text = fc
  .array(fc.constantFrom('rain', 'snow', 'on', 'the', 'roof', '.', '\n', '雲', 'غيوم'))
  .map((words) => words.join(' '))

test('one change alone stays as it is, whatever it is; and who comes first does not count', () => {
  fc.assert(
    fc.property(text, text, text, (base, mine, theirs) => {
      expect(mergeTexts(base, mine, base)).toBe(mine)
      expect(mergeTexts(base, base, theirs)).toBe(theirs)
      expect(mergeTexts(base, mine, theirs)).toBe(mergeTexts(base, theirs, mine))
    }),
  )
})

test('the place where one types stays behind its words', () => {
  expect(placeIn('one two', 'zero one two', 7)).toBe(12)
  expect(placeIn('one two', 'one two three', 7)).toBe(7)
  expect(placeIn('one two', 'one and two', 3)).toBe(3)
  expect(placeIn('one two', 'one and two', 5)).toBe(9)
  expect(placeIn('one two', '', 5)).toBe(0)
  fc.assert(
    fc.property(text, text, fc.nat(), (from, to, at) => {
      const place = placeIn(from, to, Math.min(at, from.length))
      expect(place).toBeGreaterThanOrEqual(0)
      expect(place).toBeLessThanOrEqual(to.length)
    }),
  )
})
