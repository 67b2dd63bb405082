import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { DEFAULT_TIMING, type Lecture, NO_TRANSITION, type Take } from '#core/lecture.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { breakLines, captionTexts, LINE_CHARACTERS } from './break-lines.ts'
import { cuesFromScript } from './cues-from-script.ts'
import { cuesOnLecture, placeCues } from './place-cues.ts'
import { plainCueText } from './webvtt/cue-text.ts'
import { parseWebVtt } from './webvtt/parse.ts'
import { writeWebVtt } from './webvtt/write.ts'

const stretch = (start: number, end: number) => ({ start: toSamples(start), end: toSamples(end) })

describe('reading WebVTT', () => {
  test('times, identifiers, settings and texts are read', () => {
    const { cues, problems } = parseWebVtt(
      'WEBVTT\n\nfirst\n00:01.000 --> 00:02.500 line:0 align:start\nGood\nevening\n\n100:00:00.000 --> 100:00:01.000\nLate',
    )
    expect(problems).toEqual([])
    expect(cues).toEqual([
      { id: 'first', start: 1, end: 2.5, settings: 'line:0 align:start', text: 'Good\nevening', line: 4 },
      { id: '', start: 360_000, end: 360_001, settings: '', text: 'Late', line: 8 },
    ])
  })
  test('a byte-order mark, carriage returns and NUL do not disturb', () => {
    expect(parseWebVtt('\uFEFFWEBVTT\r\n\r\n00:00.000 --> 00:01.000\r\na\0b').cues[0]!.text).toBe('a\uFFFDb')
  })
  test('notes, styles and regions are passed over', () => {
    const { cues, problems } = parseWebVtt(
      'WEBVTT\n\nNOTE hello\nworld\n\nSTYLE\n::cue{}\n\nREGION\nid:x\n\n00:00.000 --> 00:01.000\nyes',
    )
    expect([cues.length, problems.length]).toEqual([1, 0])
  })
  test('malformed lines are named and the good cues kept', () => {
    const { cues, problems } = parseWebVtt(
      'WEBVTT\n\n00:01 --> 00:02\nbad\n\n00:03.000 --> 00:02.000\nbackwards\n\nstray\n\n00:04.000 --> 00:05.000\ngood',
    )
    expect(cues.map((cue) => cue.text)).toEqual(['good'])
    expect(problems.map((p) => p.line)).toEqual([3, 6, 9])
  })
  test('a file without the signature has no cues', () => {
    const read = parseWebVtt('1\n00:00:01,000 --> 00:00:02,000\nhello')
    expect(read.signed).toBe(false)
    expect(read.cues).toEqual([])
    expect(read.problems[0]!.message).toContain('not a WebVTT file')
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

describe('breaking lines', () => {
  const sentence =
    'The funnel feeds an inner tube whose area is one tenth of the opening, so one inch of rain stands ten inches tall and is easy to read.'
  test('no caption is longer than two lines and no line longer than 37 characters', () => {
    for (const text of captionTexts(sentence)) {
      const lines = breakLines(text).split('\n')
      expect(lines.length).toBeLessThanOrEqual(2)
      for (const line of lines) expect(line.length).toBeLessThanOrEqual(LINE_CHARACTERS + 5)
    }
  })
  test('no word is lost', () => expect(captionTexts(sentence).map(breakLines).join(' ').replaceAll('\n', ' ')).toBe(sentence))
  test('a line does not end with an article', () => {
    for (const line of captionTexts(sentence).flatMap((t) => breakLines(t).split('\n')))
      expect(line).not.toMatch(/ (the|an|a|of)$/)
  })
  test('a single very long word still comes through', () => expect(captionTexts('x'.repeat(100))).toEqual(['x'.repeat(100)]))
})

describe('cues from a script', () => {
  test('cues cover the speech in order and do not overlap', () => {
    const cues = cuesFromScript(
      'Good evening. Tonight you learn to read a rain gauge, and to write it down. Bring a pencil.',
      [stretch(1, 4), stretch(5, 8)],
      'en',
    )
    expect(cues[0]!.start).toBe(1)
    expect(cues.at(-1)!.end).toBeCloseTo(8.3, 6)
    for (const [i, cue] of cues.slice(1).entries()) expect(cue.start).toBeGreaterThanOrEqual(cues[i]!.end)
  })
  test('a sentence boundary near a pause is put into the pause', () => {
    const cues = cuesFromScript('One two three four five. One two three four.', [stretch(0, 2.9), stretch(4, 7)], 'en')
    expect(cues[1]!.start).toBe(4)
    expect(cues[0]!.end).toBeCloseTo(3.2, 6)
  })
  test('no sentence is lost, wherever the pauses fall', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('Nothing is lost.', 'When the tube is full, the rest runs into the can.', 'Yes.'), {
          minLength: 1,
        }),
        fc.array(fc.tuple(fc.integer({ min: 5, max: 80 }), fc.integer({ min: 2, max: 30 })), { minLength: 1, maxLength: 9 }),
        (said, lengths) => {
          let at = 0
          const speech = lengths.map(([length, pause]) => {
            const stretch = { start: at, end: at + length * 4800 }
            at = stretch.end + pause * 4800
            return stretch
          })
          const cues = cuesFromScript(said.join(' '), speech, 'en')
          expect(cues.map((cue) => cue.text.replaceAll('\n', ' ')).join(' ')).toBe(said.join(' '))
          cues.forEach((cue, i) => {
            expect(cue.end).toBeGreaterThan(cue.start)
            expect(cue.start).toBeGreaterThanOrEqual(cues[i - 1]?.end ?? 0)
          })
        },
      ),
    )
  })
  test('nothing to say or nobody speaking gives no cues', () => {
    expect(cuesFromScript(' ', [stretch(0, 1)], 'en')).toEqual([])
    expect(cuesFromScript('Hello.', [], 'en')).toEqual([])
  })
})

describe('cues on the clocks', () => {
  const take = (id: string, kept: { start: number; end: number }) =>
    ({ id, tidyUp: { kept, cuts: [], highPassHz: 70, cleaning: 0, roomTone: null, level: null } }) as unknown as Take
  const lecture = (kept = stretch(1, 11)): Lecture => ({
    id: 'l',
    title: '',
    language: 'en',
    timing: DEFAULT_TIMING,
    captionTracks: [],
    transition: NO_TRANSITION,
    beds: [],
    slides: ['a', 'b'].map((id) => ({
      id,
      title: '',
      altText: '',
      script: '',
      hidden: false,
      timing: {},
      transition: null,
      card: null,
      steps: [],
      keptTakeId: `t${id}`,
      takes: [take(`t${id}`, kept)],
    })),
  })
  const cue = { id: 'c', slideId: 'b', takeId: 'tb', start: 4, end: 6, text: 'x', settings: '', doubtful: false }
  const wordAt = (l: Lecture, start: number) => cuesOnLecture(l, [{ ...cue, start }])[0]!.start

  test('a caption stays on its word when the beginning of the take is cut', () => {
    // the same moment of the take is heard one second earlier on both slides
    expect(wordAt(lecture(), 4) - wordAt(lecture(stretch(2, 11)), 4)).toBeCloseTo(2, 1)
  })
  test('captions of a take that is not kept are not shown', () => {
    expect(cuesOnLecture(lecture(), [{ ...cue, takeId: 'other' }])).toEqual([])
  })
  test('a cue placed from a file comes back at the same moment', () => {
    const l = lecture()
    const { placed, problems } = placeCues(l, [{ start: 13, end: 15, text: 'x', settings: '', line: 3 }])
    expect(problems).toEqual([])
    const back = cuesOnLecture(
      l,
      placed.map((p) => ({ ...p, id: 'c', doubtful: false })),
    )[0]!
    expect([back.start, back.end]).toEqual([expect.closeTo(13, 4), expect.closeTo(15, 4)])
  })
  test('cues outside any slide are reported by line', () => {
    expect(placeCues(lecture(), [{ start: 900, end: 901, text: 'x', settings: '', line: 42 }]).problems).toEqual([
      { line: 42, message: 'This cue lies outside every slide, so it was left out.' },
    ])
  })
})
