/** Edits of a recipe, and what they do to captions and marks. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { SampleRange } from '#core/model/sample-range.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { takeSeconds, toSeconds } from '#core/timing/clocks.ts'
import { clipSamples, keptStretches, timeMap } from '#core/timing/time-map.ts'
import { cutOut, gainOver, limitPauses, moveCurtain, putBack, silenceOut } from './edit.ts'

const LENGTH = 480_000
const whole = TidyUp.parse({ kept: { start: 0, end: LENGTH } })
const stretch = fc
  .tuple(fc.nat(LENGTH - 1), fc.integer({ min: 1, max: 90_000 }))
  .map(([start, length]) => ({ start, end: Math.min(LENGTH, start + length) }))

type Edit = (recipe: TidyUp) => TidyUp
const speech = [
  { start: 10_000, end: 120_000 },
  { start: 220_000, end: 300_000 },
  { start: 420_000, end: 470_000 },
]
const edit: fc.Arbitrary<Edit> = fc.oneof(
  stretch.map(
    (s): Edit =>
      (r) =>
        cutOut(r, s),
  ),
  stretch.map(
    (s): Edit =>
      (r) =>
        putBack(r, s),
  ),
  stretch.map(
    (s): Edit =>
      (r) =>
        silenceOut(r, s),
  ),
  fc.tuple(stretch, fc.integer({ min: -12, max: 12 })).map(
    ([s, db]): Edit =>
      (r) =>
        gainOver(r, s, db),
  ),
  fc.tuple(fc.constantFrom('start' as const, 'end' as const), fc.nat(LENGTH)).map(
    ([side, to]): Edit =>
      (r) =>
        moveCurtain(r, side, to, LENGTH),
  ),
  fc.option(fc.double({ min: 0.3, max: 3, noNaN: true })).map(
    (s): Edit =>
      (r) =>
        limitPauses(r, { speech }, s),
  ),
)

describe('any order of edits', () => {
  test('leaves a recipe that can be kept and something to hear', () => {
    fc.assert(
      fc.property(fc.array(edit, { maxLength: 25 }), (edits) => {
        const recipe = edits.reduce((r, e) => e(r), whole)
        expect(TidyUp.safeParse(recipe).success).toBe(true)
        expect(recipe.kept.end).toBeLessThanOrEqual(LENGTH)
        const inOrder = (list: SampleRange[]) => list.every((s, i) => i === 0 || s.start > list[i - 1]!.end)
        expect(inOrder(recipe.cuts)).toBe(true)
        expect(inOrder(recipe.silenced)).toBe(true)
      }),
    )
  })

  test('keeps every word that is heard at its own place in the clip', () => {
    // the clip as the renderer joins it: a list of the take's samples
    fc.assert(
      fc.property(
        fc.array(edit, { maxLength: 12 }),
        fc.array(fc.nat(LENGTH - 1), { minLength: 5, maxLength: 20 }),
        (edits, words) => {
          const recipe = edits.reduce((r, e) => e(r), whole)
          const pieces = keptStretches(recipe)
          const map = timeMap(recipe, 0)
          for (const word of words) {
            let before = 0
            let heardAt: number | null = null
            for (const piece of pieces) {
              if (word >= piece.start && word < piece.end) heardAt = before + word - piece.start
              before += piece.end - piece.start
            }
            const mapped = map.toSlide(takeSeconds(toSeconds(word)))
            if (heardAt === null) expect(mapped).toBeNull()
            else expect(mapped! * 48_000).toBeCloseTo(heardAt, 3)
          }
          expect(before(pieces)).toBe(clipSamples(recipe))
        },
      ),
    )
  })
})

test('the first sample after every cut is heard, whatever the division into seconds and back rounds to', () => {
  for (let end = 1; end < 20_000; end++) {
    const { toSlide, toTake } = timeMap({ kept: { start: 0, end: LENGTH }, cuts: [{ start: 0, end }] }, 0)
    expect(toSlide(takeSeconds(toSeconds(end)))).toBe(0)
    expect(toTake(toSlide(takeSeconds(toSeconds(end)))!)! * 48_000).toBeCloseTo(end, 5)
  }
})

const before = (pieces: SampleRange[]) => pieces.reduce((sum, p) => sum + p.end - p.start, 0)

test('what is put back is as it was', () => {
  const s = { start: 100_000, end: 150_000 }
  expect(putBack(cutOut(whole, s), s)).toEqual(whole)
  expect(putBack(silenceOut(whole, s), s)).toEqual(whole)
  expect(putBack(gainOver(whole, s, -6), s)).toEqual(whole)
})

test('half of a cut can be put back', () => {
  const recipe = putBack(cutOut(whole, { start: 1000, end: 3000 }), { start: 2000, end: 5000 })
  expect(recipe.cuts).toEqual([{ start: 1000, end: 2000 }])
})

test('the last bit cannot be cut out', () => {
  expect(cutOut(whole, { start: 0, end: LENGTH })).toBe(whole)
})

test('pauses over the limit are cut in their middle to exactly the limit', () => {
  const { pauseCuts } = limitPauses(whole, { speech }, 1)
  expect(pauseCuts).toEqual([
    { start: 144_000, end: 196_000 },
    { start: 324_000, end: 396_000 },
  ])
})
