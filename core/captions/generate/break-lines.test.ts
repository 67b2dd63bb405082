import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { breakLines, captionRuns, captionTexts, piecesOf, widthOf } from './break-lines.ts'

describe('breaking lines', () => {
  const options = { language: 'en', lineCharacters: 37 }
  const sentence =
    'The funnel feeds an inner tube whose area is one tenth of the opening, so one inch of rain stands ten inches tall and is easy to read.'
  test('no caption is longer than two lines and no line longer than 37 characters', () => {
    for (const text of captionTexts(sentence, options)) {
      const lines = text.split('\n')
      expect(lines.length).toBeLessThanOrEqual(2)
      for (const line of lines) expect(line.length).toBeLessThanOrEqual(37)
    }
  })
  test('no word is lost', () => expect(captionTexts(sentence, options).join(' ').replaceAll('\n', ' ')).toBe(sentence))
  test('a line does not end with an article', () => {
    for (const line of captionTexts(sentence, options).flatMap((t) => t.split('\n'))) expect(line).not.toMatch(/ (the|an|a|of)$/)
  })
  test('a single very long word still comes through', () =>
    expect(captionTexts('x'.repeat(100), options)).toEqual(['x'.repeat(100)]))
  test.each([
    ['a number and its unit', 'It rained for many hours and the gauge had caught about 250 mm by the time we came.', /\d$/],
    [
      'a preposition and its phrase',
      'She put the ladder that she had brought along with her against the wall.',
      / (with|against|along)$/,
    ],
    ['an auxiliary and its verb', 'By the end of that long afternoon the farmers had emptied every gauge.', / had$/],
  ])('%s stay together', (_, text, torn) => {
    for (const line of captionTexts(text, options).flatMap((t) => t.split('\n'))) expect(line).not.toMatch(torn)
  })
  test('the lower line is the longer one where both would do', () => {
    const [upper, lower] = breakLines('one two three four five six seven eight nine', options).split('\n')
    expect(upper!.length).toBeLessThanOrEqual(lower!.length)
  })
  test('text that sets no spaces is broken between its words, two columns a character', () => {
    const text = '雨量計の漏斗は、開口部の十分の一の面積を持つ内側の管に水を導くので、一インチの雨は十インチの高さになります。'
    const made = captionTexts(text, { language: 'ja', lineCharacters: 37 })
    expect(made.join('').replaceAll('\n', '')).toBe(text)
    for (const line of made.flatMap((t) => t.split('\n'))) {
      expect(widthOf(line)).toBeLessThanOrEqual(37)
      expect(line).not.toMatch(/^[、。]/)
    }
  })
  test('a pause of the speaker is a good place', () => {
    const words = 'we emptied the gauge today and then yesterday we forgot about it completely again'.split(' ')
    const heard = words.map((_, i) => ({ start: i * 0.3 + (i > 5 ? 1 : 0), end: i * 0.3 + 0.28 + (i > 5 ? 1 : 0) }))
    const runs = captionRuns(piecesOf(words.join(' '), 'en', heard), { language: 'en', lineCharacters: 32 })
    expect(runs.some((run) => run.text.replace('\n', ' ').endsWith('and'))).toBe(false)
  })
  test('every word of any text comes out once, in lines that fit', () => {
    const word = fc.stringMatching(/^[a-z]{1,12}[,.]?$/)
    fc.assert(
      fc.property(fc.array(word, { minLength: 1, maxLength: 80 }), fc.integer({ min: 32, max: 42 }), (words, lineCharacters) => {
        const made = captionTexts(words.join(' '), { language: 'en', lineCharacters })
        expect(made.join(' ').replaceAll('\n', ' ')).toBe(words.join(' '))
        for (const text of made) {
          expect(text.split('\n').length).toBeLessThanOrEqual(2)
          for (const line of text.split('\n')) expect(line.length).toBeLessThanOrEqual(lineCharacters)
        }
      }),
    )
  })
})
