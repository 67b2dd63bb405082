/** Frames of slides on which something moves. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { shownAt } from '#core/edition/frame-at.ts'
import { plan } from '#core/edition/plan.ts'
import { film, filmed, lecture, slide } from '#tests/made/lecture.ts'
import { slideFrames } from './frames.ts'

const planned = (rate: [number, number], more = {}) =>
  plan(lecture([slide('a', 2), filmed('b', 6, [film('f', 3, { shown: { ...film('f', 3).shown!, rate, frames: 90 }, ...more })])]))

describe('where a film moves', () => {
  test('each of its frames is encoded once and shown at its own moment, and what stands still is repeated', () => {
    const made = planned([25, 1]).slides[1]!
    const { encoded, shown } = slideFrames(made)
    const moving = shown.filter(({ encoded: index }) => encoded[index]!.moves)
    expect(moving).toHaveLength(90)
    expect(moving[0]!.at).toBe(made.films![0]!.startSamples)
    expect(new Set(moving.map(({ at }) => (at - made.films![0]!.startSamples) / 1920))).toEqual(new Set(Array(90).keys()))
    expect(encoded.filter((frame) => !frame.moves).length).toBe(4)
    // playing can begin at least every two seconds
    const keys = moving.filter(({ encoded: index }) => encoded[index]!.key).map(({ at }) => at)
    expect(keys.length).toBe(2)
  })
  test('frames of odd rates lie between samples, and never two in one', () => {
    const made = planned([30_000, 1001]).slides[1]!
    const { encoded, shown, runs } = slideFrames(made)
    const moving = shown.filter(({ encoded: index }) => encoded[index]!.moves)
    expect(moving).toHaveLength(90)
    expect(moving.at(-1)!.at - moving[0]!.at).toBe(Math.round((89 * 48_000 * 1001) / 30_000))
    // one run for the whole film: its moments are worked out, not written down
    expect(runs.length).toBeLessThanOrEqual(3)
  })
  test('at a constant rate every frame is on the grid', () => {
    const { shown } = slideFrames(planned([25, 1]).slides[1]!, 30)
    for (const [i, { at }] of shown.entries()) expect(at).toBe(i * 1600)
  })
  test('what is on the screen follows the film, and its last picture stays or goes', () => {
    const stays = planned([25, 1])
    const begins = (stays.slides[1]!.startSamples + stays.slides[1]!.films![0]!.startSamples) / 48_000
    expect(shownAt(stays, begins + 1.01).films).toMatchObject([{ frame: 25, moves: true }])
    expect(shownAt(stays, begins + 3.61).films).toMatchObject([{ frame: 89, moves: false }])
    expect(shownAt(planned([25, 1], { afterwards: 'slide' }), begins + 3.61).films).toEqual([])
    const loops = planned([25, 1], { loops: true, toSeconds: 1 })
    expect(shownAt(loops, begins + 2.21).films).toMatchObject([{ frame: 5, moves: true }])
  })
  test('at any moment of any slide the frame that is shown is of the picture and film of that moment', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 60 }), { minLength: 1, maxLength: 3 }),
        fc.integer({ min: 0, max: 12 }),
        fc.constantFrom<[number, number]>([24, 1], [25, 1], [30_000, 1001], [10, 1]),
        fc.constantFrom(null, 30),
        (lengths, spoken, rate, constant) => {
          const films = lengths.map((tenths, i) => [
            film(`${i}`, 1, {
              shown: { ...film('x', 1).shown!, rate, frames: Math.max(2, Math.round((tenths * rate[0]) / rate[1] / 10)) },
            }),
          ])
          const made = plan(
            lecture([slide('a', 1), filmed('b', spoken, ...films)], { transition: { kind: 'wipe', seconds: 0.5 } }),
          ).slides[1]!
          const { encoded, shown } = slideFrames(made, constant)
          for (let i = 1; i < shown.length; i++) {
            expect(shown[i]!.at).toBeGreaterThan(shown[i - 1]!.at)
            // no frame is left out that others refer to
            const passed = encoded.slice(shown[i - 1]!.encoded + 1, shown[i]!.encoded)
            if (constant === null) expect(passed.every((frame) => frame.repeat)).toBe(true)
          }
          expect(Math.max(...shown.map((frame) => frame.encoded))).toBeLessThan(encoded.length)
          for (const { at, encoded: index } of shown) {
            const inside = Math.min(at, made.lengthSamples - 1)
            const moves = made.films!.some((one) => one.startSamples <= inside && one.endSamples > inside)
            if (encoded[index]!.picture >= 0) expect(encoded[index]!.moves ?? false).toBe(moves)
          }
        },
      ),
    )
  })
})
