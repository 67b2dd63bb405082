import fc from 'fast-check'
import { expect, test } from 'vitest'
import { fromPixels, reveal, scroll, ticksOf, toPixels, whole, zoom } from './view.ts'

const length = fc.double({ min: 0.5, max: 4000, noNaN: true })
const step = fc.oneof(
  fc.record({ zoom: fc.double({ min: 0.1, max: 8, noNaN: true }), at: fc.double({ min: 0, max: 1, noNaN: true }) }),
  fc.record({ scroll: fc.double({ min: -50, max: 50, noNaN: true }) }),
  fc.record({ reveal: fc.double({ min: 0, max: 1, noNaN: true }) }),
)

test('however one zooms and scrolls, the view stays inside the take', () => {
  fc.assert(
    fc.property(length, fc.array(step), (total, steps) => {
      let view = whole(total)
      for (const s of steps) {
        if ('zoom' in s) view = zoom(view, s.zoom, view.start + s.at * (view.end - view.start), total)
        else if ('scroll' in s) view = scroll(view, s.scroll, total)
        else view = reveal(view, s.reveal * total, total)
        expect(view.start).toBeGreaterThanOrEqual(0)
        expect(view.end).toBeLessThanOrEqual(total + 1e-9)
        expect(view.end - view.start).toBeGreaterThan(0.15)
      }
    }),
  )
})

test('the moment under the pointer stays under it', () => {
  const before = { start: 10, end: 30 }
  const after = zoom(before, 0.5, 15, 100)
  expect(toPixels(after, 800, 15)).toBeCloseTo(toPixels(before, 800, 15), 6)
})

test('pixels and moments are each other’s way back', () => {
  const view = { start: 3, end: 7 }
  expect(fromPixels(view, 640, toPixels(view, 640, 4.2))).toBeCloseTo(4.2, 9)
})

test('ticks stand on round moments inside the view', () => {
  expect(ticksOf({ start: 0.3, end: 10.2 }, 1000)).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9, 10])
})
