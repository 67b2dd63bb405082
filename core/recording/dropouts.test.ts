/** Dropouts are told by a clock beside the samples; common practice, no published source. */
import { expect, test } from 'vitest'
import { DropoutDetector } from './dropouts.ts'

/** Pieces of 10 ms for so many seconds; `late` says by how much the clock was read late, `missing` what never came. */
function told(
  seconds: number,
  late: (at: number) => number,
  missing: (at: number) => number,
  gaps = new DropoutDetector(),
  from = 0,
) {
  for (let at = from; at < from + seconds * 1000; at += 10) {
    gaps.tell(at + late(at) + missing(at), at)
    // who asks in between changes nothing
    gaps.found()
  }
  return gaps
}
const none = () => 0

test('a clock that is read late is no gap', () => {
  expect(told(20, (at) => (at * 7919) % 9, none).found()).toEqual({ dropoutCount: 0, dropoutMs: 0 })
  // a second of stall that is made good: pieces come late, and all of them come
  expect(told(20, (at) => (at >= 5000 && at < 6000 ? 6000 - at : 0), none).found()).toEqual({ dropoutCount: 0, dropoutMs: 0 })
})

test('clocks of two devices that drift apart are no gap', () => {
  expect(told(60, (at) => at * 0.0003, none).found()).toEqual({ dropoutCount: 0, dropoutMs: 0 })
})

test('what never came is counted once, with its length', () => {
  expect(told(20, none, (at) => (at < 5000 ? 0 : at < 12_000 ? 10 : 50)).found()).toEqual({ dropoutCount: 2, dropoutMs: 50 })
})

test('what passes while it rests is not missing', () => {
  const gaps = told(5, none, none)
  gaps.rest()
  told(5, none, () => 7000, gaps, 5000)
  expect(gaps.found()).toEqual({ dropoutCount: 0, dropoutMs: 0 })
})
