import fc from 'fast-check'
import { expect, test } from 'vitest'
import { keptTake } from '#core/model/kept-take.ts'
import { film, filmed, lecture, slide } from '#tests/made/lecture.ts'
import { shownAt } from './frame-at.ts'
import { plan } from './plan.ts'

const FRAME = 1 / 25
/** A film that begins on the first slide and runs on over those that follow. */
const running = (seconds: number, fromSeconds = 0) => film('f', seconds, { waits: false, runsOn: true, fromSeconds })

test('a film that runs on is seen on over the slides that follow, each frame within half of one of its moment, and its sound with it', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 20, max: 400 }).map((tenths) => tenths / 10),
      fc.integer({ min: 0, max: 40 }).map((frames) => frames * FRAME),
      fc.constantFrom('none' as const, 'cross-fade' as const),
      (seconds, fromSeconds, kind) => {
        const slides = [filmed('a', 3, [running(seconds, fromSeconds)]), slide('b', 4), filmed('c', 0, [film('g', 1.3)])]
        const made = plan(lecture(slides, { transition: { kind, seconds: 0.6 } }))
        const begins = made.slides[0]!.films![0]!.startSamples / 48_000
        const ends = begins + seconds - fromSeconds
        expect(made.lengthSamples / 48_000).toBeGreaterThan(ends)
        for (let at = 0; at < made.lengthSamples / 48_000; at += 0.173) {
          const seen = shownAt(made, at).films.filter((one) => one.film.filmId === 'f')
          // the rest of a last frame, and the own slide after it has ended there, are another matter
          if (at < begins || Math.abs(at - ends) < FRAME || (at > ends && shownAt(made, at).slide === 0)) continue
          if (at > ends) expect(seen).toEqual([])
          else expect(Math.abs((seen[0]!.frame + 0.5) * FRAME - (fromSeconds + at - begins))).toBeLessThanOrEqual(FRAME + 1e-4)
        }
        const heard = made.slides.flatMap((one) =>
          one.beds.filter(({ isFilm, sound }) => isFilm && sound === 'sound f').map(({ from, to }) => to - from),
        )
        expect(heard.length).toBe(made.slides.filter((one) => one.startSamples / 48_000 < ends).length)
      },
    ),
    { numRuns: 60 },
  )
})

test('what runs on lies under the films of the slide itself and is gone when it has ended', () => {
  const slides = [filmed('a', 3, [running(8)]), filmed('b', 9, [film('g', 6)])]
  const { slides: made } = plan(lecture(slides))
  expect(made[1]!.films!.map(({ filmId, stays }) => [filmId, stays])).toEqual([
    ['f', false],
    ['g', true],
  ])
  expect(keptTake(slides[1]!)).not.toBeNull()
  // the change of slide keeps what is seen of it
  expect(plan(lecture(slides, { transition: { kind: 'cross-fade', seconds: 0.6 } })).slides[1]!.transition!.films).toMatchObject([
    { proxy: 'proxy f' },
  ])
})
