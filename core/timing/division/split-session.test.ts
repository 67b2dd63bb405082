import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { Mark } from '#core/model/marks.ts'
import { toSamples } from '../clocks.ts'
import { boundariesOf, splitSession, visitsOf } from './split-session.ts'

const s = toSamples
const stretch = (start: number, end: number) => ({ start: s(start), end: s(end) })
const to = (slideId: string, at: number): Mark => ({ kind: 'slide', at: s(at), slideId })

describe('a session', () => {
  const speech = [stretch(0.5, 4), stretch(5, 9), stretch(10, 14)]
  const marks = [to('b', 5.3), { kind: 'step', at: s(7), stepId: 'b2' } as const, to('c', 9.2)]
  test('is divided in the pauses near the key presses, and marks go to the slide they were pressed on', () => {
    const visits = visitsOf('a', marks)
    const boundaries = boundariesOf(visits, speech)
    expect(boundaries.map((b) => b.at / 48_000)).toEqual([4.5, 9.5])
    const at = boundaries.map((b) => b.at)
    expect(splitSession('a', marks, at, speech, s(15))).toEqual([
      { slideId: 'a', ...stretch(0, 4.5), marks: [] },
      { slideId: 'b', ...stretch(4.5, 9.5), marks: [{ kind: 'step', at: s(2.5), stepId: 'b2' }] },
      { slideId: 'c', ...stretch(9.5, 15), marks: [] },
    ])
  })
  test('a slide that was gone back to has two parts', () => {
    const back = [to('b', 4.5), to('a', 9.5)]
    expect(splitSession('a', back, [s(4.5), s(9.5)], speech, s(15)).map((p) => p.slideId)).toEqual(['a', 'b', 'a'])
  })
  test('a slide passed over in silence has none', () => {
    const over = [to('b', 4.4), to('c', 4.6)]
    expect(splitSession('a', over, [s(4.4), s(4.6)], speech, s(15)).map((p) => p.slideId)).toEqual(['a', 'c'])
  })
  test('a mark pressed before the pause its slide begins with stays at the beginning', () => {
    const early: Mark[] = [to('b', 4.1), { kind: 'step', at: s(4.2), stepId: 'x' }]
    expect(splitSession('a', early, [s(4.5)], speech, s(15))[1]!.marks).toEqual([{ kind: 'step', at: 0, stepId: 'x' }])
  })
  test('a short part in which somebody speaks is a part; so is a silent one of a second and a half', () => {
    const word = [stretch(0.5, 4), stretch(5, 5.4), stretch(10, 14)]
    const said = splitSession('a', [to('b', 4.5), to('c', 5.7)], [s(4.5), s(5.7)], word, s(15))
    expect(said.map((p) => p.slideId)).toEqual(['a', 'b', 'c'])
    const shown = splitSession('a', [to('b', 6), to('c', 7.5)], [s(6), s(7.5)], word, s(15))
    expect(shown.map((p) => p.slideId)).toEqual(['a', 'b', 'c'])
    // speech that ends where the part begins, or begins where it ends, is not spoken in it
    const between = splitSession('a', [to('b', 4), to('c', 5)], [s(4), s(5)], word, s(15))
    expect(between.map((p) => p.slideId)).toEqual(['a', 'c'])
  })
  test('an empty part is none', () => {
    const twice = splitSession('a', [to('b', 2), to('c', 2)], [s(2), s(2)], [stretch(0.5, 9)], s(15))
    expect(twice.map((p) => p.slideId)).toEqual(['a', 'c'])
  })
  test('a new start keeps where it was picked up from, in the samples of its part', () => {
    const again: Mark[] = [to('b', 5), { kind: 'pick-up', at: s(8), from: s(6) }]
    const [, second] = splitSession('a', again, [s(4.5)], speech, s(15))
    expect(second!.marks).toEqual([{ kind: 'pick-up', at: s(3.5), from: s(1.5) }])
    const late: Mark[] = [to('b', 5), { kind: 'step', at: s(20), stepId: 'x' }]
    expect(splitSession('a', late, [s(4.5)], speech, s(15))[1]!.marks).toEqual([{ kind: 'step', at: s(10.5), stepId: 'x' }])
  })
  test('whatever is pressed, parts are in order, do not overlap, and no spoken sound is lost', () => {
    const press = fc.record({ slide: fc.constantFrom('a', 'b', 'c'), at: fc.integer({ min: 1, max: 149 }) })
    fc.assert(
      fc.property(fc.array(press, { maxLength: 8 }), (presses) => {
        const pressed = [...presses].sort((x, y) => x.at - y.at).map((p) => to(p.slide, p.at / 10))
        const visits = visitsOf('a', pressed)
        const boundaries = boundariesOf(visits, speech).map((b) => b.at)
        const parts = splitSession('a', pressed, boundaries, speech, s(15))
        let end = 0
        for (const part of parts) {
          expect(part.start).toBeGreaterThanOrEqual(end)
          end = part.end
          for (const mark of part.marks) expect(mark.at).toBeLessThanOrEqual(part.end - part.start)
        }
        const spoken = (list: { start: number; end: number }[]) =>
          speech.reduce(
            (sum, one) =>
              sum + list.reduce((n, p) => n + Math.max(0, Math.min(p.end, one.end) - Math.max(p.start, one.start)), 0),
            0,
          )
        expect(spoken(parts)).toBe(spoken([{ start: 0, end: s(15) }]))
      }),
    )
  })
})
