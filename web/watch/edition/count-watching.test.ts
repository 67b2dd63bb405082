import { expect, test } from 'vitest'
import { WatchCount } from './count-watching.ts'

/** Plays from one moment to another, ten times a second. */
function play(count: WatchCount, from: number, to: number, now: number) {
  count.see(from, true, now)
  for (let tenth = 1; tenth <= Math.round((to - from) * 10); tenth++) count.see(from + tenth / 10, true, now + tenth * 100)
}

test('what was played on is one pass, a jump begins another, and going back is told by where to', () => {
  const count = new WatchCount(100)
  expect(count.take(true)).toBeNull()
  play(count, 0, 10, 0)
  play(count, 50, 55, 11_000)
  play(count, 20, 25, 17_000)
  const { passes, back, left } = count.take(false)!
  expect(passes.map((pass) => pass.map((at) => Math.round(at)))).toEqual([
    [0, 10],
    [50, 55],
    [20, 25],
  ])
  expect(back).toEqual([20])
  expect(left).toBeNull()
  expect(count.take(false)).toBeNull()
  expect(count.take(true)).toMatchObject({ passes: [], left: expect.closeTo(25) })
})
test('who hears it to its end has not left it, and who never played has nothing to leave', () => {
  const count = new WatchCount(10)
  count.see(4, false, 0)
  count.see(0, false, 100)
  expect(count.take(true)).toBeNull()
  play(count, 0, 10, 200)
  expect(count.take(true)!.left).toBeNull()
})
