/** What is shown and heard when: captions drawn in, speech under beds, bookmarks, fingerprints. */
import { describe, expect, test } from 'vitest'
import type { StoredCue } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { bed, lecture, slide, speaking, step } from '#tests/made/lecture.ts'
import {
  bedRun,
  captionedSpans,
  lectureSpeech,
  placedBeds,
  plan,
  settingsFingerprint,
  slideCaptions,
  slideFingerprint,
} from './plan.ts'

describe('captions drawn into pictures', () => {
  const one = [{ picture: 'p', atSamples: 0 }]
  const two = [...one, { picture: 'q', atSamples: 100 }]
  test('a picture is new where a caption comes and where it goes', () =>
    expect(captionedSpans(one, [{ start: 20, end: 60, text: 'Hello' }], 200)).toEqual([
      { picture: 'p', atSamples: 0 },
      { picture: 'p', caption: 'Hello', atSamples: 20 },
      { picture: 'p', atSamples: 60 },
    ]))
  test('a caption from the first sample on leaves no bare picture before it', () =>
    expect(captionedSpans(one, [{ start: 0, end: 60, text: 'Hello' }], 60)).toEqual([
      { picture: 'p', caption: 'Hello', atSamples: 0 },
    ]))
  test('it goes on over the next picture', () =>
    expect(
      captionedSpans(two, [{ start: 50, end: 150, text: 'Hello' }], 200).map((s) => [s.picture, s.caption, s.atSamples]),
    ).toEqual([
      ['p', undefined, 0],
      ['p', 'Hello', 50],
      ['q', 'Hello', 100],
      ['q', undefined, 150],
    ]))
  test('two at once stand under one another; the same words again are no new picture', () => {
    const over = [
      { start: 0, end: 60, text: 'one' },
      { start: 40, end: 90, text: 'two' },
    ]
    expect(captionedSpans(one, over, 200).map((s) => [s.caption, s.atSamples])).toEqual([
      ['one', 0],
      ['one\ntwo', 40],
      ['two', 60],
      [undefined, 90],
    ])
    const same = [
      { start: 0, end: 60, text: 'one' },
      { start: 60, end: 90, text: 'one' },
    ]
    expect(captionedSpans(one, same, 90)).toHaveLength(1)
  })
  test('nothing begins at the end of the slide or after it; without captions the pictures are as they were', () => {
    expect(captionedSpans(two, [{ start: 250, end: 300, text: 'late' }], 200)).toEqual(two)
    expect(captionedSpans(two, [{ start: 200, end: 300, text: 'late' }], 200)).toEqual(two)
    expect(captionedSpans(two, [], 200)).toEqual(two)
  })
  test('a picture that comes later than the first sample is seen from the first sample on', () =>
    expect(captionedSpans([{ picture: 'p', atSamples: 10 }], [], 200)).toEqual([{ picture: 'p', atSamples: 0 }]))
  test('the wanted language is drawn in, each caption on its own slide', () => {
    const said = (burnedIn: string | null) => {
      const made = lecture([slide('a', 3), slide('b', 4)])
      made.exportSettings = { ...made.exportSettings, burnedIn }
      return plan(made).slides.map((s) => s.pictures.map((p) => [p.caption, p.atSamples / 48_000]))
    }
    expect(said(null)).toEqual([[[undefined, 0]], [[undefined, 0]]])
    expect(said('fr')).toEqual(said(null))
    // lead of 0.25 s, caption of one second
    const spans = [
      [undefined, 0],
      ['Some words.', 0.25],
      [undefined, 1.25],
    ]
    expect(said('en')).toEqual([spans, spans])
  })
  test('several captions of one slide are all drawn in', () => {
    const made = lecture([slide('a', 5)])
    const [track] = made.captionTracks
    const [cue] = track!.cues as [StoredCue]
    track!.cues = [cue, { ...cue, id: 'second', start: 2, end: 3, text: 'More.' }]
    made.exportSettings = { ...made.exportSettings, burnedIn: 'en' }
    expect(plan(made).slides[0]!.pictures.map((p) => p.caption)).toEqual([
      undefined,
      'Some words.',
      undefined,
      'More.',
      undefined,
    ])
  })
})

describe('speech on the lecture’s clock', () => {
  const speech = (made: Lecture) => lectureSpeech(made, schedule(made)).map((s) => [s.start / 48_000, s.end / 48_000])
  test('each stretch stands after the lead of its slide and the slides before', () => {
    const made = lecture([speaking('a', 3, [0.5, 1], [2, 3]), speaking('b', 4, [1, 2])])
    const [, second] = schedule(made).slides
    const from = second!.startSamples / 48_000 + 0.25
    expect(speech(made)).toEqual([
      [0.75, 1.25],
      [2.25, 3.25],
      [from + 1, from + 2],
    ])
  })
  test('what was cut out is not heard; what is cut into is heard as far as it is kept', () => {
    const made = speaking('a', 5, [0.5, 1], [2, 4])
    made.takes[0]!.tidyUp = TidyUp.parse({ kept: { start: toSamples(1), end: toSamples(3) } })
    expect(speech(lecture([made]))).toEqual([[1.25, 2.25]])
  })
  test('a slide without a take, without a recipe or without an analysis is silent', () => {
    const raw = speaking('a', 3, [0, 1])
    raw.takes[0]!.tidyUp = null
    const unheard = speaking('b', 3, [0, 1])
    unheard.takes[0]!.analysis = null
    const gone = speaking('c', 3, [0, 1])
    gone.takes[0]!.tidyUp = TidyUp.parse({ kept: { start: 0, end: toSamples(3) }, cuts: [{ start: 0, end: toSamples(3) }] })
    expect(speech(lecture([raw, unheard, gone, slide('d', 0)]))).toEqual([])
    expect(plan(lecture([raw, gone, slide('d', 0)])).slides.map((s) => s.sound)).toEqual([null, null, null])
  })
})

describe('slides that a bed covers', () => {
  const run = (made: Lecture, fromSlideId: string, toSlideId: string) => bedRun(made, { fromSlideId, toSlideId }, schedule(made))
  const four = () => lecture(['a', 'b', 'c', 'd'].map((id) => slide(id, 3)))
  test('from one end to the other, in whatever order they stand', () => {
    expect(run(four(), 'b', 'c')).toEqual({ first: 1, last: 2 })
    expect(run(four(), 'd', 'b')).toEqual({ first: 1, last: 3 })
    expect(run(four(), 'b', 'b')).toEqual({ first: 1, last: 1 })
  })
  test('an end that is gone leaves the other; none leaves nothing', () => {
    expect(run(four(), 'x', 'c')).toEqual({ first: 2, last: 2 })
    expect(run(four(), 'a', 'x')).toEqual({ first: 0, last: 0 })
    expect(run(four(), 'x', 'y')).toBeNull()
  })
  test('hidden slides are passed over; only hidden ones are nothing', () => {
    const made = four()
    made.slides[1]!.hidden = true
    expect(run(made, 'a', 'c')).toEqual({ first: 0, last: 1 })
    expect(run(made, 'b', 'b')).toBeNull()
    expect(placedBeds({ ...made, beds: [{ ...bed, fromSlideId: 'b', toSlideId: 'b' }] }, schedule(made))).toEqual([])
  })
  test('without a bed nothing lies under any slide', () => {
    expect(placedBeds(four(), schedule(four()))).toEqual([])
    expect(plan(four()).slides.flatMap((s) => s.beds)).toEqual([])
  })
})

describe('what a slide takes with it', () => {
  test('the clip from its lead on; the first slide has no change before it', () => {
    const transition = { kind: 'wipe' as const, seconds: 0.5 }
    const [first, second] = plan(lecture([slide('a', 3), slide('b', 4)], { transition })).slides
    expect(first).toMatchObject({ transition: null, sound: { clip: 'clip take a', samples: toSamples(3) } })
    expect(second!.transition).toMatchObject({ kind: 'wipe', from: 'picture a' })
    expect(second!.sound!.atSamples).toBe(
      schedule(lecture([slide('a', 3), slide('b', 4)], { transition })).slides[1]!.leadSamples,
    )
  })
  test('bookmarks in the order in which they are heard, whatever the order in which they were set', () => {
    const made = slide('a', 9)
    made.takes[0]!.bookmarks = [
      { at: 6, title: 'second' },
      { at: 2, title: 'first' },
    ]
    expect(plan(lecture([made])).slides[0]!.bookmarks.map((b) => [b.title, b.atSamples / 48_000])).toEqual([
      ['first', 2.25],
      ['second', 6.25],
    ])
    expect(plan(lecture([slide('a', 0)])).slides[0]!.bookmarks).toEqual([])
  })
  test('with no slide to show there is no plan', () =>
    expect(() => plan(lecture([slide('a', 3, { hidden: true })]))).toThrow('There is no slide to show'))
})

describe('fingerprints', () => {
  test('captions are told slide by slide', () => {
    const made = lecture([slide('a', 3), slide('b', 4)])
    expect(slideCaptions(made, 'a')).toEqual(['en take a 0 1 Some words.'])
    expect(slideCaptions(made, 'x')).toEqual([])
  })
  test('a caption said otherwise on one slide changes that slide only', () => {
    const print = (l: Lecture, id: string) =>
      slideFingerprint(plan(l).slides.find((s) => s.slideId === id)!, slideCaptions(l, id))
    const [before, after] = [lecture([slide('a', 3), slide('b', 4)]), lecture([slide('a', 3), slide('b', 4)])]
    after.captionTracks[0]!.cues[1]!.text = 'Other words.'
    expect(print(after, 'a')).toBe(print(before, 'a'))
    expect(print(after, 'b')).not.toBe(print(before, 'b'))
  })
  test('a bookmark changes its slide; none is what no bookmark ever was', () => {
    const print = (made: ReturnType<typeof slide>) => slideFingerprint(plan(lecture([made])).slides[0]!, [])
    const marked = slide('a', 3)
    marked.takes[0]!.bookmarks = [{ at: 2, title: 'first' }]
    const named = slide('a', 3)
    named.takes[0]!.bookmarks = [{ at: 2, title: 'other' }]
    expect(new Set([print(slide('a', 3)), print(marked), print(named)]).size).toBe(3)
    const { startSamples: _, thumbnail: __, bookmarks: ___, ...seen } = plan(lecture([slide('a', 3)])).slides[0]!
    expect(print(slide('a', 3))).toBe(slideFingerprint({ ...seen, startSamples: 9, thumbnail: 'x', bookmarks: [] }, []))
  })
  test('chapters and whether a track has anything to say are settings of the lecture', () => {
    const chapter = (text: string, start = 1) =>
      lecture([slide('a', 3)], {
        chapterTracks: [{ id: 't', language: 'en', label: '', cues: [{ start, end: 2, text } as StoredCue] } as never],
      })
    const prints = [chapter('one'), chapter('two'), chapter('one', 1.5), lecture([slide('a', 3)])].map(settingsFingerprint)
    expect(new Set(prints).size).toBe(4)
    const emptied = lecture([slide('a', 3)])
    emptied.captionTracks[0]!.cues = []
    expect(settingsFingerprint(emptied)).not.toBe(prints[3])
  })
  test('a picture of several is the last one for the shelf and for the next slide', () => {
    const two = slide('a', 3, { steps: [step('1'), step('2')] })
    const [first, second] = plan(lecture([two, slide('b', 3)], { transition: { kind: 'push', seconds: 0.5 } })).slides
    expect(first!.thumbnail).toBe('small 2')
    expect(second!.transition!.from).toBe('picture 2')
  })
})
