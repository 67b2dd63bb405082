import { describe, expect, test } from 'vitest'
import { DEFAULT_EXPORT_SETTINGS } from '#core/model/export-settings.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Take } from '#core/model/take.ts'
import { DEFAULT_TIMING } from '#core/model/timing.ts'
import { NO_TRANSITION } from '#core/model/transition.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { chaptersOnLecture, placeChapters } from './chapter-tracks.ts'
import { cuesOnLecture, placeCues, speechOnLecture } from './place-cues.ts'

const stretch = (start: number, end: number) => ({ start: toSamples(start), end: toSamples(end) })

describe('cues on the clocks', () => {
  const take = (id: string, kept: { start: number; end: number }) =>
    ({ id, tidyUp: { kept, cuts: [], highPassHz: 70, cleaning: 0, roomTone: null, level: null } }) as unknown as Take
  const lecture = (kept = stretch(1, 11)): Lecture => ({
    id: 'l',
    title: '',
    language: 'en',
    timing: DEFAULT_TIMING,
    lineCharacters: 37,
    captionTracks: [],
    chapterTracks: [],
    transition: NO_TRANSITION,
    exportSettings: DEFAULT_EXPORT_SETTINGS,
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
      warnings: [],
      buildsOn: false,
      section: '',
      offered: [],
      steps: [],
      keptTakeId: `t${id}`,
      takes: [take(`t${id}`, kept)],
    })),
  })
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
      { line: 42, message: 'This cue lies outside every slide, so it was left out.' },
    ])
  })
  test('a cue over a change of slide goes where more of it is, and that is said', () => {
    const l = lecture()
    const { placed, problems } = placeCues(l, [{ start: 9, end: 12, text: 'x', markup: null, settings: '', line: 7 }])
    expect(placed.map((p) => p.slideId)).toEqual(['a'])
    expect(problems).toEqual([
      { line: 7, message: 'This cue reaches over a change of slide; it was put on slide 1 and ends there.' },
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
})
