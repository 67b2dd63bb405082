import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { cutOut } from '#core/audio/tidy-up/edit.ts'
import { DEFAULT_EXPORT_SETTINGS } from '#core/model/export-settings.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { DEFAULT_TIMING } from '#core/model/timing.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { clipSamples } from '#core/timing/time-map.ts'
import { bed, FIGURES, lecture, slide, speaking, step } from '#tests/made/lecture.ts'
import { checks } from './checks/checks.ts'
import { estimate, formName, type SegmentFacts, soundName } from './estimate.ts'
import { shownAt } from './frame-at.ts'
import { slideFrames } from './frames/frames.ts'
import { changesBetween, flatChapters, publicManifest, videosOf } from './manifest.ts'
import { plan, settingsFingerprint, slideCaptions, slideFingerprint } from './plan.ts'
import { transcriptHtml, transcriptOf } from './transcript.ts'
import { formOf } from './video-form.ts'

describe('the plan', () => {
  test('what lies under a slide is what lies under it when the whole lecture is cut at its edges', () => {
    const made = plan(
      lecture([slide('a', 4), slide('b', 0), slide('c', 6)], { beds: [{ ...bed, fromSlideId: 'a', toSlideId: 'b' }] }),
    )
    expect(made.slides.map((s) => s.beds.length)).toEqual([1, 1, 1])
    // after the run only the pre-roll holds what was before
    expect(made.slides[2]!.beds[0]!.to).toBe(2048)
    expect(made.slides[1]!.beds[0]!.fileSample).toBe((made.slides[1]!.startSamples - 2048) % toSamples(7))
  })
  test('a bed whose slides were moved covers what lies between its ends now', () => {
    const beds = [{ ...bed, fromSlideId: 'c', toSlideId: 'a' }]
    const made = plan(lecture([slide('x', 2), slide('a', 2), slide('b', 2), slide('c', 2)], { beds }))
    expect(made.slides.map((s) => s.beds.filter((b) => b.to > 2048).length)).toEqual([0, 1, 1, 1])
  })
  test('frames fill the slide, in order, whatever its length, steps and transition', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom(0, 0.01, 0.7, 2, 13.4, 30), { minLength: 2, maxLength: 5 }),
        fc.double({ min: 0.2, max: 1.5, noNaN: true }),
        fc.integer({ min: 1, max: 4 }),
        (lengths, seconds, steps) => {
          const slides = lengths.map((s, i) =>
            slide(`${i}`, s, { steps: Array.from({ length: steps }, (_, k) => step(`${i} ${k}`)) }),
          )
          for (const planned of plan(lecture(slides, { transition: { kind: 'wipe', seconds } })).slides) {
            const { encoded, shown: frames } = slideFrames(planned)
            expect(frames[0]!.at).toBe(0)
            for (let i = 1; i < frames.length; i++) expect(frames[i]!.at).toBeGreaterThan(frames[i - 1]!.at)
            expect(frames.at(-1)!.at).toBeLessThan(planned.lengthSamples)
            const pictures = frames.map((f) => encoded[f.encoded]!.picture).filter((picture) => picture >= 0)
            expect(new Set(pictures).size).toBe(steps)
          }
        },
      ),
    )
  })
  test('a section whose first slide is hidden begins with the next; its heading leads the chapter, and stands over it in the transcript', () => {
    const slides = [
      slide('a', 2, { section: 'One' }),
      slide('b', 2, { section: 'Two', hidden: true }),
      slide('c', 2),
      slide('d', 2),
      slide('e', 2, { section: 'Gone', hidden: true }),
    ]
    const made = plan(lecture(slides)).slides
    expect(made.map((s) => s.section)).toEqual(['One', 'Two', ''])
    const chapters = made.map(({ title, altText, section, startSamples, lengthSamples }) => ({
      ...{ title, altText, startSamples, lengthSamples, picture: '', loudnessLufs: null },
      ...(section ? { section } : {}),
    }))
    expect(flatChapters(chapters).map((c) => c.title)).toEqual(['One: Title a', 'Two: Title c', 'Title d'])
    const heading = { title: 'L', author: '', language: 'en' }
    const html = transcriptHtml(heading, transcriptOf({ chapters, language: 'en' }, []))
    expect([...html.matchAll(/<(h[23])>(?:<time>[^<]*<\/time> )?([^<]*)/g)].map((m) => `${m[1]} ${m[2]}`)).toEqual([
      'h2 One',
      'h3 Title a',
      'h2 Two',
      'h3 Title c',
      'h3 Title d',
    ])
  })
  test('a bookmark in what was cut away comes with what is heard next; one after all of it is left out', () => {
    const spoken = slide('a', 4)
    const [own] = spoken.takes
    own!.tidyUp = TidyUp.parse({ kept: { start: toSamples(1), end: toSamples(3) } })
    own!.bookmarks = [
      { at: 0, title: 'first' },
      { at: 2, title: 'second' },
      { at: 3.5, title: 'gone' },
    ]
    const [planned] = plan(lecture([spoken])).slides
    expect(planned!.bookmarks.map((b) => [b.title, b.atSamples / 48_000])).toEqual([
      ['first', 0.25],
      ['second', 1.25],
    ])
  })
  test('the fingerprint of settings changes with each thing learners get that is no slide’s, and with no slide', () => {
    const print = settingsFingerprint
    const before = lecture([slide('a', 3)])
    expect(print(lecture([slide('a', 9), slide('b', 4)]))).toBe(print(before))
    const settings = before.exportSettings
    for (const exportSettings of [
      { ...settings, height: 720 as const },
      { ...settings, author: 'The teacher' },
      { ...settings, burnedIn: 'en' },
      { ...settings, mp3: !settings.mp3 },
      { ...settings, presets: ['small' as const] },
    ])
      expect(print({ ...before, exportSettings })).not.toBe(print(before))
    expect(print({ ...before, title: 'Another' })).not.toBe(print(before))
    expect(print({ ...before, captionTracks: before.captionTracks.map((track) => ({ ...track, label: 'Other' })) })).not.toBe(
      print(before),
    )
  })
  test('the fingerprint of a slide changes with what learners see and hear, and with nothing else', () => {
    const print = (l: Lecture, id = 'b') => slideFingerprint(plan(l).slides.find((s) => s.slideId === id)!, slideCaptions(l, id))
    const before = lecture([slide('a', 3), slide('b', 4)])
    expect(print(lecture([slide('a', 9), slide('b', 4, { script: 'Other words.' })]))).toBe(print(before))
    expect(print(lecture([slide('a', 3), slide('b', 4, { steps: [step('other')] })]))).not.toBe(print(before))
    expect(print(lecture([slide('a', 3), slide('b', 5)]))).not.toBe(print(before))
    expect(print({ ...before, captionTracks: [] })).not.toBe(print(before))
  })
})

test('what is shown follows the plan: transition, then the picture, then its next step', () => {
  const made = plan(
    lecture([slide('a', 3), slide('b', 10, { steps: [step('b1'), step('b2')] })], { transition: { kind: 'push', seconds: 0.5 } }),
  )
  const start = made.slides[1]!.startSamples / 48_000
  expect(shownAt(made, start - 0.01)).toEqual({ slide: 0, picture: 'picture a', transition: null, films: [] })
  expect(shownAt(made, start + 0.25)).toEqual({
    slide: 1,
    picture: 'picture b1',
    transition: { from: 'picture a', kind: 'push', progress: 0.5 },
    films: [],
  })
  expect(shownAt(made, start + 2).picture).toBe('picture b1')
  expect(shownAt(made, start + 7).picture).toBe('picture b2')
  expect(shownAt(made, 1e6).slide).toBe(1)
  expect(shownAt(made, -5).slide).toBe(0)
})

describe('checks', () => {
  const kinds = (l: Lecture, ...more: Parameters<typeof checks> extends [Lecture, ...infer R] ? R : never) =>
    checks(l, ...more).map((c) => c.kind)
  test('a lecture in order has none', () => expect(kinds(lecture([slide('a', 3), slide('b', 4)]))).toEqual([]))
  test.each<[string, Lecture]>([
    ['no-sound', lecture([slide('a', 0)])],
    ['long-lead', lecture([slide('a', 3, { timing: { leadSeconds: 0.8 } })])],
    ['long-slide', lecture([slide('a', 200)])],
    ['coarse-picture', lecture([slide('a', 3, { steps: [{ ...step('a'), width: 800, height: 450 }] })])],
    ['no-alt-text', lecture([slide('a', 3, { altText: ' ' })])],
    ['no-alt-text', lecture([slide('a', 3, { altText: '/home/somebody/pictures/lock.png' })])],
    ['long-pause', lecture([speaking('a', 12, [0, 4], [8, 12])])],
    ['over-pace', lecture([slide('a', 8)], { timing: { ...DEFAULT_TIMING, paceSeconds: 5 } })],
    ['no-captions', { ...lecture([slide('a', 3)]), captionTracks: [] }],
  ])('%s is found', (kind, l) => expect(kinds(l)).toEqual([kind]))
  test('a long pause is shortened by one press, and then there is none', () => {
    const l = lecture([speaking('a', 20, [0, 4], [8, 12], [13, 15], [18.5, 20])])
    const [check] = checks(l)
    expect(check!.finding).toBe('Slide 1 is silent 2 times in the middle, for 4.0 s at most')
    const { tidyUp } = check!.fix!.tidyUps![0]!
    expect(clipSamples(tidyUp)).toBe(toSamples(20 - 3 - 2.5))
    l.slides[0]!.takes[0]!.tidyUp = tidyUp
    expect(kinds(l)).toEqual([])
  })
  test('what was said twice is told as long as both sayings are heard, also after cuts by hand', () => {
    const l = lecture([speaking('a', 14, [1, 3], [3.4, 6], [7, 13])])
    const take = l.slides[0]!.takes[0]!
    take.findings = { repeated: [{ text: 'It rains.', start: 1, end: 3.4 }], offScript: [], skipped: [], needsReview: [] }
    expect(kinds(l)).toEqual(['said-twice'])
    const cut = (from: number, to: number) => cutOut(take.tidyUp!, { start: toSamples(from), end: toSamples(to) })
    const whole = take.tidyUp!
    // all of the first saying but its very end was cut out on the bench
    take.tidyUp = cut(0.9, 2.9)
    expect(kinds(l)).toEqual([])
    // the second one was
    take.tidyUp = whole
    take.tidyUp = cut(3.3, 6.2)
    expect(kinds(l)).toEqual([])
    // a breath of it was
    take.tidyUp = whole
    take.tidyUp = cut(0.9, 1.3)
    expect(kinds(l)).toEqual(['said-twice'])
  })
  test('a take of the practice microphone is named before all else', () => {
    const practised = slide('a', 3)
    practised.takes[0]!.microphone = 'Practice microphone, beside a fan'
    expect(kinds(lecture([practised]))).toEqual(['practice-voice'])
    // another take of it that is not kept says nothing
    practised.keptTakeId = null
    expect(kinds(lecture([practised]))).toEqual(['no-sound'])
  })
  test('a text slide, and a slide under music, may be silent', () => {
    expect(kinds(lecture([slide('a', 0, { script: '', card: { heading: 'H', line: '', colours: 'ink' } })]))).toEqual([])
    expect(kinds(lecture([slide('a', 0, { script: '' })], { beds: [{ ...bed, fromSlideId: 'a', toSlideId: 'a' }] }))).toEqual([])
    expect(kinds(lecture([slide('a', 0)], { beds: [{ ...bed, fromSlideId: 'a', toSlideId: 'a' }] }))).toEqual(['no-sound'])
  })
  test('a noisy room is found, and the fix cleans more strongly', () => {
    const noisy = slide('a', 3)
    noisy.takes[0]!.clip!.figures = { ...FIGURES, noiseFloorDb: -40 }
    const [check] = checks(lecture([noisy]))
    expect(check!.kind).toBe('noisy')
    expect(check!.fix!.tidyUps![0]!.tidyUp.cleaning).toBeGreaterThan(0.6)
  })
  test('a clip that is over its pace gets a recipe that is shorter', () => {
    const l = lecture([slide('a', 20.5)], { timing: { ...DEFAULT_TIMING, paceSeconds: 20 } })
    const [check] = checks(l)
    expect(check!.fix!.label).toContain('Make it fit')
    const fixed = slide('a', 20.5)
    fixed.takes[0]!.tidyUp = check!.fix!.tidyUps![0]!.tidyUp
    expect(kinds(lecture([fixed], { timing: l.timing }))).not.toContain('over-pace')
  })
  test('what changed since the newest edition is told, and asks for nothing', () => {
    const l = lecture([slide('a', 3), slide('b', 3)])
    const now = new Map([
      ['a', 1],
      ['b', 2],
    ])
    const published = { number: 4, fingerprints: new Map([['a', 1]]), now }
    expect(checks(l, undefined, published)).toMatchObject([
      { kind: 'changed', level: 'note', slideId: 'b', finding: 'Slide 2 is new since edition 4' },
    ])
  })
})

describe('two editions', () => {
  const slides = (names: string) =>
    [...names].map((name) => ({ slideId: name.toLowerCase(), fingerprint: name.charCodeAt(0), title: name.toLowerCase() }))
  const told = (earlier: string, later: string) =>
    changesBetween(slides(earlier), slides(later)).map((change) => `${change.title} ${change.kind}`)
  test('what changed, came, went and was moved is told; what only slid along is not', () => {
    expect(told('abcd', 'abcd')).toEqual([])
    expect(told('abcd', 'aBcd')).toEqual(['b changed'])
    expect(told('abcd', 'xabc')).toEqual(['x new', 'd gone'])
    expect(told('abcd', 'dabc')).toEqual(['d moved'])
    expect(told('abcdef', 'acbdfe')).toHaveLength(2)
    expect(told('', 'ab')).toEqual(['a new', 'b new'])
  })
})

describe('what is estimated', () => {
  const form = formOf(DEFAULT_EXPORT_SETTINGS, 'standard')
  const slides = plan(lecture(Array.from({ length: 60 }, (_, i) => slide(`${i}`, 59)))).slides
  const entry = (known: SegmentFacts | null) => slides.map((planned) => ({ known, plan: planned }))
  const part = (kind: 'video' | 'sound', milliseconds: number): SegmentFacts => ({
    kind,
    form: kind === 'video' ? formName(form) : soundName(form),
    bytes: kind === 'video' ? 60_000 : 950_000,
    milliseconds,
    lengthSamples: slides[1]!.lengthSamples,
    frameBytes: kind === 'video' ? [58_000, 90] : [],
    newFrames: kind === 'video' ? 1 : 0,
  })
  test('sizes are those of the segments that were made, or of segments like them', () => {
    const learnt = [part('video', 300), part('sound', 700)]
    const unknown = estimate(form, entry(null), entry(null), learnt)
    const known = estimate(form, entry(part('video', 300)), entry(part('sound', 700)), learnt)
    expect(Math.abs(unknown.bytes / known.bytes - 1)).toBeLessThan(0.01)
    expect(known).toMatchObject({ ready: 120, segments: 120 })
    expect(unknown).toMatchObject({ ready: 0, segments: 120 })
    // nothing is left to make but the whole
    expect(known.seconds).toBeLessThan(unknown.seconds / 4)
  })
  test('before anything was made the small pictures and the change of slides tell, and what was made tells more', () => {
    const { lengthSamples, pictures } = slides[1]!
    const told = (thumbnailBytes: number, kind: 'cross-fade' | 'wipe' | null, learnt: SegmentFacts[] = []) => {
      const transition = kind && { kind, frames: 15, from: 'another' }
      const plan = { lengthSamples, pictures, transition } as (typeof slides)[number]
      return estimate(form, [{ known: null, plan, thumbnailBytes }], [], learnt).bytes
    }
    const more = told(8000, null) - told(4000, null)
    expect(more).toBeGreaterThan(4000)
    // fifteen frames of a change: those of a wipe weigh little, those of a cross-fade much, and none as much as a whole picture
    const wipe = told(4000, 'wipe') - told(4000, null)
    const fade = told(4000, 'cross-fade') - told(4000, null)
    expect(wipe).toBeGreaterThan(0)
    expect(fade).toBeGreaterThan(3 * wipe)
    expect(fade).toBeLessThan(15 * more)
    expect(told(8000, null, [part('video', 300)])).toBe(told(4000, null, [part('video', 300)]))
  })
  test('with nothing made, each part is what a first lecture’s is', () => {
    const [planned] = slides as [(typeof slides)[number]]
    const first = estimate(form, [{ known: null, plan: planned }], [{ known: null, plan: planned }], [])
    const seconds = planned.lengthSamples / 48_000
    const { shown, encoded } = slideFrames(planned, form.rate)
    const newOnes = encoded.filter((frame) => !frame.repeat).length
    const repeats = shown.filter((frame) => encoded[frame.encoded]!.repeat).length
    const pictures = (shown.length - repeats) * 75_000 + repeats * 90 + shown.length * 8
    expect(first.bytes).toBe(Math.round(pictures + (seconds * form.sound.kilobits * 1000) / 8))
    // two at a time, and half a second at least for joining
    expect(first.seconds).toBeCloseTo((newOnes * 340 + seconds * 13.5) / 2000 + 0.5, 6)
  })
  test('a smaller picture has fewer bytes, and takes six tenths of the time at least', () => {
    const [planned] = slides as [(typeof slides)[number]]
    const of = (height: number) => estimate({ ...form, height }, [{ known: null, plan: planned }], [], [])
    const news = 75_000 * (1 - (720 / 1080) ** 1.5)
    expect((of(1080).bytes - of(720).bytes) / news).toBeCloseTo(Math.round((of(1080).bytes - of(720).bytes) / news), 3)
    expect(of(1080).bytes).toBeGreaterThan(of(720).bytes)
    expect((of(720).seconds - 0.5) / (of(1080).seconds - 0.5)).toBeCloseTo(0.6, 6)
  })
  test('only segments of the same form teach', () => {
    const [planned] = slides as [(typeof slides)[number]]
    const told = (...learnt: SegmentFacts[]) =>
      estimate(form, [{ known: null, plan: planned }], [{ known: null, plan: planned }], learnt)
    const nothing = told()
    expect(told({ ...part('video', 300), form: 'other' }, { ...part('sound', 700), form: 'other' })).toEqual(nothing)
    // a sound that goes by the name of a picture teaches nothing about pictures, and the other way round
    expect(told({ ...part('video', 300), form: soundName(form) })).toEqual(nothing)
    expect(told({ ...part('sound', 700), form: formName(form) })).toEqual(nothing)
    expect(told(part('sound', 700)).bytes).not.toBe(nothing.bytes)
    expect(told(part('video', 300)).bytes).not.toBe(nothing.bytes)
  })
  test('what was learnt of sound and pictures is told for each second and each new frame', () => {
    const [planned] = slides as [(typeof slides)[number]]
    const sound = estimate(form, [], [{ known: null, plan: planned }], [part('sound', 700)])
    expect(sound.bytes).toBe(Math.round((950_000 * planned.lengthSamples) / slides[1]!.lengthSamples))
    expect(sound.seconds).toBeCloseTo((700 * planned.lengthSamples) / slides[1]!.lengthSamples / 2000 + 0.5, 6)
    const { encoded } = slideFrames(planned, form.rate)
    const picture = estimate(form, [{ known: null, plan: planned }], [], [part('video', 300)])
    expect(picture.seconds).toBeCloseTo((encoded.filter((frame) => !frame.repeat).length * 300) / 2000 + 0.5, 6)
    const known = estimate(form, [], [{ known: part('sound', 700), plan: planned }], [])
    expect(known).toMatchObject({ bytes: 950_000 - 1200, ready: 1, segments: 1 })
  })
  test('names of forms tell container, lines and rate, or codec, channels and bits', () => {
    expect([formName({ ...form, rate: null }), formName({ ...form, rate: 30 })]).toEqual(['mp4 1080 variable', 'mp4 1080 30'])
    expect(soundName({ sound: { codec: 'opus', channels: 1, kilobits: 32 } as never })).toBe('opus 1 32')
  })
  test('a machine that was slow at its segments is slow at joining them', () => {
    const joining = (factor: number) =>
      estimate(form, entry(part('video', 1)), entry(part('sound', 1)), [part('video', 300 * factor), part('sound', 700 * factor)])
        .seconds
    expect(joining(3) / joining(1)).toBeCloseTo(3, 5)
  })
})

describe('the manifest', () => {
  test('what the teacher was told to look at is not published', () => {
    const manifest = { title: 'L', checks: ['a'], passed: ['b'], settings: 7, captions: [], chapters: [] } as never
    expect(publicManifest(manifest)).toEqual({ title: 'L', captions: [], chapters: [] })
  })
  test('an early edition had one video and did not say so', () => {
    const video = { preset: 'standard', file: 'video.mp4', contentType: 'video/mp4', width: 1920, height: 1080, bytes: 0 }
    expect(videosOf({} as never)).toEqual([video])
    expect(videosOf({ videos: [] } as never)).toEqual([])
  })
  test('chapters without levels: a bookmark ends what is before it; one on the edge of its slide is none', () => {
    const chapter = (title: string, startSamples: number, ...marks: number[]) => ({
      title,
      startSamples,
      lengthSamples: 100,
      bookmarks: marks.map((at) => ({ title: `at ${at}`, startSamples: at })),
    })
    const flat = flatChapters([{ ...chapter('A', 0, 0, 40, 70, 100), section: 'Part' }, chapter('B', 100)])
    expect(flat).toEqual([
      { title: 'Part: A', startSamples: 0, endSamples: 40 },
      { title: 'at 40', startSamples: 40, endSamples: 70 },
      { title: 'at 70', startSamples: 70, endSamples: 100 },
      { title: 'B', startSamples: 100, endSamples: 200 },
    ])
    const { bookmarks: _, ...early } = chapter('C', 200)
    expect(flatChapters([early])).toEqual([{ title: 'C', startSamples: 200, endSamples: 300 }])
  })
  test('of slides in another order the fewest are told to have moved; a new name is a change', () => {
    const shown = (...names: string[]) => names.map((name) => ({ slideId: name[0]!, fingerprint: 1, title: name }))
    const changes = (from: string[], to: string[]) =>
      changesBetween(shown(...from), shown(...to)).map((c) => `${c.title} ${c.kind}`)
    expect(changes(['a', 'b', 'c', 'd'], ['d', 'a', 'b', 'c'])).toEqual(['d moved'])
    expect(changes(['a', 'b', 'c', 'd'], ['b', 'c', 'd', 'a'])).toEqual(['a moved'])
    expect(changes(['a', 'b', 'c'], ['x', 'c', 'a', 'b'])).toEqual(['x new', 'c moved'])
    expect(changes(['a', 'b'], ['a', 'b2'])).toEqual(['b2 changed'])
    expect(changes([], ['a'])).toEqual(['a new'])
    expect(changes(['a'], [])).toEqual(['a gone'])
  })
})
