/** Captions of films on the lecture's clock: they come when what is said in the film is heard. */
import type { Lecture } from '#core/model/lecture.ts'
import { type Film, filmFrames, isRunningOn } from '#core/model/moving/film.ts'
import { bareLanguage } from '#core/script/language-tags.ts'
import { lectureSeconds, SAMPLE_RATE, toSeconds } from '#core/timing/clocks.ts'
import { type Schedule, schedule } from '#core/timing/schedule.ts'
import type { ScheduledFilm, ScheduledSlide } from '#core/timing/scheduled.ts'
import type { LectureCue } from './place-cues.ts'

/** What the end of a film has left of a caption must be long enough to be seen. */
const SHORTEST_REST_S = 0.1

/** Captions of a film for a track of a language: those of just that language, else of another form of it. */
export function captionsFor(film: Pick<Film, 'captions'>, language: string): Film['captions'][number] | undefined {
  return (
    film.captions.find((one) => one.language === language) ??
    film.captions.find((one) => bareLanguage(one.language) === bareLanguage(language))
  )
}

export const hasFilmCaptions = ({ slides }: Pick<Lecture, 'slides'>, language: string): boolean =>
  slides.some((slide) => slide.steps.some((step) => step.films.some((film) => captionsFor(film, language))))

/** The slide that is seen at a moment. */
const slideIdAt = ({ slides }: Schedule, seconds: number) =>
  (slides.findLast((one) => toSeconds(one.startSamples) <= seconds) ?? slides[0])!.slideId

/** One film's, each time that it is shown. */
function placed(film: Film, scheduled: ScheduledFilm, slide: ScheduledSlide, times: Schedule, language: string): LectureCue[] {
  const captions = captionsFor(film, language)
  if (!captions || film.isMuted || !film.shown) return []
  const [count, per] = film.shown.rate
  const { from, to } = filmFrames(film)
  const [first, last] = [(from * per) / count, (to * per) / count]
  const begins = toSeconds(slide.startSamples + scheduled.startSamples)
  const shownSamples = isRunningOn(film) ? scheduled.onceSamples : scheduled.endSamples - scheduled.startSamples
  const ends = begins + toSeconds(shownSamples)
  const showings = film.loops ? Math.ceil(shownSamples / scheduled.onceSamples) : 1
  return Array.from({ length: showings }, (_, k) => begins + (k * scheduled.onceSamples) / SAMPLE_RATE).flatMap((shown, k) =>
    captions.cues.flatMap((cue, i) => {
      const start = shown + Math.max(cue.start, first) - first
      const end = Math.min(shown + Math.min(cue.end, last) - first, ends)
      if (end - start < Math.min(SHORTEST_REST_S, cue.end - cue.start)) return []
      const { text, markup, settings } = cue
      const said = { text, markup, settings, needsReview: false }
      const id = `${film.id} ${k} ${i}`
      return [{ id, slideId: slideIdAt(times, start), start: lectureSeconds(start), end: lectureSeconds(end), ...said }]
    }),
  )
}

/** @returns cues in order of their films; what was cut off a film is left out, and so are those of muted ones */
export function filmCuesOnLecture(lecture: Pick<Lecture, 'timing' | 'slides' | 'transition'>, language: string): LectureCue[] {
  if (!hasFilmCaptions(lecture, language)) return []
  const times = schedule(lecture)
  const films = new Map(
    lecture.slides.flatMap((slide) => slide.steps.flatMap((step) => step.films.map((film) => [film.id, film] as const))),
  )
  return times.slides.flatMap((slide) =>
    slide.films.flatMap((scheduled) => placed(films.get(scheduled.filmId)!, scheduled, slide, times, language)),
  )
}
