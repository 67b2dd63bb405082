/** Each check before publishing at its threshold, what it says, and what its one press makes of the lecture. */
import { describe, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import type { Take } from '#core/model/take.ts'
import { DEFAULT_TIMING } from '#core/model/timing.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { clipSamples } from '#core/timing/time-map.ts'
import { bed, FIGURES, lecture, slide, speaking, step } from '#tests/made/lecture.ts'
import type { CheckKind } from './check.ts'
import { checks, holding } from './checks.ts'

const told = (l: Lecture) => checks(l).map(({ kind, level, finding, advice, fix }) => ({ kind, level, finding, advice, fix }))
const kinds = (l: Lecture) => checks(l).map((check) => check.kind)
/** One of some kind. */
const one = (l: Lecture, kind: CheckKind) => {
  const found = checks(l).filter((check) => check.kind === kind)
  expect(found).toHaveLength(1)
  return found[0]!
}
const takeOf = (s: Slide) => s.takes[0]!
/** A slide of three seconds whose take is changed. */
function withTake(change: (take: Take) => void, more: Partial<Slide> = {}): Slide {
  const made = slide('a', 3, more)
  change(takeOf(made))
  return made
}

describe('what is missing', () => {
  test('a slide without sound says how long it would be silent', () => {
    const timing = { holdSeconds: 7 }
    expect(told(lecture([slide('a', 0, { timing })]))).toEqual([
      {
        kind: 'no-sound',
        level: 'missing',
        finding: 'Slide 1 has no sound',
        advice: 'It would be shown in silence for 7 s',
        fix: undefined,
      },
    ])
  })
  test('hidden slides are nothing to speak of, and are not counted', () => {
    const found = checks(lecture([slide('h', 0, { hidden: true }), slide('a', 3), slide('b', 0)]))
    expect(found).toMatchObject([{ kind: 'no-sound', slideId: 'b', slideNumber: 2, finding: 'Slide 2 has no sound' }])
  })
  test('one that is still tidied is told with its problem, if it has one', () => {
    const waiting = (change: (take: Take) => void) => one(lecture([withTake(change)]), 'not-tidied')
    expect(waiting((take) => (take.clip = null)).advice).toBe('This takes a few seconds')
    expect(waiting((take) => (take.tidyUp = null)).level).toBe('missing')
    const failed = waiting((take) => {
      take.clip = null
      take.problem = { id: 'It could not be tidied.' }
    })
    expect(failed.advice).toBe('It could not be tidied.')
  })
  test('a silent slide with a script is missed though music lies under it; under one end of a bed it is covered', () => {
    const beds = [{ ...bed, fromSlideId: 'c', toSlideId: 'b' }]
    const silent = (id: string, script = '') => slide(id, 0, { script })
    expect(kinds(lecture([silent('a'), silent('b'), silent('c'), silent('d')], { beds }))).toEqual(['no-sound', 'no-sound'])
    expect(checks(lecture([silent('a'), silent('b'), silent('c'), silent('d')], { beds })).map((c) => c.slideId)).toEqual([
      'a',
      'd',
    ])
    expect(kinds(lecture([silent('b', 'Some words.'), silent('c')], { beds }))).toEqual(['no-sound'])
  })
  test('what is missing comes first, what asks for nothing last', () => {
    const l = lecture([slide('a', 3, { altText: '' }), slide('b', 0), slide('c', 0, { script: '', buildsOn: true })])
    expect(checks(l).map((check) => check.level)).toEqual(['missing', 'missing', 'look', 'note'])
  })
})

describe('sound', () => {
  test('a take in which nobody speaks, and one that is too loud', () => {
    expect(kinds(lecture([withTake((take) => (take.analysis!.speech = []))]))).toEqual(['no-voice'])
    expect(kinds(lecture([withTake((take) => (take.analysis!.clippedSamples = 1))]))).toEqual(['clipped'])
    expect(kinds(lecture([withTake((take) => (take.analysis = null))]))).toEqual([])
  })
  test('a room is heard from 32 LU below the voice on; one press cleans more, and there is none where it is strong already', () => {
    const roomAt = (noiseFloorDb: number | null, cleaning = 0.6) =>
      lecture([
        withTake((take) => {
          take.clip!.figures = { ...FIGURES, noiseFloorDb }
          take.tidyUp = { ...take.tidyUp!, cleaning }
        }),
      ])
    expect(kinds(roomAt(-48))).toEqual([])
    expect(kinds(roomAt(null))).toEqual([])
    expect(one(roomAt(-47.9), 'noisy')).toMatchObject({
      finding: 'The room is heard on slide 1',
      advice: 'Clean it more strongly',
      fix: { label: 'Clean more strongly', tidyUps: [{ takeId: 'take a', tidyUp: { cleaning: 0.85 } }] },
    })
    expect(one(roomAt(-40, 0.84), 'noisy').fix).toBeDefined()
    const strong = one(roomAt(-40, 0.85), 'noisy')
    expect(strong.fix).toBeUndefined()
    expect(strong.advice).toBe('Record it again nearer to the microphone')
    const unknown = withTake((take) => (take.clip!.figures = { ...FIGURES, noiseFloorDb: -20, loudnessLufs: null }))
    expect(kinds(lecture([unknown]))).toEqual([])
  })
  test('over its pace: what shorter pauses cannot bring down is told as such', () => {
    const timing = { ...DEFAULT_TIMING, paceSeconds: 5 }
    const much = one(lecture([slide('a', 8)], { timing }), 'over-pace')
    expect(much.finding).toMatch(/^Slide 1 is [\d.]+ s over its pace$/)
    expect(much.advice).toBe('Shorter pauses are not enough: say less, or cut a sentence')
    const pausing = one(lecture([speaking('a', 6, [0, 2], [4, 6])], { timing }), 'over-pace')
    expect(pausing.advice).toBe('Its sound is never cut, so the slide stays longer')
    expect(pausing.fix!.label).toMatch(/^Make it fit: /)
    expect(clipSamples(pausing.fix!.tidyUps![0]!.tidyUp)).toBeLessThan(toSamples(5))
    expect(kinds(lecture([slide('a', 4)], { timing }))).toEqual([])
  })
  test('slides that differ by more than 1 LU are told, and one press brings those to −16 that are set otherwise', () => {
    const loud = (id: string, loudnessLufs: number | null, targetLufs = -16) => {
      const made = slide(id, 3)
      takeOf(made).clip!.figures = { ...FIGURES, loudnessLufs }
      takeOf(made).tidyUp!.level = { targetLufs, ceilingDbtp: -1, even: true }
      return made
    }
    expect(kinds(lecture([loud('a', -16), loud('b', -17)]))).toEqual([])
    expect(kinds(lecture([loud('a', -16), loud('b', null)]))).toEqual([])
    const uneven = one(lecture([loud('a', -16), loud('b', -20.25, -20), loud('c', -16)]), 'uneven-loudness')
    expect(uneven).toMatchObject({ slideId: null, slideNumber: null, level: 'look' })
    expect(uneven.advice).toMatch(/^They differ by 4\.[23] LU/)
    expect(uneven.fix).toEqual({
      label: 'Bring all to −16 LUFS',
      tidyUps: [
        { takeId: 'take b', tidyUp: expect.objectContaining({ level: { targetLufs: -16, ceilingDbtp: -1, even: true } }) },
      ],
    })
    // nothing is set otherwise: there is nothing to press
    expect(one(lecture([loud('a', -16), loud('b', -18)]), 'uneven-loudness').fix).toBeUndefined()
  })
  test('what the speaker marked as wrong is told while it is heard, and cut out by one press', () => {
    const marked = speaking('a', 12, [1, 4], [5, 8], [9, 11])
    takeOf(marked).samples = toSamples(12)
    takeOf(marked).marks = [{ kind: 'wrong', at: toSamples(8.5) }]
    const found = one(lecture([marked]), 'marked-wrong')
    expect(found.finding).toBe('You marked something on slide 1 as wrong while you spoke')
    const { tidyUp } = found.fix!.tidyUps![0]!
    expect(clipSamples(tidyUp)).toBeLessThan(toSamples(12 - 2.5))
    takeOf(marked).tidyUp = tidyUp
    expect(kinds(lecture([marked]))).toEqual([])
    takeOf(marked).tidyUp = { ...tidyUp, cuts: [] }
    takeOf(marked).marks = [
      { kind: 'wrong', at: toSamples(4.5) },
      { kind: 'wrong', at: toSamples(8.5) },
      { kind: 'pause', at: toSamples(9) },
    ]
    expect(one(lecture([marked]), 'marked-wrong').finding).toBe('You marked 2 things on slide 1 as wrong while you spoke')
  })
  test('a pause of three seconds is long, one just shorter is not', () => {
    expect(kinds(lecture([speaking('a', 12, [0, 4], [7, 12])]))).toEqual(['long-pause'])
    expect(kinds(lecture([speaking('a', 12, [0, 4], [6.99, 12])]))).toEqual([])
    const found = one(lecture([speaking('a', 12, [0, 4], [8, 12])]), 'long-pause')
    expect(found.finding).toBe('Slide 1 is silent for 4.0 s in the middle')
    expect(clipSamples(found.fix!.tidyUps![0]!.tidyUp)).toBe(toSamples(12 - 3))
  })
})

describe('words and captions', () => {
  const findings = { repeated: [], offScript: [], skipped: [], needsReview: [] }
  const heard = (change: Partial<NonNullable<Take['findings']>>) => {
    const made = speaking('a', 14, [1, 3], [3.4, 6], [7, 13])
    takeOf(made).samples = toSamples(14)
    takeOf(made).findings = { ...findings, ...change }
    return lecture([made])
  }
  test('without captions it says what makes them', () => {
    const bare = (script: string) => one({ ...lecture([slide('a', 3, { script })]), captionTracks: [] }, 'no-captions').advice
    expect(bare('Some words.')).toBe('They are made when its take is tidied')
    expect(bare('')).toBe('Type its script, or attach a caption file')
  })
  test('sentences that were not said are named, long ones shortened', () => {
    const found = one(heard({ skipped: ['It rains.', 'n'.repeat(61), 'n'.repeat(60)] }), 'check-captions')
    expect(found.finding).toBe(`Not heard on slide 1: “It rains.”, “${'n'.repeat(57)}…”, “${'n'.repeat(60)}”`)
    expect(found.advice).toMatch(/^Was it left out\?/)
  })
  test('what another language’s voice did not find may have been said: that it was not is claimed of nobody', () => {
    const told = (language: string) => checks({ ...heard({ skipped: ['Chove.'] }), language }).flatMap(({ finding }) => finding)
    expect(told('es').join(' ')).toContain('Not heard on slide 1: “Chove.”')
    expect(told('gl').join(' ')).not.toContain('Not heard')
    expect(told('gl')).toContain('Captions in Galician are timed by the voice of a related language, Spanish')
  })
  test('captions that want a look are told, but not translations, nor those of another take', () => {
    const unsure = (origin: 'script' | 'translation', takeId = 'take a') => {
      const l = heard({ needsReview: ['It rains.'] })
      const [track] = l.captionTracks
      return { ...l, captionTracks: [track!, { ...track!, origin, cues: [{ ...track!.cues[0]!, takeId, needsReview: true }] }] }
    }
    expect(one(unsure('script'), 'check-captions')).toMatchObject({
      finding: 'Some captions of slide 1 may not stand on their words',
      advice: 'Please check “It rains.” by ear',
    })
    expect(kinds(unsure('translation'))).toEqual([])
    expect(kinds(unsure('script', 'another take'))).toEqual([])
  })
  test('captions of a recogniser are told until somebody has checked them', () => {
    const [track] = heard({}).captionTracks
    const cues = [{ ...track!.cues[0]!, scriptText: '', manualEdit: 'heard' as const, needsReview: true }]
    const l = { ...heard({}), captionTracks: [{ ...track!, cues }] }
    expect(one(l, 'heard-captions').finding).toBe('One caption of slide 1 heard by a recogniser, checked by nobody')
    expect(kinds(l)).not.toContain('check-captions')
  })
  test('points of which nothing was said are told where captions tell what was, and not before', () => {
    const l = heard({})
    const [first] = l.slides
    const [track] = l.captionTracks
    const points = { ...first!, script: '• It rains\n• The gauge on the roof' }
    const cues = [{ ...track!.cues[0]!, scriptText: '', text: 'And now it is raining.' }]
    const saying = { ...l, slides: [points], captionTracks: [{ ...track!, cues }] }
    expect(one(saying, 'points-missed')).toMatchObject({
      level: 'look',
      finding: 'Not mentioned on slide 1: “The gauge on the roof”',
    })
    expect(kinds({ ...saying, captionTracks: [{ ...track!, cues: [] }] })).not.toContain('points-missed')
  })
  test('of what was said twice the first saying is cut out by one press; one at a time', () => {
    const l = heard({
      repeated: [
        { text: 'It rains.', start: 1, end: 3.4 },
        { text: 'Again.', start: 7, end: 8 },
      ],
    })
    const found = one(l, 'said-twice')
    expect(found.finding).toBe('Said twice on slide 1: “It rains.”')
    expect(clipSamples(found.fix!.tidyUps![0]!.tidyUp)).toBe(toSamples(14 - 2.4))
  })
  test('what is not in the script is told with its length, and cut out by one press', () => {
    const found = one(
      heard({
        offScript: [
          { start: 1, end: 3 },
          { start: 12, end: 20 },
        ],
      }),
      'off-script',
    )
    expect(found.finding).toBe('Slide 1 says something for 10.0 s that is not in its script')
    expect(clipSamples(found.fix!.tidyUps![0]!.tidyUp)).toBe(toSamples(14 - 2 - 2))
    const l = heard({ offScript: [{ start: 1, end: 3 }] })
    takeOf(l.slides[0]!).tidyUp = one(l, 'off-script').fix!.tidyUps![0]!.tidyUp
    expect(kinds(l)).toEqual([])
  })
})

describe('pictures and time', () => {
  const lead = (own: number | null, lectures = 0.3, beds: Lecture['beds'] = []) =>
    lecture([slide('a', 3, { timing: own === null ? { tailSeconds: 1 } : { leadSeconds: own, tailSeconds: 1 } })], {
      timing: { ...DEFAULT_TIMING, leadSeconds: lectures },
      beds,
    })
  test('half a second before the voice is the most; an exception is given back by one press, the lecture’s own is not', () => {
    expect(kinds(lead(0.5))).toEqual([])
    expect(one(lead(0.6), 'long-lead')).toMatchObject({
      finding: 'Slide 1 waits 0.6 s before the voice',
      fix: { label: 'Wait as on other slides', slide: { id: 'a', change: { timing: { tailSeconds: 1 } } } },
    })
    expect(one(lead(null, 0.8), 'long-lead').fix).toBeUndefined()
    expect(one(lead(0.9, 0.8), 'long-lead').fix).toBeUndefined()
    expect(kinds(lead(0.9, 0.3, [{ ...bed, fromSlideId: 'a', toSlideId: 'a' }]))).toEqual([])
    expect(
      kinds(
        lecture([slide('a', 0, { script: '', timing: { leadSeconds: 0.9 }, card: { heading: 'H', line: '', colours: 'ink' } })]),
      ),
    ).toEqual([])
  })
  test('a slide that stays for more than three minutes', () => {
    expect(kinds(lecture([slide('a', 170)]))).toEqual([])
    expect(one(lecture([slide('a', 300)]), 'long-slide').finding).toBe('Slide 1 stays for 5 minutes')
  })
  test('a picture is small when it is both narrow and low', () => {
    const sized = (width: number, height: number) =>
      lecture([slide('a', 3, { steps: [step('x'), { ...step('a'), width, height }] })])
    expect(kinds(sized(1199, 600))).toEqual([])
    expect(kinds(sized(1200, 599))).toEqual([])
    expect(one(sized(1199, 599), 'coarse-picture').advice).toMatch(/^1199 × 599 pixels/)
  })
  test('what a deck had and could not be taken over is told until somebody says that it is fine', () => {
    const found = one(lecture([slide('a', 3, { warnings: [{ id: 'A chart.' }, { id: 'A film.' }] })]), 'from-deck')
    expect(found.advice).toBe('A chart. A film.')
    expect(found.fix).toEqual({ label: 'It is fine like this', slide: { id: 'a', change: { warnings: [] } } })
  })
  test('a picture without a text gets its title by one press, where there is one', () => {
    expect(one(lecture([slide('a', 3, { altText: '' })]), 'no-alt-text').fix).toEqual({
      label: 'Describe it by its title',
      slide: { id: 'a', change: { altText: 'Title a' } },
    })
    expect(one(lecture([slide('a', 3, { altText: 'lock.png', title: ' ' })]), 'no-alt-text').fix).toBeUndefined()
  })
  test('words that came off the slide are a draft of its description until somebody says that they are all', () => {
    const drafted = lecture([slide('a', 3, { altText: 'Locks and keys', isAltTextDraft: true })])
    expect(one(drafted, 'draft-alt-text').fix).toEqual({
      label: 'Its words say it all',
      slide: { id: 'a', change: { isAltTextDraft: false } },
    })
    expect(kinds(lecture([slide('a', 3, { altText: ' ', isAltTextDraft: true })]))).toEqual(['no-alt-text'])
  })
  test('pages that build up one picture become steps by one press, as long as nobody spoke to them', () => {
    const part = (id: string, more: Partial<Slide> = {}) => slide(id, 0, { script: '', buildsOn: true, ...more })
    const slides = [slide('a', 3), part('b'), part('c'), slide('d', 3), part('e', { takes: slide('e', 3).takes }), part('f')]
    const found = checks(lecture(slides)).filter((check) => check.kind === 'builds-up')
    expect(found.map(({ finding, fix, slideNumber }) => [finding, slideNumber, fix!.label, fix!.join])).toEqual([
      ['Slides 1 to 3 build up one picture', 1, 'Make them steps of slide 1', { into: 'a', from: ['b', 'c'] }],
      ['Slides 5 to 6 build up one picture', 5, 'Make them steps of slide 5', { into: 'e', from: ['f'] }],
    ])
  })
  test('what changed since an edition, and what is new in it', () => {
    const l = lecture([slide('a', 3), slide('b', 3), slide('c', 3)])
    const now = new Map([
      ['a', 1],
      ['b', 2],
      ['c', 3],
    ])
    const fingerprints = new Map([
      ['a', 1],
      ['b', 9],
    ])
    expect(checks(l, undefined, { number: 4, fingerprints, now }).map((check) => check.finding)).toEqual([
      'Slide 2 changed since edition 4',
      'Slide 3 is new since edition 4',
    ])
  })
})

describe('what holds', () => {
  const l = lecture([slide('a', 3), slide('b', 4)])
  const all = holding(l, [])
  test('with nothing found all of it does', () => {
    expect(all.map((line) => line.split(' ').slice(0, 3).join(' '))).toEqual([
      'Every slide is',
      'All slides equally',
      'Captions on every',
      'Every slide has',
    ])
  })
  test.each<[CheckKind, number]>([
    ['uneven-loudness', 1],
    ['not-tidied', 1],
    ['no-captions', 2],
    ['no-alt-text', 3],
    ['draft-alt-text', 3],
  ])('%s takes one line away', (kind, line) => expect(holding(l, [{ kind }])).toEqual(all.filter((_, i) => i !== line)))
  test('of one slide that is spoken to, and of none, less can be said', () => {
    expect(holding(lecture([slide('a', 3), slide('b', 4, { hidden: true })]), [])).toEqual(all.filter((_, i) => i !== 1))
    expect(holding(lecture([slide('a', 0)]), [])).toEqual([all[0], all[3]])
  })
})
