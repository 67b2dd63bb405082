import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { DEFAULT_TIMING } from '#core/model/timing.ts'
import { film, filmed, lecture, slide } from '#tests/made/lecture.ts'
import { toSeconds } from './clocks.ts'
import { filmsRunningOn } from './films.ts'
import { schedule } from './schedule.ts'
import { stepStarts } from './steps.ts'

const paced = (paceSeconds: number) => ({ timing: { ...DEFAULT_TIMING, paceSeconds } })
/** The first of two slides: the last rests longer. */
const first = (made: ReturnType<typeof filmed>, more = {}) => schedule(lecture([made, slide('after', 1)], more)).slides[0]!
const seconds = (samples: number) => Math.round(toSeconds(samples) * 1000) / 1000

describe('a film on a slide', () => {
  test('a slide without a voice lasts as long as its film and a rest, whatever it is held for', () => {
    const { films, lengthSamples } = first(filmed('a', 0, [film('f', 12)]))
    expect(films).toMatchObject([{ filmId: 'f', stepId: 'a0' }])
    expect([seconds(films[0]!.startSamples), seconds(films[0]!.endSamples)]).toEqual([0.25, 12.25])
    expect(toSeconds(lengthSamples)).toBeGreaterThanOrEqual(12.65)
    expect(toSeconds(lengthSamples)).toBeLessThan(12.65 + 0.03)
  })
  test('pictures of a silent slide wait for the films of those before them', () => {
    const made = filmed('a', 0, [film('f', 10)], [], [film('g', 7)])
    const scheduled = first(made)
    const starts = stepStarts(made, scheduled).map(({ at }) => Math.round(at * 100) / 100)
    // five seconds of silence are shared out by three
    expect(starts[1]).toBeCloseTo(10.25, 1)
    expect(starts[2]! - starts[1]!).toBeCloseTo(5 / 3, 1)
    expect(seconds(scheduled.films[1]!.startSamples)).toBeCloseTo(starts[2]!, 2)
    expect(toSeconds(scheduled.lengthSamples)).toBeCloseTo(starts[2]! + 7 + 0.4, 1)
  })
  test('one that does not wait ends with its slide; one that goes on begins again until then', () => {
    const [stops] = first(filmed('a', 4, [film('f', 60, { waits: false })])).films
    const loops = first(filmed('a', 4, [film('f', 1.6, { loops: true, waits: false })]))
    expect(seconds(stops!.endSamples)).toBeCloseTo(4.65, 1)
    expect(loops.films[0]!.endSamples).toBe(loops.lengthSamples)
    expect(seconds(loops.films[0]!.onceSamples)).toBe(1.6)
  })
  test('one that runs on is no reason for its slide to stay; it is shown over those that follow, and the last one waits for it', () => {
    const own = filmed('a', 4, [film('f', 20, { waits: false, runsOn: true })])
    const slides = [own, slide('b', 6), slide('c', 2)]
    const { slides: times, lengthSamples } = schedule(lecture(slides))
    expect(times[0]!.lengthSamples).toBe(first(filmed('a', 4, [])).lengthSamples)
    const [, second, third] = filmsRunningOn(slides, times)
    const begins = times[0]!.films[0]!.startSamples
    expect(second).toMatchObject([
      { ownSlide: 0, playedSamples: times[1]!.startSamples - begins, endSamples: times[1]!.lengthSamples },
    ])
    expect(third).toMatchObject([{ ownSlide: 0, endSamples: begins + 20 * 48_000 - times[2]!.startSamples }])
    // the last picture rests
    expect(toSeconds(lengthSamples)).toBeCloseTo(0.25 + 20 + 0.4 + 1, 1)
    const alone = schedule(lecture([own])).slides[0]!
    expect(toSeconds(alone.lengthSamples)).toBeCloseTo(0.25 + 20 + 0.4 + 1, 1)
  })
  test('one that begins again and again, or that its slide waits for, runs on over nothing', () => {
    for (const more of [{ waits: true }, { waits: false, loops: true }]) {
      const slides = [filmed('a', 4, [film('f', 20, { ...more, runsOn: true })]), slide('b', 6)]
      expect(filmsRunningOn(slides, schedule(lecture(slides)).slides).flat()).toEqual([])
    }
  })
  test('at a fixed pace a film that is too long is told like a clip that is', () => {
    const { overSamples, lengthSamples } = first(filmed('a', 5, [film('f', 25)]), paced(20))
    expect(toSeconds(overSamples!)).toBeCloseTo(0.25 + 25 + 0.2 - 20, 1)
    expect(toSeconds(lengthSamples)).toBeGreaterThan(25.4)
    expect(first(filmed('a', 5, [film('f', 10)]), paced(20)).overSamples).toBeLessThan(0)
  })
  test('one that is not ready, or cannot be read, changes nothing', () => {
    const plain = first(filmed('a', 5, []))
    expect(first(filmed('a', 5, [film('f', 30, { shown: null })]))).toEqual(plain)
  })
  test('what is cut off at its ends is not waited for', () => {
    const { films } = first(filmed('a', 0, [film('f', 30, { fromSeconds: 10, toSeconds: 14.4 })]))
    expect(seconds(films[0]!.endSamples - films[0]!.startSamples)).toBe(4.4)
  })
  test('whatever is set, no film covers a change of slide, none ends after its slide, and the voice waits where it should', () => {
    const any = fc.record({
      voice: fc.constantFrom('over' as const, 'before' as const, 'after' as const),
      waits: fc.boolean(),
      loops: fc.boolean(),
      length: fc.integer({ min: 1, max: 200 }).map((tenths) => tenths / 10),
    })
    const transition = { kind: 'cross-fade' as const, seconds: 0.8 }
    fc.assert(
      fc.property(
        fc.array(fc.array(any, { maxLength: 2 }), { minLength: 1, maxLength: 3 }),
        fc.integer({ min: 0, max: 20 }),
        (steps, spoken) => {
          const made = filmed(
            'b',
            spoken,
            ...steps.map((own, i) => own.map(({ length, ...more }, k) => film(`${i} ${k}`, length, more))),
          )
          const all = schedule(lecture([slide('a', 2), made, slide('c', 2)], { transition }))
          const scheduled = all.slides[1]!
          expect(scheduled.lengthSamples % 1024).toBe(0)
          for (const one of scheduled.films) {
            const settings = made.steps.flatMap((step) => step.films).find(({ id }) => id === one.filmId)!
            expect(one.startSamples).toBeGreaterThanOrEqual(0.8 * 48_000 - 1)
            expect(one.endSamples).toBeLessThanOrEqual(scheduled.lengthSamples)
            if (settings.waits) expect(one.endSamples - one.startSamples).toBeGreaterThanOrEqual(one.onceSamples)
            if (settings.voice === 'before' && spoken > 0)
              expect(one.startSamples).toBeGreaterThanOrEqual(scheduled.leadSamples + scheduled.clipSamples)
            if (settings.voice === 'after' && spoken > 0 && one.stepId === 'b0')
              expect(scheduled.leadSamples).toBeGreaterThanOrEqual(one.startSamples + one.onceSamples)
          }
          if (spoken > 0)
            expect(scheduled.lengthSamples).toBeGreaterThanOrEqual(scheduled.leadSamples + scheduled.clipSamples + 0.2 * 48_000)
        },
      ),
    )
  })
})
