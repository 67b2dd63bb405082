import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { parseSubRip, writeSubRip } from '#core/captions/formats/subrip.ts'
import { say } from '#core/words/say.ts'
import { IS_LONG } from '#tests/support/long.ts'
import { parseCueText, plainCueText, speakerOf, writeCueText } from './cue-text.ts'
import { parseWebVtt } from './parse.ts'
import { DEFAULT_SETTINGS, parseSettings, writeSettings } from './settings.ts'
import { writeWebVtt } from './write.ts'

test('regions, style sheets and identifiers stand in the file again, and cues in their regions', () => {
  const file = `WEBVTT

STYLE
::cue(.x) { color: red }

REGION
id:fred
width:40%
lines:2
regionanchor:10%,100%
viewportanchor:10%,90%
scroll:up

REGION
id:plain

intro
00:00:01.000 --> 00:00:04.000 region:fred align:left
Hi

00:00:05.000 --> 00:00:06.000
Second &amp; last
`
  const { cues, regions, styles } = parseWebVtt(file)
  const again = cues.map((cue) => ({ ...cue, markup: cue.text, settings: writeSettings(cue.placed, 'with region') }))
  expect(writeWebVtt(again, { regions, styles })).toBe(file)
})

/** A hundred thousand in the long run. */
const ROUNDS = IS_LONG ? 100_000 : 5000

describe('reading WebVTT', () => {
  test('times, identifiers, settings and texts are read', () => {
    const { cues, problems } = parseWebVtt(
      'WEBVTT\n\nfirst\n00:01.000 --> 00:02.500 line:0 align:start\nGood\nevening\n\n100:00:00.000 --> 100:00:01.000\nLate',
    )
    expect(problems).toEqual([])
    expect(cues).toMatchObject([
      { id: 'first', start: 1, end: 2.5, settings: 'line:0 align:start', text: 'Good\nevening', line: 4 },
      { id: '', start: 360_000, end: 360_001, settings: '', text: 'Late', line: 8 },
    ])
    expect(cues[0]!.placed).toEqual({ ...DEFAULT_SETTINGS, line: 0, align: 'start' })
  })
  test('a byte-order mark, carriage returns and NUL do not disturb', () => {
    expect(parseWebVtt('\uFEFFWEBVTT\r\n\r\n00:00.000 --> 00:01.000\r\na\0b').cues[0]!.text).toBe('a\uFFFDb')
  })
  test('notes are passed over, styles and regions kept', () => {
    const { cues, problems, styles, regions } = parseWebVtt(
      'WEBVTT\n\nNOTE hello\nworld\n\nSTYLE\n::cue{}\n\nREGION\nid:x\n\n00:00.000 --> 00:01.000\nyes',
    )
    expect([cues.length, problems.length, styles, regions.map((r) => r.id)]).toEqual([1, 0, ['::cue{}'], ['x']])
  })
  test('malformed lines are named and the good cues kept', () => {
    const { cues, problems } = parseWebVtt(
      'WEBVTT\n\n00:01 --> 00:02\nbad\n\n00:03.000 --> 00:02.000\nbackwards\n\nstray\n\n00:04.000 --> 00:05.000\ngood',
    )
    expect(cues.map((cue) => cue.text)).toEqual(['backwards', 'good'])
    expect(problems.map((p) => p.line)).toEqual([3, 6, 9])
  })
  test('a file without the signature has no cues', () => {
    const read = parseWebVtt('1\n00:00:01,000 --> 00:00:02,000\nhello')
    expect(read.signed).toBe(false)
    expect(read.cues).toEqual([])
    expect(say(read.problems[0]!.message)).toContain('not a WebVTT file')
  })
})

describe('writing WebVTT', () => {
  test('what is written is read back, whatever the text', () => {
    const cue = fc.record({
      start: fc.nat(9_000_000),
      length: fc.integer({ min: 1, max: 9000 }),
      text: fc.string({ minLength: 1 }).filter((t) => t.trim() !== '' && !/[\r\n\0]/.test(t)),
    })
    fc.assert(
      fc.property(fc.array(cue, { maxLength: 8 }), (list) => {
        const cues = list.map(({ start, length, text }) => ({
          start: start / 1000,
          end: (start + length) / 1000,
          text: text.trim(),
          settings: '',
        }))
        const { cues: read, problems } = parseWebVtt(writeWebVtt(cues))
        expect(problems).toEqual([])
        expect(read.map((c) => [c.start, c.end, plainCueText(c.text)]).sort()).toEqual(
          cues.map((c) => [c.start, c.end, c.text]).sort(),
        )
      }),
    )
  })
  test('an arrow or an empty line in a text cannot break the file', () => {
    const { cues } = parseWebVtt(writeWebVtt([{ start: 0, end: 1, text: 'a --> b\n\n<c> & d', settings: '' }]))
    expect(cues).toHaveLength(1)
    expect(plainCueText(cues[0]!.text)).toBe('a --> b\n<c> & d')
  })
})

describe('settings and regions', () => {
  test('a region is found by its name, and let go where the cue places itself', () => {
    const file = (settings: string) =>
      `WEBVTT\n\nREGION\nid:r width:40% lines:2 regionanchor:0%,100% viewportanchor:10%,90% scroll:up\n\n00:00.000 --> 00:01.000 ${settings}\na`
    const { regions, cues } = parseWebVtt(file('region:r align:start'))
    expect(regions).toEqual([{ id: 'r', width: 40, lines: 2, anchor: [0, 100], viewportAnchor: [10, 90], scroll: 'up' }])
    expect(cues[0]!.placed.region).toBe('r')
    expect(parseWebVtt(file('region:r line:1')).cues[0]!.placed.region).toBeNull()
    expect(say(parseWebVtt(file('region:other')).problems[0]!.message)).toContain('region:other')
  })
  test('alignments of lines and positions are read', () => {
    expect(parseSettings('line:50%,end position:20%,line-right').settings).toMatchObject({
      line: 50,
      snapToLines: false,
      lineAlign: 'end',
      position: 20,
      positionAlign: 'line-right',
    })
  })
  test('what is written is read back the same', () => {
    const text = 'vertical:rl line:-1,center position:12.5%,center size:30% align:end'
    expect(writeSettings(parseSettings(text).settings)).toBe(text)
    expect(writeSettings(DEFAULT_SETTINGS)).toBe('')
  })
})

describe('cue text', () => {
  test('tags are nested, and speakers named', () => {
    expect(parseCueText('<v.loud Ada &amp; Co>a <i>b</i></v>')).toEqual([
      {
        kind: 'v',
        classes: ['loud'],
        annotation: 'Ada & Co',
        children: [
          { kind: 'text', text: 'a ' },
          { kind: 'i', classes: [], annotation: '', children: [{ kind: 'text', text: 'b' }] },
        ],
      },
    ])
    expect(speakerOf('<v Ada>hello')).toBe('Ada')
    expect(speakerOf('hello')).toBeNull()
  })
  test('a tree is written and read back the same', () => {
    for (const text of [
      '<b>a &lt;b&gt; &amp;</b>',
      '<ruby>x<rt>y</rt></ruby>',
      '<lang fr>z</lang> <00:00:01.500>q',
      '<c.a.b>k</c>',
    ])
      expect(writeCueText(parseCueText(text))).toBe(text)
  })
})

describe('SubRip', () => {
  test('numbers, times with commas and borrowed tags are read', () => {
    const { cues, problems } = parseSubRip(
      '\uFEFF1\r\n00:00:01,000 --> 00:00:02,500\r\n<i>Good</i> <font color="red">evening</font>\r\nAda & Co\r\n\r\n2\r\n0:03.5 --> 0:04,25\r\n{\\an8}a < b\r\n',
    )
    expect(problems).toEqual([])
    expect(cues).toMatchObject([
      { id: '1', start: 1, end: 2.5, text: '<i>Good</i> evening\nAda &amp; Co', line: 2 },
      { id: '2', start: 3.5, end: 4.25, text: 'a &lt; b', line: 7 },
    ])
  })
  test('what cannot be read is named by line, and the good captions kept', () => {
    const { cues, problems } = parseSubRip(
      '1\n00:00:xx,000 --> 00:00:02,000\nbad\n\nstray\n\n3\n00:00:05,000 --> 00:00:06,000\ngood\n',
    )
    expect(cues.map((cue) => cue.text)).toEqual(['good'])
    expect(problems.map((p) => p.line)).toEqual([2, 5])
  })
  test('it is written in order and read back the same', () => {
    const cues = [
      { start: 3, end: 4, text: 'second\nline', markup: '<v Ada><b>second</b>\nline</v>' },
      { start: 1, end: 2, text: 'first <&>' },
    ]
    const written = writeSubRip(cues)
    expect(written).toBe('1\n00:00:01,000 --> 00:00:02,000\nfirst <&>\n\n2\n00:00:03,000 --> 00:00:04,000\n<b>second</b>\nline\n')
    expect(parseSubRip(written).cues.map((cue) => plainCueText(cue.text))).toEqual(['first <&>', 'second\nline'])
  })
})

describe('files that are broken on purpose', () => {
  const seed =
    'WEBVTT head\n\nSTYLE\n::cue{}\n\nREGION\nid:r\n\nNOTE n\n\nid\n00:01.000 --> 1:00:02.000 line:5%,end position:1%,center size:2% align:left vertical:rl region:r\n<v A>a<b>&amp;</b><c.d><00:01.500><ruby>r<rt>t</ruby></v>\n'
  test('nothing is thrown and the cues stay few, whatever thousands of changes make of a file', () => {
    let state = 1
    const random = (below: number) => {
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0
      return state % below
    }
    const pieces = [
      '-->',
      '\n',
      '\n\n',
      '<',
      '>',
      '&',
      '&#',
      '\0',
      '\r',
      ':',
      '.',
      ',',
      '%',
      '99999999999999999999',
      'WEBVTT',
      'é',
      '\uD800',
      '\t',
      '</',
      '<v ',
    ]
    for (let round = 0; round < ROUNDS; round++) {
      let file = seed
      for (let n = 1 + random(6); n > 0; n--) {
        const at = random(file.length + 1)
        const length = random(12)
        const put = random(3) === 0 ? file.slice(random(file.length), random(file.length) + 8) : pieces[random(pieces.length)]!
        file = file.slice(0, at) + put + file.slice(at + length)
      }
      const { cues } = parseWebVtt(file)
      for (const cue of cues) {
        expect(Number.isFinite(cue.start) && Number.isFinite(cue.end)).toBe(true)
        writeCueText(parseCueText(cue.text))
      }
      writeWebVtt(cues.map((cue) => ({ ...cue, markup: cue.text })))
      parseSubRip(file)
    }
  })
  test.each([
    ['open tags', '<b>'],
    ['tag beginnings', '<'],
    ['ampersands', '&'],
    ['arrows', '-->\n'],
    ['spaces before nothing', '\n   '],
    ['empty lines', '\n'],
  ])('a megabyte of %s is read without a hitch', (_, piece) => {
    const file = `WEBVTT\n\n00:00.000 --> 00:01.000\n${piece.repeat(Math.ceil(1_000_000 / piece.length))}`
    const { cues } = parseWebVtt(file)
    expect(cues.length).toBeGreaterThan(0)
    writeCueText(parseCueText(cues[0]!.text))
    plainCueText(cues[0]!.text)
    parseSubRip(file)
  })
})
