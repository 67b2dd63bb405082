import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { fitClip } from '#core/audio/tidy-up/fit-pace.ts'
import type { Slide } from '#core/model/slide.ts'
import type { Take } from '#core/model/take.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { DEFAULT_TIMING, Transition as TransitionSchema } from '#core/model/timing.ts'
import { NO_TRANSITION, TRANSITION_WORDS, TRANSITIONS, type Transition } from '#core/model/transition.ts'
import * as made from '#tests/made/lecture.ts'
import { AAC_FRAME, toSamples, toSeconds } from './clocks.ts'
import { LAST_REST_S, schedule } from './schedule.ts'
import { TRANSITION_FRAME } from './scheduled.ts'
import { stepAt, stepStarts } from './steps.ts'
import { clipSamples } from './time-map.ts'

const tidyUp = (samples: number, more: Partial<TidyUp> = {}) => TidyUp.parse({ kept: { start: 0, end: samples }, ...more })
/** Of no picture: how long a slide is must come of its sound. */
const slide = (id: string, seconds: number, more: Partial<Slide> = {}) => made.slide(id, seconds, { steps: [], ...more })
const fade = (seconds: number): Transition => ({ kind: 'cross-fade', seconds })
const usual = { timing: DEFAULT_TIMING, transition: NO_TRANSITION }

describe('a fixed pace', () => {
  // common practice, no published source: twenty slides of 20 s are 6 min 40 s
  const paced = { ...usual, timing: { ...DEFAULT_TIMING, paceSeconds: 20 } }
  test('twenty slides of 20 s are 6 min 40 s, and no change is further from its moment than half an audio frame', () => {
    const { slides, lengthSamples } = schedule({ ...paced, slides: Array.from({ length: 20 }, (_, i) => slide(`${i}`, 15)) })
    expect(Math.abs(toSeconds(lengthSamples) - 400)).toBeLessThan(AAC_FRAME / 2 / 48_000 + 1e-9)
    for (const [i, s] of slides.entries())
      expect(Math.abs(toSeconds(s.startSamples) - i * 20)).toBeLessThan(AAC_FRAME / 2 / 48_000 + 1e-9)
  })
  test('a clip that is too long is told by how much, never cut, and the slides after it keep their pace', () => {
    const { slides } = schedule({ ...paced, slides: [slide('a', 21), slide('b', 5), slide('c', 5)] })
    expect(toSeconds(slides[0]!.overSamples!)).toBeCloseTo(1.2, 1)
    expect(slides[0]!.lengthSamples).toBeGreaterThanOrEqual(toSamples(21.2))
    expect(toSeconds(slides[1]!.lengthSamples)).toBeCloseTo(20, 1)
    expect(toSeconds(slides[1]!.overSamples!)).toBeCloseTo(-14.8, 1)
  })
  test('lead and tail shrink before the slide grows', () => {
    const [only] = schedule({ ...paced, slides: [slide('a', 19.75)] }).slides
    expect(only!.overSamples).toBeLessThanOrEqual(0)
    expect(toSeconds(only!.lengthSamples)).toBeCloseTo(20, 1)
    expect(only!.lengthSamples - only!.leadSamples - only!.clipSamples).toBeGreaterThanOrEqual(toSamples(0.2))
  })
  test('one slide may be left out of the pace', () => {
    const { slides } = schedule({ ...paced, slides: [slide('a', 30, { timing: { paceSeconds: null } }), slide('b', 5)] })
    expect(slides[0]!.overSamples).toBeNull()
    expect(toSeconds(slides[0]!.lengthSamples)).toBeCloseTo(30.65, 1)
    expect(toSeconds(slides[1]!.lengthSamples)).toBeCloseTo(20, 1)
  })
})

describe('fitting a clip to its room', () => {
  const speech = [
    { start: 0, end: toSamples(8) },
    { start: toSamples(10), end: toSamples(15) },
    { start: toSamples(16), end: toSamples(20) },
  ]
  const recipe = tidyUp(toSamples(20))
  test('the longest pause that fits is allowed, and the tempo is left alone', () => {
    const fit = fitClip(recipe, speech, toSamples(19.3))
    expect(fit).toMatchObject({ overSamples: 0, done: 'pauses to 1.2 s at most' })
    expect(fit.tidyUp.tempo).toBe(1)
  })
  test('tempo comes after pauses, and speech is never cut', () => {
    const fit = fitClip(recipe, speech, toSamples(17))
    expect(fit.overSamples).toBe(0)
    expect(fit.done).toBe('pauses to 0.4 s at most, 4.8 % faster')
    for (const cut of fit.tidyUp.pauseCuts) expect(speech.every((s) => cut.end <= s.start || cut.start >= s.end)).toBe(true)
  })
  test('what cannot fit says by how much', () => {
    const fit = fitClip(recipe, speech, toSamples(10))
    expect(fit.tidyUp.tempo).toBe(1.05)
    expect(toSeconds(fit.overSamples)).toBeCloseTo(17.8 / 1.05 - 10, 2)
  })
  test('whatever the room, the clip fits or the tempo is at its end', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: toSamples(25) }), (room) => {
        const fit = fitClip(recipe, speech, room)
        expect(clipSamples(fit.tidyUp) <= room || fit.tidyUp.tempo === 1.05).toBe(true)
      }),
    )
  })
})

describe('transitions', () => {
  test('a transition never covers speech, whatever leads, tails and lengths', () => {
    const parts = fc.record({
      clip: fc.constantFrom(0, 0.05, 1, 12.87, 40),
      lead: fc.double({ min: 0, max: 1, noNaN: true }),
      tail: fc.double({ min: 0.2, max: 1, noNaN: true }),
      seconds: fc.double({ min: 0.2, max: 1.5, noNaN: true }),
      pace: fc.constantFrom(null, 5, 20),
    })
    fc.assert(
      fc.property(fc.array(parts, { minLength: 1, maxLength: 12 }), (all) => {
        const plan = schedule({
          ...usual,
          slides: all.map((p, i) =>
            slide(`${i}`, p.clip, {
              transition: fade(p.seconds),
              timing: { leadSeconds: p.lead, tailSeconds: p.tail, paceSeconds: p.pace },
            }),
          ),
        })
        let at = 0
        for (const [i, s] of plan.slides.entries()) {
          const changing = (s.transition?.frames ?? 0) * TRANSITION_FRAME
          expect(s.transition === null).toBe(i === 0)
          expect(s.startSamples).toBe(at)
          expect(s.lengthSamples % AAC_FRAME).toBe(0)
          expect(s.lengthSamples).toBeGreaterThanOrEqual(changing)
          if (s.clipSamples > 0) {
            expect(s.leadSamples).toBeGreaterThanOrEqual(changing)
            expect(s.lengthSamples - s.leadSamples - s.clipSamples).toBeGreaterThanOrEqual(toSamples(0.2))
          }
          at += s.lengthSamples
        }
        expect(plan.lengthSamples).toBe(at)
      }),
    )
  })
  test('half a second takes its time out of tail and lead: the rest between two voices is as long as with a plain cut', () => {
    const slides = [slide('a', 10), slide('b', 10)]
    const rest = (transition: Transition) => {
      const [a, b] = schedule({ ...usual, transition, slides }).slides
      return toSeconds(a!.lengthSamples - a!.leadSamples - a!.clipSamples + b!.leadSamples)
    }
    expect(Math.abs(rest(fade(0.45)) - rest(NO_TRANSITION))).toBeLessThanOrEqual(AAC_FRAME / 48_000)
    expect(rest(fade(1.5))).toBeGreaterThanOrEqual(1.7)
  })
  test("a slide's own transition wins, and the lecture ends with a rest", () => {
    const { slides } = schedule({
      ...usual,
      transition: fade(0.5),
      slides: [slide('a', 10), slide('b', 10, { transition: NO_TRANSITION }), slide('c', 10)],
    })
    expect(slides.map((s) => s.transition?.frames ?? 0)).toEqual([0, 0, 15])
    const last = slides[2]!
    expect(toSeconds(last.lengthSamples - last.leadSamples - last.clipSamples)).toBeGreaterThanOrEqual(0.4 + LAST_REST_S)
  })
})

describe('steps', () => {
  const steps = ['a', 'b', 'c', 'd'].map((id) => ({
    id,
    picture: id,
    thumbnail: id,
    width: 1,
    height: 1,
    text: '',
    afterSeconds: null,
    films: [],
  }))
  const starts = (stepMoments: Record<string, number>, recipe: Partial<TidyUp> = {}) => {
    const take = { id: 'take', tidyUp: tidyUp(toSamples(20), recipe), stepMoments } as unknown as Take
    const owner = slide('s', 0, { steps, takes: [take], keptTakeId: 'take' })
    return stepStarts(owner, schedule({ ...usual, slides: [owner] }).slides[0]!)
  }
  test('moments that nobody set are spread over what is spoken', () =>
    expect(starts({}).map((s) => s.at)).toEqual([0, 5.25, 10.25, 15.25]))
  test('a moment stays on its word when the beginning is cut', () =>
    expect(starts({ b: 8 }, { kept: { start: toSamples(3), end: toSamples(20) } })[1]).toMatchObject({ at: 5.25, by: 'hand' }))
  test('a moment inside a cut comes where the cut is', () =>
    expect(starts({ c: 8 }, { cuts: [{ start: toSamples(7), end: toSamples(9) }] })[2]!.at).toBeCloseTo(7.25, 6))
  test('moments out of order are put in order, and each picture is seen', () => {
    const at = starts({ b: 12, c: 4, d: 19.999 }).map((s) => s.at)
    for (let i = 1; i < at.length; i++) expect(at[i]! - at[i - 1]!).toBeGreaterThanOrEqual(0.0999)
  })
  test('one that nobody set says so, and so does every one of a slide without sound', () => {
    expect(starts({ b: 8 }).map((s) => s.by)).toEqual(['hand', 'hand', 'spread', 'spread'])
    const silent = slide('s', 0, { steps })
    const spread = stepStarts(silent, schedule({ ...usual, slides: [silent] }).slides[0]!)
    const { lengthSamples } = schedule({ ...usual, slides: [silent] }).slides[0]!
    expect(spread.map((s) => s.by)).toEqual(['hand', 'spread', 'spread', 'spread'])
    expect(spread.map((s) => s.at)).toEqual([0, 1, 2, 3].map((i) => (i * toSeconds(lengthSamples)) / 4))
  })
  test('one that nobody set comes where its words are said; what somebody set counts before', () => {
    const heard = (stepMoments: Record<string, number>) => {
      const take = { id: 'take', tidyUp: tidyUp(toSamples(20)), stepMoments, heardMoments: { b: 6, c: 9 } } as unknown as Take
      const owner = slide('s', 0, { steps, takes: [take], keptTakeId: 'take' })
      return stepStarts(owner, schedule({ ...usual, slides: [owner] }).slides[0]!)
    }
    expect(heard({}).map(({ at, by }) => [at, by])).toEqual([
      [0, 'hand'],
      [6.25, 'words'],
      [9.25, 'words'],
      // between the last known one and the end
      [14.75, 'spread'],
    ])
    expect(heard({ b: 3 })[1]).toMatchObject({ at: 3.25, by: 'hand' })
  })
  test('one that its deck lets come by itself comes so long after the one before', () => {
    const own = steps.map((step) => (step.id === 'c' ? { ...step, afterSeconds: 2 } : step))
    const take = { id: 'take', tidyUp: tidyUp(toSamples(20)), stepMoments: { b: 4 } } as unknown as Take
    const owner = slide('s', 0, { steps: own, takes: [take], keptTakeId: 'take' })
    expect(stepStarts(owner, schedule({ ...usual, slides: [owner] }).slides[0]!)[2]!.at).toBe(6.25)
  })
  test('a take whose moments were never kept has none that are set', () => {
    const take = { id: 'take', tidyUp: tidyUp(toSamples(20)) } as unknown as Take
    const owner = slide('s', 0, { steps, takes: [take], keptTakeId: 'take' })
    const found = stepStarts(owner, schedule({ ...usual, slides: [owner] }).slides[0]!)
    expect(found.map((s) => s.by)).toEqual(['hand', 'spread', 'spread', 'spread'])
  })
  test('a moment set before the sound was tidied does not count until it is', () => {
    const take = { id: 'take', tidyUp: null, stepMoments: { b: 1 } } as unknown as Take
    const owner = slide('s', 0, { steps, takes: [take], keptTakeId: 'take' })
    expect(stepStarts(owner, schedule({ ...usual, slides: [owner] }).slides[0]!)[1]!.by).toBe('spread')
  })
  test('a moment after all that is left comes with the last sound, and leaves room for what follows', () => {
    const late = starts({ d: 19 }, { kept: { start: 0, end: toSamples(10) } })
    expect(late[3]!.at).toBeCloseTo(10.25, 6)
    const all = starts({ b: 19.99, c: 19.99, d: 19.99 })
    const { lengthSamples } = schedule({ ...usual, slides: [slide('s', 20)] }).slides[0]!
    expect(all[3]!.at).toBeLessThanOrEqual(toSeconds(lengthSamples) - 0.0999)
  })
  test('no step comes before the transition is over', () => {
    const first = slide('first', 3)
    const take = { id: 'take', tidyUp: tidyUp(toSamples(20)), stepMoments: { b: 0 } } as unknown as Take
    const owner = slide('s', 0, { steps, takes: [take], keptTakeId: 'take', transition: fade(1) })
    const second = schedule({ ...usual, slides: [first, owner] }).slides[1]!
    expect(stepStarts(owner, second)[1]!.at).toBeGreaterThanOrEqual(1.0999)
  })
  test('the step seen at its own first moment is that step', () => {
    const all = starts({})
    expect(all.map((s) => stepAt(all, s.at))).toEqual([0, 1, 2, 3])
  })
})

const WHOLE = { opacity: 1, cutLeft: 0, newShift: 0, oldShift: 0 }

test.each(Object.entries(TRANSITIONS))('%s ends with the new picture whole and in its place', (_, { layout }) => {
  const { oldShift: _old, ...end } = layout(1)
  const { oldShift: _whole, ...whole } = WHOLE
  expect(end).toEqual(whole)
})

test('half way: a cross-fade is half seen, a wipe half uncovered from the right, a push half moved with the old one before it', () => {
  expect(TRANSITIONS['cross-fade'].layout(0.5)).toEqual({ ...WHOLE, opacity: 0.5 })
  expect(TRANSITIONS.wipe.layout(0.25)).toEqual({ ...WHOLE, cutLeft: 0.75 })
  expect(TRANSITIONS.push.layout(0.25)).toEqual({ ...WHOLE, newShift: 0.75, oldShift: -0.25 })
})

test('a kind that is none, and lengths out of bounds, are refused; a plain cut is a kind', () => {
  expect(TransitionSchema.safeParse({ kind: 'spin', seconds: 0.5 }).success).toBe(false)
  expect(TransitionSchema.safeParse({ kind: 'wipe', seconds: 0.1 }).success).toBe(false)
  expect(TransitionSchema.safeParse({ kind: 'wipe', seconds: 1.6 }).success).toBe(false)
  expect(TransitionSchema.parse(NO_TRANSITION)).toEqual({ kind: 'none', seconds: 0.5 })
  expect(Object.keys(TRANSITION_WORDS)).toEqual(['none', ...Object.keys(TRANSITIONS)])
})
