import fc from 'fast-check'
import { expect, test } from 'vitest'
import { steadyRate } from './steady-rate.ts'

/** An hour at most of pictures, each a little early or late, and some not there. */
const pictures = (rate: number, seconds: number, jitter: () => number, isThere: (i: number) => boolean = () => true) =>
  Array.from({ length: Math.round(rate * seconds) }, (_, i) => (isThere(i) ? [i / rate + jitter()] : [])).flat()

test('a camera’s own rate is found whatever came late or not at all: over an hour each frame is within three milliseconds of its picture', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 10, max: 30.4, noNaN: true }),
      fc.integer({ min: 10, max: 3600 }),
      fc.integer({ min: 3, max: 50 }),
      fc.infiniteStream(fc.double({ min: -0.004, max: 0.004, noNaN: true })),
      (rate, seconds, missing, jitters) => {
        const found = steadyRate(
          pictures(
            rate,
            seconds,
            () => jitters.next().value as number,
            (i) => i === 0 || i % missing > 0,
          ),
        )!
        const last = Math.round(rate * seconds) - 1
        const place = (i: number) => found.beginsSeconds + (i * found.rate[1]) / found.rate[0]
        for (const i of [0, last >> 1, last]) expect(Math.abs(place(i) - i / rate)).toBeLessThan(0.004)
      },
    ),
    { numRuns: 25 },
  )
})
test('what is quicker than thirty a second is shown as an even share of it', () => {
  expect(steadyRate(pictures(59.94, 60, () => 0))!.rate).toEqual([2997, 100])
  expect(steadyRate(pictures(48, 60, () => 0))!.rate).toEqual([24, 1])
})
test('one that came at changing distances has no rate: a screen, a camera that became slower in the dark, a few pictures', () => {
  const dark = [...pictures(30, 20, () => 0), ...pictures(20, 20, () => 0).map((at) => at + 20)]
  const screen = [0, 0.1, 0.13, 2, 2.03, 2.06, 7.5, 7.6, 9, 9.01, 9.3, 12, 12.04]
  for (const times of [dark, screen, [0, 0.03, 0.06], [], Array(30).fill(1)]) expect(steadyRate(times)).toBeNull()
})
