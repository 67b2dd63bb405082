import { describe, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import type { Take } from '#core/model/take.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { say } from '#core/words/say.ts'
import * as tests from '#tests/made/lecture.ts'
import { chaptersOnLecture, placeChapters } from './chapter-tracks.ts'
import { cuesOnLecture, placeCues, speechOnLecture } from './place-cues.ts'

const stretch = (start: number, end: number) => ({ start: toSamples(start), end: toSamples(end) })

describe('cues on the clocks', () => {
  const take = (id: string, kept: { start: number; end: number }) =>
    ({ id, tidyUp: { kept, cuts: [], highPassHz: 70, cleaning: 0, roomTone: null, level: null } }) as unknown as Take
  const lecture = (kept = stretch(1, 11)): Lecture =>
    tests.lecture(['a', 'b'].map((id) => tests.slide(id, 0, { keptTakeId: `t${id}`, takes: [take(`t${id}`, kept)], steps: [] })))
  const cue = {
    id: 'c',
    slideId: 'b',
    takeId: 'tb',
    start: 4,
    end: 6,
    text: 'x',
    markup: null,
    settings: '',
    needsReview: false,
    scriptText: '',
    manualEdit: null,
  } as const
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
    const { placed, problems } = placeCues(l, [{ start: 13, end: 15, text: 'x', markup: null, settings: '', line: 3 }])
    expect(problems).toEqual([])
    const back = cuesOnLecture(
      l,
      placed.map((p) => ({ ...p, id: 'c' })),
    )[0]!
    expect([back.start, back.end]).toEqual([expect.closeTo(13, 4), expect.closeTo(15, 4)])
  })
  test('cues outside any slide are reported by line', () => {
    expect(placeCues(lecture(), [{ start: 900, end: 901, text: 'x', markup: null, settings: '', line: 42 }]).problems).toEqual([
      { line: 42, message: { id: 'This cue lies outside every slide, so it was left out.' } },
    ])
  })
  test('a cue over a change of slide goes where more of it is, and that is said', () => {
    const l = lecture()
    const { placed, problems } = placeCues(l, [{ start: 9, end: 12, text: 'x', markup: null, settings: '', line: 7 }])
    expect(placed.map((p) => p.slideId)).toEqual(['a'])
    expect(problems.map(({ line, message }) => [line, say(message)])).toEqual([
      [7, 'This cue reaches over a change of slide; it was put on slide 1 and ends there.'],
    ])
  })
  test('a file for one slide begins with the slide', () => {
    const { placed } = placeCues(lecture(), [{ start: 2, end: 4, text: 'x', markup: null, settings: '', line: 3 }], 'b')
    // rest before the voice 0.25 s, and the first second of the take was cut
    expect(placed).toMatchObject([{ slideId: 'b', takeId: 'tb', start: expect.closeTo(2.75, 3) }])
  })
  test('speech is known on the lecture’s clock, without what was cut', () => {
    const l = lecture()
    for (const slide of l.slides) Object.assign(slide.takes[0]!, { analysis: { speech: [stretch(0, 0.5), stretch(2, 4)] } })
    const [a, b, ...more] = speechOnLecture(l)
    expect(more).toEqual([])
    expect([a!.start, a!.end - a!.start]).toEqual([expect.closeTo(1.25, 3), expect.closeTo(2, 3)])
    expect(b!.start).toBeGreaterThan(10)
  })
  test('chapters begin where their file says, with a slide when they are near its beginning, and last until the next', () => {
    const l = lecture()
    const chapter = (start: number, text: string, line: number) => ({
      start,
      end: start + 1,
      text,
      markup: null,
      settings: '',
      line,
    })
    const { lengthSamples, slides } = schedule(l)
    const second = toSeconds(slides[1]!.startSamples)
    const file = [chapter(0, 'Rain', 3), chapter(4, 'Gauges', 6), chapter(second + 0.1, 'Snow', 9), chapter(900, 'Hail', 12)]
    const { placed, problems } = placeChapters(l, file)
    expect(problems.map(({ line }) => line)).toEqual([12])
    const stored = placed.map((cue, i) => ({ ...cue, id: String(i) }))
    expect(chaptersOnLecture(l, stored).map(({ start, end, text }) => [start, end, text])).toEqual([
      [0, 4, 'Rain'],
      [4, second, 'Gauges'],
      [second, toSeconds(lengthSamples), 'Snow'],
    ])
    // they stay with their slide
    l.slides[0]!.hidden = true
    expect(chaptersOnLecture(l, stored).map(({ start, text }) => [start, text])).toEqual([[0, 'Snow']])
  })
  test('what was left out on purpose is not shown', () => {
    expect(cuesOnLecture(lecture(), [{ ...cue, text: '' }])).toEqual([])
  })
  test('a caption of no take stands on a slide without sound, in seconds of the slide', () => {
    const l = lecture()
    Object.assign(l.slides[1]!, { keptTakeId: null, takes: [] })
    const from = toSeconds(schedule(l).slides[1]!.startSamples)
    const silent = { ...cue, takeId: null, start: 1, end: 2 }
    expect(cuesOnLecture(l, [silent]).map((c) => [c.start, c.end])).toEqual([[from + 1, from + 2]])
    // once there is a voice it has its own captions
    expect(cuesOnLecture(lecture(), [silent])).toEqual([])
    expect(cuesOnLecture(l, [cue])).toEqual([])
    // none reaches past its slide
    const length = toSeconds(schedule(l).slides[1]!.lengthSamples)
    expect(cuesOnLecture(l, [{ ...silent, end: 99 }])[0]!.end).toBeCloseTo(from + length, 9)
  })
  test('a take that is not tidied yet shows no captions', () => {
    const l = lecture()
    l.slides[1]!.takes[0]!.tidyUp = null
    expect(cuesOnLecture(l, [cue])).toEqual([])
  })
  test('what a cut leaves of a caption is shown from a tenth of a second on; a shorter caption as it is', () => {
    const left = (end: number, whole = 4) =>
      cuesOnLecture(lecture(stretch(1, end)), [{ ...cue, start: 4, end: 4 + whole }]).length
    expect([left(4.05), left(4.15)]).toEqual([0, 1])
    expect(left(11, 0.05)).toBe(1)
  })
  test('captions are in the order in which they are seen, with all that is said of them', () => {
    const list = [
      { ...cue, id: '2', start: 6, end: 7, needsReview: true, settings: 'line:0', markup: '<i>x</i>' },
      { ...cue, id: '1', start: 3, end: 4 },
      { ...cue, id: '0', slideId: 'a', takeId: 'ta' },
    ]
    const seen = cuesOnLecture(lecture(), list)
    expect(seen.map((c) => c.id)).toEqual(['0', '1', '2'])
    expect(seen[2]).toMatchObject({ needsReview: true, settings: 'line:0', markup: '<i>x</i>', slideId: 'b' })
  })
  test('speech of takes that are not tidied, or were never listened to, is not known', () => {
    const l = lecture()
    Object.assign(l.slides[0]!.takes[0]!, { tidyUp: null, analysis: { speech: [stretch(2, 4)] } })
    expect(speechOnLecture(l)).toEqual([])
    Object.assign(l.slides[1]!.takes[0]!, { analysis: { speech: [stretch(0, 0.5)] } })
    expect(speechOnLecture(l)).toEqual([])
  })
  const ofFile = (start: number, end: number, line = 1) => ({
    start,
    end,
    text: 'x',
    markup: '<b>x</b>',
    settings: 'line:0',
    line,
  })
  test('on a silent slide a cue stands where the file has it', () => {
    const l = lecture()
    Object.assign(l.slides[1]!, { keptTakeId: null, takes: [] })
    const from = toSeconds(schedule(l).slides[1]!.startSamples)
    const { placed, problems } = placeCues(l, [ofFile(from + 1, from + 2)])
    expect(problems).toEqual([])
    const beside = { needsReview: false, scriptText: '', manualEdit: null }
    const stands = { start: expect.closeTo(1, 6), end: expect.closeTo(2, 6) }
    expect(placed).toEqual([
      { slideId: 'b', takeId: null, text: 'x', markup: '<b>x</b>', settings: 'line:0', ...stands, ...beside },
    ])
  })
  test('a cue in the rests around the voice is drawn to the voice; one in a rest alone is left out and told', () => {
    const l = lecture()
    // the clip of ten seconds begins at 0.25 s
    const { placed, problems } = placeCues(l, [ofFile(0, 2, 3), ofFile(9, 10.5, 6)])
    expect(problems).toEqual([])
    expect(placed.map((p) => [p.start, p.end])).toEqual([
      [expect.closeTo(1, 3), expect.closeTo(2.75, 3)],
      [expect.closeTo(9.75, 3), expect.closeTo(11, 3)],
    ])
    const early = placeCues(l, [ofFile(0, 0.2, 9)])
    expect(early.placed.map((p) => [p.start, p.end])).toEqual([[expect.closeTo(1, 3), expect.closeTo(1.01, 3)]])
  })
  test('a little over a change of slide is rounding; more is told, on either side', () => {
    const l = lecture()
    const change = toSeconds(schedule(l).slides[1]!.startSamples)
    const told = (start: number, end: number) => placeCues(l, [ofFile(start, end)]).problems.map((p) => say(p.message))
    expect(told(change - 3, change + 0.04)).toEqual([])
    expect(told(change - 3, change + 0.06)).toEqual([
      'This cue reaches over a change of slide; it was put on slide 1 and ends there.',
    ])
    expect(told(change - 0.04, change + 3)).toEqual([])
    expect(told(change - 0.06, change + 3)).toEqual([
      'This cue reaches over a change of slide; it was put on slide 2 and ends there.',
    ])
  })
  test('half and half goes to the earlier slide', () => {
    const l = lecture()
    const change = toSeconds(schedule(l).slides[1]!.startSamples)
    expect(placeCues(l, [ofFile(change - 2, change + 2)]).placed.map((p) => p.slideId)).toEqual(['a'])
  })
  test('a file for one slide has nothing for another, and says so', () => {
    const l = lecture()
    expect(placeCues(l, [ofFile(900, 901, 4)], 'b').problems).toEqual([
      { line: 4, message: { id: 'This cue lies outside this slide, so it was left out.' } },
    ])
    expect(placeCues(l, [ofFile(0, 1)], 'gone')).toMatchObject({ placed: [], problems: [{ line: 1 }] })
  })
})

describe('chapters of one slide', () => {
  const chapter = (start: number, end = start + 1, line = 1) => ({ start, end, text: 'Rain', markup: null, settings: '', line })
  const two = () => {
    const made = tests.lecture([tests.slide('a', 10), tests.slide('b', 10)])
    return { made, change: toSeconds(schedule(made).slides[1]!.startSamples) }
  }
  test('a file for one slide begins with the slide; another slide’s moments are outside', () => {
    const { made, change } = two()
    expect(placeChapters(made, [chapter(4, 6)], 'b').placed).toEqual([
      {
        slideId: 'b',
        start: expect.closeTo(4, 9),
        end: expect.closeTo(6, 9),
        text: 'Rain',
        markup: null,
        takeId: null,
        settings: '',
        needsReview: false,
        scriptText: '',
        manualEdit: null,
      },
    ])
    expect(placeChapters(made, [chapter(change + 1, change + 2, 7)], 'a').problems.map((p) => p.line)).toEqual([7])
    expect(placeChapters(made, [chapter(1)], 'gone')).toMatchObject({ placed: [], problems: [{ line: 1 }] })
  })
  test('a chapter near the beginning of a slide begins with it, on either side', () => {
    const { made, change } = two()
    const at = (start: number) =>
      placeChapters(made, [chapter(start)]).placed.map((p) => [p.slideId, Math.round(p.start * 100) / 100])
    expect([at(change - 0.2), at(change), at(change + 0.2)]).toEqual([[['b', 0]], [['b', 0]], [['b', 0]]])
    expect(at(change - 0.3)).toEqual([['a', Math.round((change - 0.3) * 100) / 100]])
    expect(at(change + 0.3)).toEqual([['b', 0.3]])
  })
  test('on the lecture they are in order, and stay on a slide that became shorter', () => {
    const { made, change } = two()
    const stored = (id: string, slideId: string, start: number) => ({
      ...placeChapters(made, [chapter(1)]).placed[0]!,
      id,
      slideId,
      start,
    })
    const length = toSeconds(schedule(made).slides[0]!.lengthSamples)
    const seen = chaptersOnLecture(made, [stored('2', 'b', 1), stored('1', 'a', 99), stored('0', 'a', 2), stored('x', 'gone', 0)])
    expect(seen.map((c) => [c.slideId, c.start])).toEqual([
      ['a', 2],
      ['a', length],
      ['b', change + 1],
    ])
  })
})
