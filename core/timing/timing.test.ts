import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { Slide } from '#core/model/slide.ts'
import { DEFAULT_TIMING } from '#core/model/timing.ts'
import { NO_TRANSITION } from '#core/model/transition.ts'
import * as made from '#tests/made/lecture.ts'
import { AAC_FRAME, slideSeconds, takeSeconds, toSamples, toSeconds } from './clocks.ts'
import { schedule, slideLengthSamples } from './schedule.ts'
import { clipSamples, joinsOf, keptStretches, timeMap } from './time-map.ts'
import { durationsToTimestamps, timestampsToDurations } from './timestamps-to-durations.ts'

const tidy = (kept: SampleRange, cuts: SampleRange[] = []) => ({
  kept,
  cuts,
  highPassHz: 70,
  cleaning: 0.6,
  roomTone: null,
  level: null,
})
/** Of no picture, with a clip of so many samples. */
const slide = (id: string, clip: number, more: Partial<Slide> = {}) => made.slide(id, toSeconds(clip), { steps: [], ...more })

const usual = { timing: DEFAULT_TIMING, transition: NO_TRANSITION }

describe('marks and lengths', () => {
  // common practice, no published source: the worked numbers of the trade
  const moments = [6, 11, 19, 23, 32, 37, 40, 49, 55]
  const lengths = [6, 5, 8, 4, 9, 5, 3, 9, 6, 7]
  test('moments of change become lengths', () => expect(timestampsToDurations(moments, 62)).toEqual(lengths))
  test('lengths become moments of change', () => expect(durationsToTimestamps(lengths)).toEqual({ moments, end: 62 }))
  test('a moment out of order is named', () =>
    expect(() => timestampsToDurations([6, 5], 62)).toThrow('Moment 2 (5 s) does not come after 6 s'))
})

describe('the schedule', () => {
  test('a clip of 12.87 s with the least tail wants 13.07 s or more, and less than one frame more', () => {
    // common practice, no published source: change at least 0.2 s after the last sound
    const length = toSeconds(slideLengthSamples(toSamples(12.87), { ...DEFAULT_TIMING, leadSeconds: 0, tailSeconds: 0.2 }))
    expect(length).toBeGreaterThanOrEqual(13.07)
    expect(length).toBeLessThan(13.07 + AAC_FRAME / 48000)
  })
  test('a silent slide lasts its hold', () => {
    const only = schedule({ ...usual, slides: [slide('a', 0), slide('b', 0)] }).slides[0]!
    expect(toSeconds(only.lengthSamples)).toBeCloseTo(5, 1)
    expect(only.clipSamples).toBe(0)
  })
  test('lead and tail belong to sound: a slide without a clip lasts its hold, and no shorter than the least of all', () => {
    const rest = { ...DEFAULT_TIMING, leadSeconds: 1, tailSeconds: 1, minimumSeconds: 0 }
    expect(toSeconds(slideLengthSamples(0, { ...rest, holdSeconds: 4.8 }))).toBe(4.8)
    expect(toSeconds(slideLengthSamples(1, { ...rest, holdSeconds: 4.8 }))).toBeCloseTo(2, 1)
    expect(toSeconds(slideLengthSamples(0, { ...rest, holdSeconds: 1, minimumSeconds: 4.8 }))).toBe(4.8)
    expect(schedule({ ...usual, slides: [slide('a', 0)] }).slides[0]!.leadSamples).toBe(0)
  })
  test('hidden slides take no time', () => {
    const shown = schedule({ ...usual, slides: [slide('a', 48000, { hidden: true }), slide('b', 48000)] })
    expect(shown.slides.map((s) => s.slideId)).toEqual(['b'])
    expect(shown.slides[0]!.startSamples).toBe(0)
  })
  test("a slide's own lead wins over the lecture's", () => {
    const s = schedule({ ...usual, slides: [slide('a', 48000, { timing: { leadSeconds: 1 } })] }).slides[0]!
    expect(s.leadSamples).toBe(48000)
  })
  test('nothing drifts: starts are the sum of lengths, lengths hold their sound, whatever the clips', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 3_000_000 }), { minLength: 1, maxLength: 60 }), (clips) => {
        const plan = schedule({ ...usual, slides: clips.map((clip, i) => slide(String(i), clip)) })
        let at = 0
        for (const s of plan.slides) {
          expect(s.startSamples).toBe(at)
          expect(s.lengthSamples % AAC_FRAME).toBe(0)
          if (s.clipSamples) expect(s.lengthSamples).toBeGreaterThanOrEqual(s.leadSamples + s.clipSamples + toSamples(0.4))
          expect(s.lengthSamples).toBeGreaterThanOrEqual(toSamples(1))
          at += s.lengthSamples
        }
        expect(plan.lengthSamples).toBe(at)
      }),
    )
  })
})

describe('the time map', () => {
  const at = (s: number) => takeSeconds(s)
  test('a moment moves with the curtain and the lead', () => {
    expect(timeMap(tidy({ start: toSamples(2), end: toSamples(9) }), 0.25).toSlide(at(3))).toBeCloseTo(1.25, 9)
  })
  test('a moment after a cut comes earlier by the cut', () => {
    const map = timeMap(tidy({ start: 0, end: toSamples(10) }, [{ start: toSamples(4), end: toSamples(6) }]), 0)
    expect(map.toSlide(at(7))).toBeCloseTo(5, 9)
    expect(map.toSlide(at(5))).toBeNull()
  })
  test('a span that a cut bites into shrinks to what is heard', () => {
    const map = timeMap(tidy({ start: 0, end: toSamples(10) }, [{ start: toSamples(4), end: toSamples(6) }]), 0)
    expect(map.spanToSlide(at(3), at(5))).toEqual({ start: 3, end: 4 })
    expect(map.spanToSlide(at(4.2), at(5.8))).toBeNull()
  })
  test('cuts given out of order, and cuts of pauses, are one list', () => {
    const recipe = {
      kept: { start: 0, end: 100 },
      cuts: [
        { start: 60, end: 70 },
        { start: 10, end: 20 },
      ],
      pauseCuts: [{ start: 30, end: 40 }],
    }
    expect(keptStretches(recipe)).toEqual([
      { start: 0, end: 10 },
      { start: 20, end: 30 },
      { start: 40, end: 60 },
      { start: 70, end: 100 },
    ])
  })
  test('cuts that touch, or reach the end, leave no empty stretch', () => {
    const touching = tidy({ start: 0, end: 100 }, [
      { start: 10, end: 20 },
      { start: 20, end: 30 },
      { start: 90, end: 100 },
    ])
    expect(keptStretches(touching)).toEqual([
      { start: 0, end: 10 },
      { start: 30, end: 90 },
    ])
    expect(keptStretches(tidy({ start: 0, end: 100 }, [{ start: 0, end: 100 }]))).toEqual([])
  })
  test('joins lie where something is missing, and say how much', () => {
    const recipe = tidy({ start: 1000, end: 9000 }, [
      { start: 2000, end: 2500 },
      { start: 6000, end: 7000 },
    ])
    expect(joinsOf(recipe)).toEqual([
      { at: 1000, samples: 500 },
      { at: 4500, samples: 1000 },
    ])
    expect(joinsOf({ ...recipe, tempo: 1.25 }).map((join) => join.at)).toEqual([800, 3600])
    expect(joinsOf(tidy({ start: 1000, end: 9000 }))).toEqual([])
  })
  test('a clip that is played faster is shorter, and its moments come sooner', () => {
    const recipe = {
      ...tidy({ start: toSamples(1), end: toSamples(11) }, [{ start: toSamples(5), end: toSamples(7) }]),
      tempo: 1.25,
    }
    expect(clipSamples(recipe)).toBe(toSamples(6.4))
    const map = timeMap(recipe, 0.5)
    expect(map.toSlide(at(3.5))).toBeCloseTo(2.5, 9)
    expect(map.toSlide(at(8.25))).toBeCloseTo(0.5 + (4 + 1.25) / 1.25, 9)
    const span = map.spanToSlide(at(2.25), at(9.5))!
    expect(span.start).toBeCloseTo(1.5, 9)
    expect(span.end).toBeCloseTo(0.5 + (4 + 2.5) / 1.25, 9)
    expect(map.toTake(slideSeconds(2.5))).toBeCloseTo(3.5, 9)
    expect(map.toTake(slideSeconds(5.7))).toBeCloseTo(9.5, 9)
  })
  test('a stretch begins with its first sample and ends before the one after its last', () => {
    const map = timeMap(tidy({ start: toSamples(1), end: toSamples(9) }, [{ start: toSamples(4), end: toSamples(6) }]), 0.5)
    expect([0.9, 1, 4, 6, 9].map((moment) => map.toSlide(at(moment)))).toEqual([null, 0.5, null, 3.5, null])
    expect([0.4, 0.5, 3.5, 6.5, 7].map((moment) => map.toTake(slideSeconds(moment)))).toEqual([null, 1, 6, null, null])
    expect(map.spanToSlide(at(4), at(6))).toBeNull()
    expect(map.spanToSlide(at(0), at(1))).toBeNull()
    expect(map.spanToSlide(at(9), at(10))).toBeNull()
    expect(map.spanToSlide(at(0), at(10))).toEqual({ start: 0.5, end: 6.5 })
  })
  test('whatever is cut, every heard moment goes to the slide and comes back', () => {
    const stretch = fc
      .tuple(fc.nat(480_000), fc.integer({ min: 1, max: 90_000 }))
      .map(([start, n]) => ({ start, end: start + n }))
    fc.assert(
      fc.property(fc.array(stretch, { maxLength: 6 }), fc.nat(480_000), (cuts, sample) => {
        const recipe = tidy({ start: 5000, end: 470_000 }, cuts)
        const map = timeMap(recipe, 0.25)
        const heard = keptStretches(recipe).some((s) => sample >= s.start && sample < s.end)
        const slideMoment = map.toSlide(at(toSeconds(sample)))
        expect(slideMoment !== null).toBe(heard)
        if (slideMoment !== null) {
          expect(map.toTake(slideMoment)).toBeCloseTo(toSeconds(sample), 6)
          expect(slideMoment).toBeLessThan(0.25 + toSeconds(clipSamples(recipe)))
        }
      }),
    )
  })
})
