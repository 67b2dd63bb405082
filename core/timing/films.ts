/** When the films of a slide move. */
import { type Film, filmFrames, isRunningOn } from '#core/model/moving/film.ts'
import type { Slide } from '#core/model/slide.ts'
import { toSamples } from './clocks.ts'
import { type ScheduledFilm, type ScheduledSlide, transitionSamples } from './scheduled.ts'
import { stepStarts } from './steps.ts'

/** @returns samples of one showing of a film; 0 while it cannot be shown */
export function onceSamples(film: Pick<Film, 'fromSeconds' | 'toSeconds' | 'shown'>): number {
  if (!film.shown) return 0
  const { from, to } = filmFrames(film)
  const [count, per] = film.shown.rate
  return toSamples(((to - from) * per) / count)
}

const canBeShown = (film: Film) => film.shown !== null

/**
 * @param from sample at which a film of the slide's first step begins
 * @returns sample at which the last film ends that the voice waits for; 0 where it waits for none
 */
export function voiceWaitsUntil(slide: Pick<Slide, 'steps'>, from: number): number {
  const waitedFor = slide.steps[0]?.films.filter((film) => canBeShown(film) && film.voice === 'after') ?? []
  return Math.max(0, ...waitedFor.map((film) => from + onceSamples(film)))
}

/**
 * The films of a slide, each from its start to where it has been shown once: where the slide ends is not known yet.
 *
 * @param lead samples that the slide is seen before anything begins; a film that follows the voice rests as long after it
 */
export function scheduleFilms(
  slide: Pick<Slide, 'steps' | 'takes' | 'keptTakeId'>,
  base: Pick<ScheduledSlide, 'leadSamples' | 'clipSamples' | 'filmlessSamples' | 'transition'>,
  lead: number,
): ScheduledFilm[] {
  const films: ScheduledFilm[] = []
  const first = Math.max(transitionSamples(base.transition), lead)
  const voiceEnds = base.clipSamples > 0 ? base.leadSamples + base.clipSamples : 0
  for (const [i, step] of slide.steps.entries()) {
    const shown = step.films.filter(canBeShown)
    if (shown.length === 0) continue
    // a silent step waits for the films of those before it
    const starts = stepStarts(slide, { ...base, lengthSamples: base.filmlessSamples, films })
    const begins = i === 0 ? first : toSamples(starts[i]!.at)
    films.push(
      ...shown.map((film): ScheduledFilm => {
        const after = film.voice === 'before' && voiceEnds > 0 ? voiceEnds + lead : 0
        const startSamples = Math.max(begins, after)
        const once = onceSamples(film)
        return { filmId: film.id, stepId: step.id, startSamples, endSamples: startSamples + once, onceSamples: once }
      }),
    )
  }
  return films
}

/** @returns sample at which the last film has been shown that its slide stays for; 0 without one */
export function filmsWaitedFor(slide: Pick<Slide, 'steps'>, films: readonly ScheduledFilm[]): number {
  const waiting = new Set(slide.steps.flatMap((step) => step.films.filter((film) => film.waits).map((film) => film.id)))
  return Math.max(0, ...films.filter((film) => waiting.has(film.filmId)).map((film) => film.startSamples + film.onceSamples))
}

/** The same films on a slide of a known length. */
export function filmsWithin(
  slide: Pick<Slide, 'steps'>,
  films: readonly ScheduledFilm[],
  lengthSamples: number,
): ScheduledFilm[] {
  const looping = new Set(slide.steps.flatMap((step) => step.films.filter((film) => film.loops).map((film) => film.id)))
  return films
    .map((film) => ({
      ...film,
      endSamples: looping.has(film.filmId) ? lengthSamples : Math.min(lengthSamples, film.startSamples + film.onceSamples),
    }))
    .filter((film) => film.startSamples < film.endSamples)
}

/** @returns sample of the slide at which the last of its films ends that runs on; 0 without one */
export function filmsRunUntil(slide: Pick<Slide, 'steps'>, films: readonly ScheduledFilm[]): number {
  const running = new Set(slide.steps.flatMap((step) => step.films.filter(isRunningOn).map((film) => film.id)))
  return Math.max(0, ...films.filter((film) => running.has(film.filmId)).map((film) => film.startSamples + film.onceSamples))
}

/** A film that began on an earlier slide, on one that it runs on over. */
export interface RunningOn {
  /** Place of its own slide among those shown, from 0. */
  ownSlide: number
  film: ScheduledFilm
  /** Samples of it that were shown before the slide begins. */
  playedSamples: number
  /** Sample of the slide at which it ends, or the slide does. */
  endSamples: number
}

/**
 * @param slides those that are shown, in the schedule's order
 * @returns for each slide what runs on over it, in the order in which it began
 */
export function filmsRunningOn(
  slides: readonly Pick<Slide, 'steps'>[],
  scheduled: readonly Pick<ScheduledSlide, 'startSamples' | 'lengthSamples' | 'films'>[],
): RunningOn[][] {
  const over = scheduled.map((): RunningOn[] => [])
  for (const [ownSlide, { startSamples, films }] of scheduled.entries()) {
    const running = new Set(slides[ownSlide]!.steps.flatMap((step) => step.films.filter(isRunningOn).map((film) => film.id)))
    for (const film of films.filter(({ filmId }) => running.has(filmId))) {
      const begins = startSamples + film.startSamples
      const ends = begins + film.onceSamples
      for (let i = ownSlide + 1; i < scheduled.length && scheduled[i]!.startSamples < ends; i++) {
        const { startSamples: at, lengthSamples } = scheduled[i]!
        over[i]!.push({ ownSlide, film, playedSamples: at - begins, endSamples: Math.min(lengthSamples, ends - at) })
      }
    }
  }
  return over
}
