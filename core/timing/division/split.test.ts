import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { SampleRange } from '#core/model/sample-range.ts'
import { say } from '#core/words/say.ts'
import { toSamples } from '../clocks.ts'
import { momentsProblem, parseTime, parseTimes } from '../parse-timecode.ts'
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

const spoken = (...stretches: [number, number][]): SampleRange[] =>
  stretches.map(([start, end]) => ({ start: toSamples(start), end: toSamples(end) }))

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
  test('a mark goes to the nearest of pauses that are alike, and to a long one rather than to a breath', () => {
    const alike = spoken([0, 5], [6, 6.8], [7.8, 20])
    const marked = (speech: SampleRange[], ...marks: number[]) =>
      proposeBoundaries(speech, { from: 'marks', marks: marks.map(toSamples) })
    const [first, second] = [
      { at: toSamples(5.5), pause: { start: toSamples(5), end: toSamples(6) } },
      { at: toSamples(7.3), pause: { start: toSamples(6.8), end: toSamples(7.8) } },
    ]
    expect(marked(alike, 6.1)).toEqual([first])
    expect(marked(alike, 6.7)).toEqual([second])
    // two marks within one pause do not share it
    expect(marked(alike, 5.8, 6.2)).toEqual([first, second])
    const breath = spoken([0, 5], [6, 6.5], [6.75, 20])
    expect(marked(breath, 6.4)).toEqual([first])
  })
  test('the longest pauses are taken where only their number is known, in order', () => {
    const speech = spoken([0, 4], [4.5, 8], [10, 12], [12.3, 16], [17, 20])
    const found = proposeBoundaries(speech, { from: 'pauses', slides: 3 })
    expect(found.map((b) => b.at)).toEqual([toSamples(9), toSamples(16.5)])
    expect(found[0]!.pause).toEqual({ start: toSamples(8), end: toSamples(10) })
    expect(proposeBoundaries(speech, { from: 'pauses', slides: 5 })).toHaveLength(4)
  })
  test('more slides than pauses is said, with what to do', () => {
    const divided = (slides: number, ...stretches: [number, number][]) =>
      proposeBoundaries(spoken(...stretches), { from: 'pauses', slides })
    expect(() => divided(3, [0, 1])).toThrow('The recording has 0 pauses, too few for 3 slides')
    expect(() => divided(3, [0, 1], [2, 3])).toThrow('The recording has 1 pause, too few for 3 slides')
  })
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
  test('of two pauses the nearer pulls, whichever comes first; its edges are within it no more', () => {
    const speech = spoken([0, 5], [6, 7], [8, 20])
    const snapped = (at: number) => snapToPause(speech, toSamples(at), toSamples(2)).at
    expect([4.9, 5, 6.2, 6.8, 8, 9.9].map(snapped)).toEqual([5.5, 5.5, 5.5, 7.5, 7.5, 7.5].map(toSamples))
    expect(snapped(10)).toBe(toSamples(7.5))
    expect(snapped(10.1)).toBe(toSamples(10.1))
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
    [' 12s ', 12],
    ['12.75', 12.75],
    ['10:00:00', 36_000],
    ['100:01', 6001],
    ['0:60', null],
    ['1:60:00', null],
    ['1:59:59.5', 7199.5],
    ['x12', null],
    ['12x', null],
    ['1:75', null],
    ['1:70:00', null],
    ['six', null],
    ['', null],
  ])('%j is %j', (text, seconds) => expect(parseTime(text)).toBe(seconds))
  test.each([
    '0:06, 0:11, 0:19',
    '6 11 19',
    '6,11,19',
    '0:06;0:11;0:19',
    '0:06\n0:11\n0:19',
    '0:06,0:11,0:19',
    '0:06,  0:11;  0:19,',
  ])('a list may be written %j', (text) => expect(parseTimes(text)).toEqual({ seconds: [6, 11, 19], problem: null }))
  test('a decimal comma, two of them, and a comma before minutes of two digits', () => {
    expect(parseTimes('6,5 7').seconds).toEqual([6.5, 7])
    expect(parseTimes('6,5').seconds).toEqual([6.5])
    expect(parseTimes('16,11,19 5').seconds).toEqual([16, 11, 19, 5])
    expect(parseTimes('0:06,10:11').seconds).toEqual([6, 611])
    expect(parseTimes('0:06,').seconds).toEqual([6])
    expect(parseTimes('x6,11,19').problem?.values?.word).toBe('x6,11,19')
    expect(parseTimes('6,11,19x').problem?.values?.word).toBe('6,11,19x')
  })
  test('what is no time is named', () => expect(parseTimes('0:06, soon').problem?.values?.word).toBe('soon'))
  test.each([
    [[6, 5], 3, 'Moment 2 (5 s) does not come after moment 1 (6 s)'],
    [[0], 2, 'does not come after the start'],
    [[6, 70], 3, 'Moment 2 (70 s) lies past the end of the recording (62 s)'],
    [[6], 3, '3 slides change 2 times; there is 1. Add 1, or choose fewer slides'],
    [[], 2, '2 slides change 1 time; there are 0. Add 1, or choose fewer slides'],
    [[6, 11, 19], 3, '3 slides change 2 times; there are 3. Take 1 away'],
    [[6, 11], 2, '2 slides change 1 time; there are 2. Take 1 away'],
    [[62], 2, 'Moment 1 (62 s) lies past the end'],
    [[6, 6], 3, 'Moment 2 (6 s) does not come after moment 1 (6 s)'],
    [[6, 11], 3, null],
  ])('moments %j for %i slides', (moments, slides, said) => {
    const problem = momentsProblem(moments, slides, 62)
    if (said === null) expect(problem).toBeNull()
    else expect(say(problem!)).toContain(said)
  })
})
