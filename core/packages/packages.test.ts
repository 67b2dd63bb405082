import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { Listening, NOTHING_KEPT, packListening, unpackListening } from './listening.ts'
import { heardShare, packStretches, type Stretch, secondsOf, unpackStretches, withStretch } from './stretches.ts'

/** Which tenths of seconds were heard, counted one by one. */
const counted = (stretches: readonly Stretch[]) => {
  const tenths = new Set<number>()
  for (const { start, end } of stretches) for (let t = Math.round(start * 10); t < Math.round(end * 10); t++) tenths.add(t)
  return tenths
}
const stretch = fc
  .tuple(fc.integer({ min: 0, max: 6000 }), fc.integer({ min: 1, max: 400 }))
  .map(([start, length]) => ({ start: start / 10, end: (start + length) / 10 }))
const union = (all: readonly Stretch[]) => all.reduce<Stretch[]>(withStretch, [])

describe('stretches', () => {
  test('added in any order they are what a plain count says, in order and apart', () =>
    fc.assert(
      fc.property(fc.array(stretch, { maxLength: 60 }), (all) => {
        const heard = union(all)
        expect(secondsOf(heard)).toBeCloseTo(counted(all).size / 10, 6)
        for (const [i, one] of heard.entries()) {
          expect(one.end).toBeGreaterThan(one.start)
          if (i > 0) expect(one.start).toBeGreaterThan(heard[i - 1]!.end)
        }
      }),
    ))
  test('as a text they come back; where it would be too long less counts as heard, never more', () =>
    fc.assert(
      fc.property(fc.array(stretch, { maxLength: 60 }), fc.integer({ min: 0, max: 200 }), (all, limit) => {
        const heard = union(all)
        expect(secondsOf(unpackStretches(packStretches(heard, 10_000))!)).toBeCloseTo(secondsOf(heard), 6)
        const short = packStretches(heard, limit)
        expect(short.length).toBeLessThanOrEqual(limit)
        const left = counted(unpackStretches(short)!)
        const whole = counted(heard)
        expect([...left].every((tenth) => whole.has(tenth))).toBe(true)
      }),
    ))
  test('what is no such text is none', () => {
    for (const text of ['x', '5-3', '1-2,,3-4', '1-2;3', '-', 'ü-ö']) expect(unpackStretches(text)).toBeNull()
    expect(heardShare([], 0)).toBe(0)
  })
})

describe('listening', () => {
  const times = { lengthSeconds: 600, slideStarts: [0, 100, 250, 400], share: 0.9 }
  /** A session of playing and going elsewhere, as a player tells it: many times a second. */
  const session = fc.array(
    fc.record({
      to: fc.integer({ min: 0, max: 5999 }).map((tenths) => tenths / 10),
      plays: fc.integer({ min: 1, max: 1200 }).map((tenths) => tenths / 10),
      rate: fc.constantFrom(0.5, 1, 1.5, 2),
      every: fc.constantFrom(16, 40, 250, 1000),
    }),
    { minLength: 1, maxLength: 12 },
  )
  test('in 1,000 sessions with random seeking what counts as heard is what a plain count of intervals says', () =>
    fc.assert(
      fc.property(session, (acts) => {
        let now = 0
        const listening = new Listening(times, NOTHING_KEPT, now)
        const played: Stretch[] = []
        let jumps = 0
        for (const { to, plays, rate, every } of acts) {
          const end = Math.min(600, to + plays)
          listening.see(to, true, now)
          jumps++
          let place = to
          while (place < end) {
            const step = Math.min((every / 1000) * rate, end - place)
            place += step
            now += (step / rate) * 1000
            listening.see(place, true, now)
          }
          played.push({ start: to, end })
          // a second of rest, and a press somewhere else
          listening.see(end, false, now)
          now += 1000
        }
        const found = listening.progress(now)
        expect(Math.abs(found.heardShare * 600 - counted(played).size / 10)).toBeLessThan(0.11 * jumps)
        expect(found.slidesSeen).toBe(
          times.slideStarts.filter((start, i) =>
            played.some((one) => one.end > start && one.start < (times.slideStarts[i + 1] ?? 600)),
          ).length,
        )
      }),
      { numRuns: 1000 },
    ))
  test('who jumps to the end has not heard it; who has heard nine tenths has, in whatever order, and stays so', () => {
    const listening = new Listening(times, NOTHING_KEPT, 0)
    const play = (from: number, to: number, at: number) => {
      listening.see(from, true, at)
      for (let place = from; place <= to; place += 0.5) listening.see(place, true, at + (place - from) * 1000)
      listening.see(to, false, at + (to - from) * 1000)
    }
    listening.see(10, true, 0)
    listening.see(599, true, 20)
    listening.see(600, false, 1000)
    expect(listening.progress(1000).isCompleted).toBe(false)
    play(300, 600, 2000)
    play(0, 239, 400_000)
    expect(listening.progress(700_000)).toMatchObject({ isCompleted: false, place: 239, slidesSeen: 4, slides: 4 })
    play(238, 242, 700_000)
    expect(listening.progress(705_000).isCompleted).toBe(true)
    const kept = unpackListening(packListening(listening.progress(705_000), 600, 4096), 600)
    expect(kept.isCompleted).toBe(true)
    expect(kept.place).toBe(242)
    expect(new Listening(times, kept, 0).progress(0).heardShare).toBeGreaterThan(0.9)
  })
  test('what was kept of another edition is not heard of this one, but who had completed it has', () => {
    const kept = packListening({ place: 5, heard: [{ start: 0, end: 5 }], isCompleted: true }, 600, 4096)
    expect(unpackListening(kept, 610)).toEqual({ ...NOTHING_KEPT, isCompleted: true })
    expect(unpackListening('of another program', 600)).toEqual(NOTHING_KEPT)
  })
})
