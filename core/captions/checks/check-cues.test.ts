/** Each check of captions at its threshold, and what each fix makes of a slide's captions. */
import { describe, expect, test } from 'vitest'
import type { StoredCue } from '#core/model/caption.ts'
import { say } from '#core/words/say.ts'
import { type CheckedCue, type CueFix, charactersASecond, checkCues, FIX_WORDS, fixCue } from './check-cues.ts'

const LINE = 37
const seen = (start: number, end: number, text: string, more: Partial<CheckedCue> = {}): CheckedCue => ({
  id: `${start}`,
  start,
  end,
  text,
  needsReview: false,
  ...more,
})
const letters = (count: number) => 'n'.repeat(count)

describe('checks', () => {
  const SPEECH = [{ start: 2, end: 60 }]
  const found = (...cues: CheckedCue[]) => checkCues(cues, LINE, SPEECH).map((f) => [f.fault, f.fix])

  test.each<[string, CheckedCue[], (string | null)[][]]>([
    ['nothing is wrong', [seen(2, 4, 'one'), seen(4, 6, 'two')], []],
    ['three lines that fit into two', [seen(2, 5, 'a\nb\nc')], [['many-lines', 'break']]],
    ['two lines', [seen(2, 5, 'a\nb')], []],
    ['three lines that do not', [seen(2, 8, `${letters(30)}\n${letters(30)}\n${letters(30)}`)], [['many-lines', 'divide']]],
    ['a line as long as may be', [seen(2, 5, letters(LINE))], []],
    ['a line of one more', [seen(2, 5, letters(LINE + 1))], [['long-line', 'break']]],
    ['a line that fits into two just so', [seen(2, 7, `${letters(LINE)} ${letters(LINE - 1)}`)], [['long-line', 'break']]],
    ['a line of one more than two hold', [seen(2, 7, `${letters(LINE)} ${letters(LINE)}`)], [['long-line', 'divide']]],
    ['there when the next comes', [seen(2, 5, 'one'), seen(4.99, 7, 'two')], [['overlap', 'end-earlier']]],
    ['a millisecond is no overlap, and no gap', [seen(2, 5, 'one'), seen(4.9995, 7, 'two')], []],
    ['twenty characters a second', [seen(2, 3.5, letters(30))], []],
    ['one more', [seen(2, 3.5, letters(31)), seen(9, 11, 'b')], [['too-fast', 'end-later']]],
    ['one more, and no room', [seen(2, 3.5, letters(31)), seen(3.5, 5, 'b')], [['too-fast', null]]],
    [
      'one more, and just room',
      [seen(2, 3.5, letters(31)), seen(3.56, 5, 'b')],
      [
        ['too-fast', 'end-later'],
        ['gap', 'close'],
      ],
    ],
    ['short, with room', [seen(2, 3.19, 'one'), seen(4, 6, 'b')], [['short', 'end-later']]],
    ['just long enough', [seen(2, 3.196, 'one'), seen(4, 6, 'b')], []],
    ['short, and the last', [seen(2, 2.6, 'one')], [['short', 'end-later']]],
    ['short, and the next close', [seen(2, 2.6, 'one'), seen(2.6, 4, 'two')], [['short', 'join']]],
    ['short, with room up to the next just so', [seen(2, 2.6, 'one'), seen(3.2, 5, 'two')], [['short', 'end-later']]],
    [
      'short, and together too long to join',
      [seen(2, 2.9, letters(10)), seen(2.9, 7, `${letters(LINE)}\n${letters(2 * LINE - LINE - 10)}`)],
      [['short', null]],
    ],
    ['long', [seen(2, 9.01, 'one')], [['long', null]]],
    ['long, in two lines', [seen(2, 9.01, 'one\ntwo')], [['long', 'divide']]],
    ['as long as may be', [seen(2, 9, 'one')], []],
    ['a gap that flickers', [seen(2, 4, 'one'), seen(4.49, 6, 'two')], [['gap', 'close']]],
    ['a gap that does not', [seen(2, 4, 'one'), seen(4.5, 6, 'two')], []],
    ['before the voice', [seen(1.49, 4, 'one')], [['early', 'start-later']]],
    ['just before the voice', [seen(1.5, 4, 'one')], []],
    ['before the voice and over before it', [seen(0, 1.9, 'one')], []],
    ['not sure', [seen(2, 4, 'one', { needsReview: true })], [['needs-review', 'right']]],
    ['nothing said', [seen(2, 2.1, ' \n', { needsReview: true })], [['empty', null]]],
  ])('%s', (_, cues, wanted) => expect(found(...cues)).toEqual(wanted))

  test('without knowing where somebody speaks nothing is early', () => {
    expect(checkCues([seen(0, 4, 'one')], LINE)).toEqual([])
  })

  test('each says whose it is, whether it is a rule, and the figures', () => {
    const said = checkCues([seen(2, 3, letters(40)), seen(2.5, 12, 'b\nc')], LINE, SPEECH)
    expect(said).toEqual([
      { fault: 'long-line', cueId: '2', level: 'rule', finding: 'A line of 40 characters; 37 fit', fix: 'break' },
      {
        fault: 'overlap',
        cueId: '2',
        level: 'rule',
        finding: 'It is still there for 0.5 s when the next one comes',
        fix: 'end-earlier',
      },
      { fault: 'too-fast', cueId: '2', level: 'rule', finding: '40 characters a second; 20 can be read', fix: null },
      { fault: 'short', cueId: '2', level: 'look', finding: 'It is there for 1.0 s only', fix: 'join' },
      { fault: 'long', cueId: '2.5', level: 'look', finding: 'It stays for 9.5 s', fix: 'divide' },
    ])
  })

  test('reading speed counts line breaks as spaces, and no time as a little', () => {
    expect(charactersASecond({ start: 1, end: 3, text: 'abc\ndef' })).toBe(3.5)
    expect(charactersASecond({ start: 1, end: 1, text: 'ab' })).toBe(2000)
  })
})

describe('fixes', () => {
  const cue = (id: string, start: number, end: number, text: string, more: Partial<StoredCue> = {}): StoredCue => ({
    id,
    slideId: 's',
    takeId: 't',
    start,
    end,
    text,
    settings: '',
    markup: null,
    needsReview: true,
    scriptText: text,
    manualEdit: null,
    ...more,
  })
  const fixed = (fix: CueFix | null, cues: StoredCue[], speech: { start: number; end: number }[] = []) => {
    let made = 0
    const options = { language: 'en', lineCharacters: LINE, speech, newId: () => `new ${++made}` }
    return fixCue(cues, { fault: 'short', cueId: 'a', level: 'look', finding: '', fix }, options)
  }
  const times = (cues: StoredCue[]) => cues.map(({ id, start, end }) => [id, start, end])
  const next = cue('b', 5, 7, 'two')

  test('every fix has its words', () => {
    expect(Object.values(FIX_WORDS).every((words) => /^[A-Z]/.test(say(words)))).toBe(true)
    expect(say(FIX_WORDS.join)).toBe('Join with the next')
  })

  test('a line is broken anew, where a reader would', () => {
    const [a] = fixed('break', [cue('a', 2, 6, 'It stands in the open, level, and far away\nfrom\nwalls'), next])
    const lines = a!.text.split('\n')
    expect(lines).toHaveLength(2)
    expect(Math.max(...lines.map((line) => line.length))).toBeLessThanOrEqual(LINE)
    expect(a).toMatchObject({ manualEdit: 'text', needsReview: false })
  })

  test('two are joined into one that lasts as long as both', () => {
    const joined = fixed('join', [cue('a', 2, 3, 'one'), next])
    expect(joined).toMatchObject([{ id: 'a', start: 2, end: 7, text: 'one two' }])
  })

  test('one is divided into as many as its text needs, or at its line break', () => {
    const long =
      'Keep it twice as far from a tree as the tree is tall. A fence counts as a small tree, and so does a wall of some height.'
    const parts = fixed('divide', [cue('a', 0, 8, long), cue('b', 8, 9, 'two')])
    expect(parts.length).toBeGreaterThan(2)
    expect(parts.map((part) => part.text.replaceAll('\n', ' ')).join(' ')).toBe(`${long} two`)
    expect(parts[0]!.id).toBe('a')
    expect(parts[1]!.id).toBe('new 1')
    for (const [i, part] of parts.entries()) if (i > 0) expect(part.start).toBeGreaterThanOrEqual(parts[i - 1]!.end - 1e-9)
    expect(fixed('divide', [cue('a', 0, 8, 'one\ntwo')]).map((part) => part.text)).toEqual(['one', 'two'])
  })

  test.each(['end-earlier', 'close'] as const)('%s: it goes when the next of its take comes', (fix) => {
    expect(times(fixed(fix, [cue('a', 2, 6, 'one'), next]))).toEqual([
      ['a', 2, 5],
      ['b', 5, 7],
    ])
    // what says nothing, and what belongs to another take, is not next
    const others = [cue('x', 3, 4, ''), cue('y', 3.5, 4, 'other', { takeId: 'u' })]
    expect(times(fixed(fix, [cue('a', 2, 6, 'one'), ...others, next]))[0]).toEqual(['a', 2, 5])
    expect(times(fixed(fix, [cue('a', 2, 6, 'one')]))).toEqual([['a', 2, 6]])
  })

  test('it stays as long as it takes to read, and no longer than until the next', () => {
    expect(times(fixed('end-later', [cue('a', 2, 2.4, 'one'), next]))[0]).toEqual(['a', 2, 3.2])
    expect(times(fixed('end-later', [cue('a', 2, 3, letters(50)), next]))[0]).toEqual(['a', 2, 4.5])
    expect(times(fixed('end-later', [cue('a', 4.5, 4.6, 'one'), next]))[0]).toEqual(['a', 4.5, 5])
    expect(times(fixed('end-later', [cue('a', 4.5, 4.6, 'one')]))[0]).toEqual(['a', 4.5, 5.7])
  })

  test('it comes with the voice', () => {
    const speech = [
      { start: 0, end: 1 },
      { start: 2.8, end: 4 },
    ]
    expect(times(fixed('start-later', [cue('a', 2, 4, 'one')], speech))).toEqual([['a', 2.8, 4]])
    expect(times(fixed('start-later', [cue('a', 2, 4, 'one')]))).toEqual([['a', 2, 4]])
  })

  test('what is right is no longer to be checked', () => {
    expect(fixed('right', [cue('a', 2, 4, 'one')])).toMatchObject([{ needsReview: false, start: 2, end: 4, text: 'one' }])
  })

  test('where there is nothing to do nothing changes', () => {
    const cues = [cue('z', 2, 4, 'one')]
    expect(fixed('right', cues)).toEqual(cues)
    expect(fixed(null, [cue('a', 2, 4, 'one')])).toMatchObject([{ needsReview: true }])
  })
})
