/** What was filmed, beside the sound it was recorded with: through cuts, tempo, rests and corners. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { footageAfter } from '#core/audio/tidy-up/after-replacing.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { type FootageCut, type FootageKind, footageLater, footageWithin } from '#core/model/moving/footage.ts'
import { DEFAULT_SMALL_PICTURE, smallPictureOn } from '#core/model/moving/small-picture.ts'
import { slideSeconds, takeSeconds, toSamples, toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { timeMap } from '#core/timing/time-map.ts'
import { film, lecture, slide } from '#tests/made/lecture.ts'
import { checks } from './checks/checks.ts'
import { filmsAt, placeInFile } from './films.ts'
import { shownAt } from './frame-at.ts'
import { plan } from './plan.ts'

/** A footage of a take, thirty frames a second. */
const filmed = (id: string, kind: FootageKind, start: number, end: number, more: Partial<FootageCut> = {}) => ({
  footageId: id,
  start,
  end,
  from: 0,
  ...more,
  footage: {
    id,
    kind,
    isPractice: false,
    original: `original ${id}`,
    description: '',
    problem: null,
    shown: { ...film(id, 1).shown!, proxy: `proxy ${id}`, sound: null, rate: [30, 1] as [number, number], frames: 100_000 },
  },
})

/** A lecture of one slide that is spoken to from one second on to one second before its end. */
function spoken(seconds: number, footage: ReturnType<typeof filmed>[], tidyUp: object = {}): Lecture {
  const one = slide('a', seconds)
  const take = one.takes[0]!
  take.footage = footage
  take.analysis!.speech = [{ start: toSamples(1), end: toSamples(seconds - 1) }]
  take.tidyUp = { ...take.tidyUp!, kept: { start: toSamples(1), end: toSamples(seconds - 1) }, ...tidyUp }
  return lecture([one])
}

describe('what was filmed', () => {
  test('at every moment of the voice the nearest frame is seen: through cuts, pauses that were cut, and tempo', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 60_000, max: 400_000 }), fc.integer({ min: 2000, max: 60_000 })), { maxLength: 5 }),
        fc.constantFrom(0.8, 0.93, 1, 1.07, 1.2),
        fc.integer({ min: 0, max: 30_000 }),
        fc.integer({ min: 0, max: 5000 }),
        fc.constantFrom<FootageKind>('screen', 'camera'),
        fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 20, maxLength: 20 }),
        (cuts, tempo, start, from, kind, moments) => {
          const made = spoken(10, [filmed('f', kind, start, toSamples(10), { from })], {
            cuts: cuts.map(([at, length]) => ({ start: at, end: Math.min(at + length, 430_000) })),
            tempo,
          })
          const scheduled = schedule(made).slides[0]!
          const films = plan(made).slides[0]!.films!
          expect(films).toHaveLength(1)
          const map = timeMap(made.slides[0]!.takes[0]!.tidyUp!, toSeconds(scheduled.leadSamples))
          for (const share of moments) {
            const at = scheduled.leadSamples + Math.floor(share * (scheduled.clipSamples - 1))
            const heard = map.toTake(slideSeconds(toSeconds(at)))!
            const [shown] = filmsAt(films, at)
            const taken = (start - from) / 48_000 + shown!.frame / 30
            expect(Math.abs(taken - heard)).toBeLessThan(0.0172)
            // and the sheet's player goes to the same frame
            const { seconds, speed } = placeInFile(films[0]!, at)
            expect(Math.abs(Math.floor(seconds * 30) - shown!.frame)).toBeLessThanOrEqual(1)
            expect(speed).toBeCloseTo(tempo, 3)
          }
        },
      ),
    )
  })

  test('a screen is seen for as long as it was shown; the slide before and after it', () => {
    const made = spoken(10, [filmed('s', 'screen', toSamples(3), toSamples(6))])
    const edition = plan(made)
    const scheduled = schedule(made).slides[0]!
    const map = timeMap(made.slides[0]!.takes[0]!.tidyUp!, toSeconds(scheduled.leadSamples))
    const seen = (moment: number) => shownAt(edition, map.toSlide(takeSeconds(moment))!).films.length
    expect([1.1, 2.9, 3.1, 5.9, 6.1, 8.9].map(seen)).toEqual([0, 0, 1, 1, 0, 0])
  })

  test('one that was shown from the beginning is seen with the slide’s first frame, and one that goes on to the end stays', () => {
    const made = spoken(10, [filmed('s', 'screen', toSamples(0.2), toSamples(10))])
    const edition = plan(made)
    expect(shownAt(edition, 0).films).toMatchObject([{ moves: false }])
    expect(shownAt(edition, toSeconds(edition.lengthSamples) - 0.01).films).toMatchObject([{ moves: false }])
  })

  test('the teacher is seen from the slide’s first moment to its last, and moves before and after the words as far as nobody speaks there', () => {
    const quiet = plan(spoken(10, [filmed('c', 'camera', 0, toSamples(10))])).slides[0]!
    expect(quiet.films).toMatchObject([{ seenSamples: 0, startSamples: 0, stays: true, edge: 'round' }])
    // as long as anything was recorded; then the last picture stays
    expect(quiet.films![0]!.endSamples).toBe(toSamples(0.25 + 8 + 1))
    // somebody says something before the curtain that is not heard: those lips are not seen
    const made = spoken(10, [filmed('c', 'camera', 0, toSamples(10))])
    made.slides[0]!.takes[0]!.analysis!.speech.unshift({ start: toSamples(0.1), end: toSamples(0.95) })
    const [careful] = plan(made).slides[0]!.films!
    expect(careful!.startSamples).toBe(toSamples(0.25) - toSamples(0.05))
    expect(careful!.seenSamples).toBe(0)
  })

  test('the teacher is over the screen, and neither is there where it was left out', () => {
    const both = [filmed('c', 'camera', 0, toSamples(10)), filmed('s', 'screen', 0, toSamples(10))]
    expect(plan(spoken(10, both)).slides[0]!.films!.map((one) => one.edge)).toEqual([undefined, 'round'])
    const left = both.map((cut) => ({ ...cut, isLeftOut: true as const }))
    expect(plan(spoken(10, left)).slides[0]!.films).toBeUndefined()
  })

  test('frames of a camera are seen at its own rate, from its own first moment on, and earlier where it is known to be late', () => {
    const camera = filmed('c', 'camera', 0, toSamples(10))
    const [count, per, beginsSeconds] = [2997, 100, 0.011]
    const own = {
      ...camera,
      footage: { ...camera.footage, shown: { ...camera.footage.shown, rate: [count, per] as [number, number], beginsSeconds } },
    }
    for (const lateMs of [0, 120, -80]) {
      const made = spoken(10, [own])
      made.smallPicture = { ...made.smallPicture, lateMs }
      const { leadSamples } = schedule(made).slides[0]!
      const { films } = plan(made).slides[0]!
      for (const heard of [1.5, 4.321, 7.777]) {
        const [shown] = filmsAt(films, leadSamples + toSamples(heard - 1))
        const taken = beginsSeconds + (shown!.frame * per) / count
        expect(Math.abs(taken - heard - lateMs / 1000)).toBeLessThan(0.0172)
      }
    }
  })
  test('where the small picture is shown: everywhere, at both ends, nowhere, and on a slide of its own mind', () => {
    const shown = (settings: object, exception: object | null) =>
      [0, 1, 2].map((index) => smallPictureOn({ ...DEFAULT_SMALL_PICTURE, ...settings }, exception, { index, count: 3 }) !== null)
    expect(shown({}, null)).toEqual([true, true, true])
    expect(shown({ shown: 'first-and-last' }, null)).toEqual([true, false, true])
    expect(shown({ shown: 'nowhere' }, null)).toEqual([false, false, false])
    expect(shown({ shown: 'nowhere' }, { isShown: true })).toEqual([true, true, true])
    expect(shown({}, { isShown: false })).toEqual([false, false, false])
    const place = { index: 1, count: 3 }
    expect(smallPictureOn(DEFAULT_SMALL_PICTURE, { corner: 'top-left', size: 'large' }, place)).toMatchObject({
      corner: 'top-left',
      size: 'large',
    })
  })
})

describe('checks of what was filmed', () => {
  const found = (footage: ReturnType<typeof filmed>) => {
    const made = spoken(10, [footage])
    return checks(made, schedule(made)).map((check) => check.kind)
  }
  const camera = filmed('c', 'camera', 0, toSamples(10))
  const screen = filmed('s', 'screen', 0, toSamples(10))
  const changed = (cut: typeof camera, change: object) => ({ ...cut, footage: { ...cut.footage, ...change } })
  test('a demonstration wants a description, a face does not', () => {
    expect(found(screen)).toContain('film-description')
    expect(found(changed(screen, { description: 'A table is filled in' }))).not.toContain('film-description')
    expect(found(camera).filter((kind) => kind.startsWith('film'))).toEqual([])
  })
  test('what is not ready, or cannot be, is missing; one that was left out is asked for nothing', () => {
    expect(found(changed(camera, { shown: null }))).toContain('film-missing')
    expect(found({ ...changed(camera, { shown: null }), isLeftOut: true as const })).not.toContain('film-missing')
  })
  test('what is seen of it counts: a small picture that is shown nowhere, and flashes in any part that is', () => {
    const missing = spoken(10, [changed(camera, { shown: null })])
    missing.smallPicture = { ...missing.smallPicture, shown: 'nowhere' }
    expect(checks(missing, schedule(missing)).map((check) => check.kind)).not.toContain('film-missing')
    // the same footage before and after a sentence that was said again
    const flashing = { ...camera.footage, shown: { ...camera.footage.shown, flashes: [{ start: 1, end: 2 }] } }
    const parts = [
      { ...camera, end: toSamples(4), footage: flashing },
      { ...camera, start: toSamples(5), from: toSamples(5), footage: flashing },
    ]
    const made = spoken(10, parts)
    expect(checks(made, schedule(made)).filter((check) => check.kind === 'film-flashes')).toHaveLength(1)
  })
  test('a screen that was shown twice is one thing to do, unless what is wrong with it differs', () => {
    const twice = [filmed('s', 'screen', 0, toSamples(3)), filmed('t', 'screen', toSamples(5), toSamples(8))]
    const made = spoken(10, twice)
    expect(checks(made, schedule(made)).filter((check) => check.kind === 'film-description')).toHaveLength(1)
    const unread = spoken(10, [
      changed(twice[0]!, { shown: null, problem: 'It is cut off' }),
      changed(twice[1]!, { shown: null }),
    ])
    const missing = checks(unread, schedule(unread)).filter((check) => check.kind === 'film-missing')
    expect(missing.map((check) => check.advice)).toEqual(['It is cut off', 'It is being made ready'])
  })
  test('a demonstration that was left out is described to nobody', () => {
    const told = (isLeftOut?: true) =>
      plan(spoken(10, [{ ...changed(screen, { description: 'A table' }), ...(isLeftOut && { isLeftOut }) }])).slides[0]!.altText
    expect(told()).toContain('A table')
    expect(told(true)).not.toContain('A table')
  })
  test('flashes count where they are seen only, and a practice camera is nobody', () => {
    const flashing = (start: number) =>
      changed(camera, { shown: { ...camera.footage.shown, flashes: [{ start, end: start + 1 }] } })
    expect(found(flashing(3))).toContain('film-flashes')
    expect(found(flashing(300))).not.toContain('film-flashes')
    expect(found(changed(camera, { isPractice: true }))).toContain('practice-picture')
  })
})

describe('parts of footage', () => {
  const cuts: FootageCut[] = [
    { footageId: 'a', start: 100, end: 400, from: 0 },
    { footageId: 'b', start: 600, end: 900, from: 50 },
  ]
  test('a part of a take has the part of its footage', () => {
    expect(footageWithin(cuts, { start: 200, end: 700 })).toEqual([
      { footageId: 'a', start: 0, end: 200, from: 100 },
      { footageId: 'b', start: 400, end: 500, from: 50 },
    ])
    expect(footageWithin(cuts, { start: 400, end: 600 })).toEqual([])
    expect(footageLater(cuts, 10)[1]).toEqual({ footageId: 'b', start: 610, end: 910, from: 50 })
  })
  test('what was said again brings its own footage, and what comes after it goes on with the sound', () => {
    const replaced = { stretch: { start: 200, end: 300 }, length: 150 }
    expect(footageAfter(replaced, cuts, [{ footageId: 'x', start: 10, end: 140, from: 7 }])).toEqual([
      { footageId: 'a', start: 100, end: 200, from: 0 },
      { footageId: 'x', start: 210, end: 340, from: 7 },
      { footageId: 'a', start: 350, end: 450, from: 200 },
      { footageId: 'b', start: 650, end: 950, from: 50 },
    ])
  })
})
