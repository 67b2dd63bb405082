import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { breakCost, breakLines, captionRuns, captionTexts, isForbidden, type Piece, piecesOf, widthOf } from './break-lines.ts'
import { isQuantity, leans, opensClause } from './function-words.ts'

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

// DCMP Captioning Key, "Line division", and BBC Subtitle Guidelines, "Line breaks", say what goes with what; the numbers are ours
describe('where text may be broken', () => {
  const piece = (text: string, start?: number): Piece => ({
    text,
    spaced: true,
    heard: start === undefined ? null : { start, end: start + 1 },
  })
  const cost = (before: string, after: string) => breakCost(piece(before), piece(after), 'en')
  test.each(['rain.', 'rain!', 'rain?', 'rain…', '雨。', 'rain.”', 'rain.)', 'rain?"'])('%s ends a sentence', (word) =>
    expect(cost(word, 'Then')).toBe(0),
  )
  test.each(['rain,', 'rain;', 'rain:', 'rain –', '雨、', 'rain,”', 'rain,)'])('%s ends a part', (word) =>
    expect(cost(word, 'it')).toBe(2),
  )
  test.each(['a.m', 'e,g', 'rain'])('%s ends nothing', (word) => expect(cost(word, 'fell')).toBe(10))
  test('before a word that opens a clause it is easier', () => {
    expect(cost('rain', 'because')).toBe(5)
    expect(cost('rain', '(because')).toBe(5)
    expect(cost('rain', 'because”')).toBe(5)
  })
  test('after a pause of the speaker it is easier, but what belongs together still does', () => {
    const paused = (pause: number, before: string, next: string) => breakCost(piece(before, 0), piece(next, 1 + pause), 'en')
    expect([0, 0.25, 0.26].map((pause) => paused(pause, 'rain', 'fell'))).toEqual([10, 10, 4])
    expect(paused(0.5, 'rain,', 'it')).toBeCloseTo(0.8, 9)
    expect(paused(0.5, 'rain', 'because')).toBe(2)
    expect(paused(0.5, 'the', 'rain')).toBe(1000)
    // a pause is one only where both are known
    expect(breakCost(piece('rain', 0), piece('fell'), 'en')).toBe(10)
    expect(breakCost(piece('rain'), piece('fell', 9), 'en')).toBe(10)
  })
  test('what belongs together is torn by nobody', () => {
    expect(isForbidden(piece('the'), piece('rain'), 'en')).toBe(true)
    expect(isForbidden(piece('250'), piece('mm'), 'en')).toBe(true)
    expect(isForbidden(piece('rain'), piece('fell'), 'en')).toBe(false)
  })
  test.each([
    ['the', 'en', true],
    ['The', 'en-GB', true],
    ['“the', 'en', true],
    ['(the', 'en', true],
    ['““the', 'en', true],
    ['Mr.', 'en', true],
    ['the.x', 'en', false],
    ['gauge', 'en', false],
    ['le', 'fr', true],
    ['le', 'en', false],
    ['the', 'xx', false],
  ])('%s belongs to what follows in %s: %s', (word, language, answer) => expect(leans(word, language)).toBe(answer))
  test('words that open a clause, with whatever stands around them', () =>
    expect(['because', '“Because', 'because,', 'weil”', 'weil”)', 'cause', 'x(and'].map(opensClause)).toEqual([
      true,
      true,
      false,
      true,
      true,
      false,
      false,
    ]))
  test.each([
    ['250', 'mm', true],
    ['(250', 'mm)', true],
    ['[3', 'kg', true],
    ['-5', '°C', true],
    ['−5', '°C.', true],
    ['+5', 'dB', true],
    ['1,250.5', 'metres', true],
    ['10', 'km/h,', true],
    ['5', 'gauges', false],
    ['x5', 'mm', false],
    ['5x', 'mm', false],
    ['five', 'mm', false],
    ['~5', 'mm', false],
  ])('%s %s is a quantity: %s', (number, unit, answer) => expect(isQuantity(number, unit)).toBe(answer))
})

describe('pieces of text', () => {
  test('signs stay with what is before them, opening brackets with what follows', () => {
    const texts = (text: string) => piecesOf(text, 'ja').map((p) => p.text)
    expect(texts('「雨量計」は、（晴れの日も）空にします。').join('|')).toBe('「雨量計」|は、|（晴れ|の|日|も）|空|にし|ます。')
    expect([texts('（'), texts('（（雨'), texts('、雨')]).toEqual([['（'], ['（（雨'], ['、', '雨']])
    expect(piecesOf('(one two)', 'en').map((p) => p.text)).toEqual(['(one', 'two)'])
  })
  test('each has its share of the time of its word', () => {
    const made = piecesOf('  雨量計を  x', 'ja', [{ start: 1, end: 3 }, undefined])
    expect(made).toEqual([
      { text: '雨量計', spaced: true, heard: { start: 1, end: 2.5 } },
      { text: 'を', spaced: false, heard: { start: 2.5, end: 3 } },
      { text: 'x', spaced: true, heard: null },
    ])
  })
})

describe('how text reads', () => {
  const en = { language: 'en', lineCharacters: 37 }
  test.each([
    ['Rain falls.', ['Rain falls.']],
    [
      'We measure rain in a gauge that stands in the open, far from walls and trees, where the wind is weak.',
      ['We measure rain in a gauge\nthat stands in the open,', 'far from walls and trees,\nwhere the wind is weak.'],
    ],
    [
      'The gauge is emptied at nine in the morning, and what it holds is read against a scale.',
      ['The gauge is emptied\nat nine in the morning,', 'and what it holds\nis read against a scale.'],
    ],
    [
      'Snow is melted first: the depth of its water is what counts, not the height at which it lay.',
      ['Snow is melted first: the depth\nof its water is what counts,', 'not the height at which it lay.'],
    ],
    [
      '“Is it raining?” she asked. “No,” he said, “it has stopped.”',
      ['“Is it raining?” she asked.\n“No,” he said, “it has stopped.”'],
    ],
    [
      'A tenth of the area means ten times the height, which makes small amounts readable even at night.',
      ['A tenth of the area means ten\ntimes the height, which makes', 'small amounts readable even at night.'],
    ],
    [
      'Nobody knew (not even the farmers) how much rain had fallen before the gauge was there at all.',
      ['Nobody knew (not even the farmers)', 'how much rain had fallen\nbefore the gauge was there at all.'],
    ],
  ])('%s', (text, captions) => expect(captionTexts(text, en)).toEqual(captions))

  const long = 'The gauge is emptied at nine in the morning and what it holds is read against a scale on its side by hand'
  const spoken = (text: string, each: number, pauses: Record<number, number> = {}) => {
    let at = 0
    const heard = text.split(' ').map((_, i) => {
      at += pauses[i] ?? 0
      const word = { start: at, end: at + each * 0.9 }
      at += each
      return word
    })
    return captionRuns(piecesOf(text, 'en', heard), en).map((run) => run.text)
  }
  test('at an easy pace two captions do', () =>
    expect(spoken(long, 0.3)).toEqual([
      'The gauge is emptied\nat nine in the morning',
      'and what it holds is read\nagainst a scale on its side by hand',
    ]))
  test('spoken slowly, none is shown for much longer than six seconds', () =>
    expect(spoken(long, 0.9)).toEqual([
      'The gauge is emptied at nine',
      'in the morning and what',
      'it holds is read against a scale',
      'on its side by hand',
    ]))
  test('pauses move the changes', () =>
    expect(spoken(long, 0.5)).toEqual([
      'The gauge is emptied\nat nine in the morning',
      'and what it holds is read',
      'against a scale on its side by hand',
    ]))
  test('a caption that would be gone at once is none', () => {
    expect(spoken('No rain fell here.', 0.1)).toEqual(['No rain fell here.'])
    expect(spoken('Yes it did rain all day long here in town', 0.2, { 1: 2 })).toEqual([
      'Yes it did rain all\nday long here in town',
    ])
  })
  test('a caption that is typed is broken where it reads best, or not at all', () => {
    expect(breakLines('the gauge is emptied at nine in the morning by hand', en)).toBe(
      'the gauge is emptied\nat nine in the morning by hand',
    )
    expect(breakLines('short', en)).toBe('short')
    expect(breakLines(`${'x'.repeat(37)} ${'y'.repeat(37)}`, en)).toBe(`${'x'.repeat(37)}\n${'y'.repeat(37)}`)
    expect(breakLines(`${'x'.repeat(38)} y`, en)).toBe(`${'x'.repeat(38)} y`)
    expect(breakLines('', en)).toBe('')
  })
})
