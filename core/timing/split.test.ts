import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { SampleRange } from '#core/model/sample-range.ts'
import { toSamples } from './clocks.ts'
import { momentsProblem, parseTime, parseTimes } from './parse-timecode.ts'
import { choosePauses, type Pause, proposeBoundaries, snapToPause } from './split.ts'

/** Made-up speech: sentences of words with short stops, slides joined by longer pauses that are known. */
function joined(slides: number, seed: number) {
  let state = seed
  const random = () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return state / 2 ** 32
  }
  const between = (low: number, high: number) => low + (high - low) * random()
  const speech: SampleRange[] = []
  const joins: SampleRange[] = []
  const weights: number[] = []
  let at = toSamples(0.4)
  for (let s = 0; s < slides; s++) {
    const rate = between(0.9, 1.1)
    let said = 0
    const sentences = 2 + Math.floor(random() * 5)
    for (let k = 0; k < sentences; k++) {
      const seconds = between(1.5, 6)
      said += seconds
      speech.push({ start: at, end: at + toSamples(seconds * rate) })
      at = speech.at(-1)!.end
      const pause = k < sentences - 1 ? between(0.3, 0.8) : between(0.8, 2)
      if (k === sentences - 1 && s < slides - 1) joins.push({ start: at, end: at + toSamples(pause) })
      at += toSamples(pause)
    }
    weights.push(said)
  }
  return { speech, joins, weights, end: at }
}

const right = (found: { at: number }[], joins: SampleRange[]) =>
  found.filter((b, i) => b.at >= joins[i]!.start && b.at <= joins[i]!.end).length

describe('dividing a long recording', () => {
  const cases = Array.from({ length: 40 }, (_, i) => joined(4 + (i % 12), 100 + i))
  const total = cases.reduce((sum, c) => sum + c.joins.length, 0)
  test('with scripts every change lands in its true pause', () => {
    const found = cases.reduce(
      (n, c) => n + right(proposeBoundaries(c.speech, { from: 'scripts', weights: c.weights }), c.joins),
      0,
    )
    expect(found).toBe(total)
  })
  test('with marks up to 1.5 s off, at least 95 of 100 do', () => {
    const found = cases.reduce((n, c, k) => {
      const marks = c.joins.map((join, i) => (join.start + join.end) / 2 + toSamples(1.5 * Math.sin(i * 7.1 + k)))
      return n + right(proposeBoundaries(c.speech, { from: 'marks', marks: marks.sort((a, b) => a - b) }), c.joins)
    }, 0)
    expect(found / total).toBeGreaterThanOrEqual(0.95)
  })
  test('with nothing but their number, at least 90 of 100 do', () => {
    const found = cases.reduce(
      (n, c) => n + right(proposeBoundaries(c.speech, { from: 'pauses', slides: c.weights.length }), c.joins),
      0,
    )
    expect(found / total).toBeGreaterThanOrEqual(0.9)
  })
  test('boundaries are in order and in pauses, whatever the scripts say', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 500 }),
        fc.array(fc.integer({ min: 0, max: 50 }), { minLength: 2, maxLength: 8 }),
        (seed, weights) => {
          const { speech } = joined(8, seed)
          const found = proposeBoundaries(speech, { from: 'scripts', weights })
          expect(found).toHaveLength(weights.length - 1)
          found.forEach((b, i) => {
            expect(b.at).toBeGreaterThan(found[i - 1]?.at ?? 0)
            expect(speech.every((s) => b.at <= s.start || b.at >= s.end)).toBe(true)
          })
        },
      ),
    )
  })
  test('no other choice of pauses is worth more than the chosen one', () => {
    const gap = fc.record({ spoken: fc.integer({ min: 1, max: 40 }), worth: fc.integer({ min: 0, max: 30 }) })
    fc.assert(
      fc.property(
        fc.array(gap, { minLength: 1, maxLength: 9 }),
        fc.array(fc.integer({ min: 0, max: 60 }), { minLength: 2, maxLength: 5 }),
        (gaps, wanted) => {
          let spoken = 0
          const pauses = gaps.map((g, i): Pause => {
            spoken += g.spoken
            return { start: i, end: i + 1, length: g.worth, spoken }
          })
          const all = spoken + 7
          const misfit = (said: number, i: number) => (said - wanted[i]!) ** 2
          const total = (chosen: readonly Pause[]) =>
            [...chosen, { spoken: all, length: 0 }].reduce(
              (sum, p, i) => sum + p.length - misfit(p.spoken - (chosen[i - 1]?.spoken ?? 0), i),
              0,
            )
          const boundaries = wanted.length - 1
          const ways = (from: number, left: number): Pause[][] =>
            left === 0 ? [[]] : pauses.slice(from).flatMap((p, i) => ways(from + i + 1, left - 1).map((rest) => [p, ...rest]))
          const found = choosePauses(pauses, boundaries, all, { alone: (p) => p.length, misfit })
          if (pauses.length < boundaries) expect(found).toBeNull()
          else expect(total(found!)).toBe(Math.max(...ways(0, boundaries).map(total)))
        },
      ),
    )
  })
  test('where no slide has a script, all are spoken to for as long as each other', () => {
    const { speech } = joined(8, 1)
    const without = proposeBoundaries(speech, { from: 'scripts', weights: [0, 0, 0] })
    expect(without).toHaveLength(2)
    const spoken = (from: number, to: number) =>
      speech.reduce((sum, s) => sum + Math.max(0, Math.min(to, s.end) - Math.max(from, s.start)), 0)
    const third = spoken(0, Number.POSITIVE_INFINITY) / 3
    expect(Math.abs(spoken(0, without[0]!.at) - third)).toBeLessThan(0.35 * third)
  })
  test('a mark far from any pause stays where it was put', () => {
    const speech = [
      { start: 0, end: toSamples(60) },
      { start: toSamples(61), end: toSamples(90) },
    ]
    expect(proposeBoundaries(speech, { from: 'marks', marks: [toSamples(20)] })).toEqual([{ at: toSamples(20), pause: null }])
  })
  test('more slides than pauses is said, with what to do', () =>
    expect(() => proposeBoundaries([{ start: 0, end: 48_000 }], { from: 'pauses', slides: 3 })).toThrow('too few for 3 slides'))
  test('one slide needs no change', () => expect(proposeBoundaries([], { from: 'pauses', slides: 1 })).toEqual([]))
  test('a dragged boundary snaps into a near pause and stays free far from one', () => {
    const speech = [
      { start: 0, end: 48_000 },
      { start: 96_000, end: 480_000 },
    ]
    expect(snapToPause(speech, 40_000, 24_000).at).toBe(72_000)
    expect(snapToPause(speech, 60_000, 24_000)).toEqual({ at: 60_000, pause: { start: 48_000, end: 96_000 } })
    expect(snapToPause(speech, 300_000, 24_000)).toEqual({ at: 300_000, pause: null })
  })
})

describe('typed times', () => {
  test.each([
    ['62', 62],
    ['0:06', 6],
    ['1:02.5', 62.5],
    ['1:02,5', 62.5],
    ['1:00:02', 3602],
    ['12 s', 12],
    ['1:75', null],
    ['1:70:00', null],
    ['six', null],
    ['', null],
  ])('%j is %j', (text, seconds) => expect(parseTime(text)).toBe(seconds))
  test.each(['0:06, 0:11, 0:19', '6 11 19', '6,11,19', '0:06;0:11;0:19', '0:06\n0:11\n0:19', '0:06,0:11,0:19'])(
    'a list may be written %j',
    (text) => expect(parseTimes(text)).toEqual({ seconds: [6, 11, 19], problem: null }),
  )
  test('what is no time is named', () => expect(parseTimes('0:06, soon').problem).toContain('“soon” is not a time'))
  test.each([
    [[6, 5], 3, 'Moment 2 (5 s) does not come after moment 1 (6 s)'],
    [[0], 2, 'does not come after the start'],
    [[6, 70], 3, 'Moment 2 (70 s) lies past the end of the recording (62 s)'],
    [[6], 3, 'Add 1, or choose fewer slides'],
    [[6, 11, 19], 3, 'Take 1 away'],
    [[6, 11], 3, null],
  ])('moments %j for %i slides', (moments, slides, said) => {
    const problem = momentsProblem(moments, slides, 62)
    if (said === null) expect(problem).toBeNull()
    else expect(problem).toContain(said)
  })
})
