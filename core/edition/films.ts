/** The films of a slide as they are shown and heard, on the slide's and the lecture's clock. */
import { filmGains, type PlacedBed } from '#core/audio/mix/music-bed.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { type Film, filmFrames, filmPlace, isRunningOn, type ShownFilm } from '#core/model/moving/film.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { Slide, Step } from '#core/model/slide.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import type { RunningOn } from '#core/timing/films.ts'
import type { Schedule } from '#core/timing/schedule.ts'
import type { ScheduledFilm, ScheduledSlide } from '#core/timing/scheduled.ts'

/** Pictures of the edition have this shape. */
export const ASPECT = 16 / 9

export interface PlannedFilm {
  filmId: string
  /** Content name of what is shown. */
  proxy: string
  /** Frames a second, as a fraction, and those that are shown once: `from` the first, `to` the one after the last. */
  rate: [number, number]
  from: number
  to: number
  /** Frames of all of it. */
  frames: number
  /** Where it stands in the picture of the edition, shares of its width and height. */
  place: { x: number; y: number; width: number; height: number }
  /** Sample of the slide from which on its first picture is seen, it moves, and it ends or its slide does. */
  seenSamples: number
  startSamples: number
  endSamples: number
  /** Its last picture stays; else the slide's picture is seen again. */
  stays: boolean
  isMuted: boolean
  /** Of its file, frames a second, where it is shown quicker or slower than it was recorded. */
  fileRate?: [number, number]
  /** Of what was recorded with a take: which frames are seen when, in order, each once. */
  runs?: FilmRun[]
  /** Its edge, where it is no rectangle that lies flat on the slide: in a circle or a square with round corners. */
  edge?: 'round' | 'square'
  isMirrored?: true
}

/** Frames in a row, from the first to the one before `to`, between two samples of the slide. */
export interface FilmRun {
  startSamples: number
  endSamples: number
  from: number
  to: number
  /** By how much all but the first are seen earlier than one after the other from the start on, so that each is seen when it is the nearest. */
  earlySamples: number
}

/** One that stands still. */
export type FrozenFilm = Pick<PlannedFilm, 'proxy' | 'rate' | 'place' | 'edge' | 'isMirrored'> & { frame: number }

export interface ShownFrameOfFilm {
  film: PlannedFilm
  /** Which frame of its file. */
  frame: number
  moves: boolean
}

/** @param at sample of the slide */
export function filmsAt(films: readonly PlannedFilm[] | undefined, at: number): ShownFrameOfFilm[] {
  return (films ?? []).flatMap((film): ShownFrameOfFilm[] => {
    if (at < film.seenSamples) return []
    if (at < film.startSamples) return [{ film, frame: film.from, moves: false }]
    if (at >= film.endSamples) return film.stays ? [{ film, frame: frameOf(film, film.endSamples - 1), moves: false }] : []
    return [{ film, frame: frameOf(film, at), moves: true }]
  })
}

/** Half a sample late counts as there: frames of odd rates lie between samples. */
function frameOf({ from, to, startSamples, rate: [count, per], runs }: PlannedFilm, at: number): number {
  const played = (since: number) => Math.floor(((at - since + 0.5) * count) / (SAMPLE_RATE * per))
  if (!runs) return from + (played(startSamples) % (to - from))
  const run = runs.findLast((one) => one.startSamples <= at) ?? runs[0]!
  return Math.min(run.from + Math.max(0, played(run.startSamples - run.earlySamples)), run.to - 1)
}

/**
 * Where in its file a film is that moves.
 *
 * @param at sample of the slide
 * @returns seconds of the file, and how many times as fast it is shown as it was made
 */
export function placeInFile(film: PlannedFilm, at: number): { seconds: number; speed: number } {
  const [count, per] = film.fileRate ?? film.rate
  const speed = (film.rate[0] * per) / (film.rate[1] * count)
  const passed = (since: number) => ((at - since) * speed) / SAMPLE_RATE
  if (!film.runs) {
    const once = ((film.to - film.from) * per) / count
    return { seconds: (film.from * per) / count + (passed(film.startSamples) % once), speed }
  }
  const run = film.runs.findLast((one) => one.startSamples <= at) ?? film.runs[0]!
  const seconds = (run.from * per) / count + Math.max(0, passed(run.startSamples - run.earlySamples))
  return { seconds: Math.min(seconds, ((run.to - 0.01) * per) / count), speed }
}

/** What is seen of films at a moment, standing still. @param at sample of the slide */
export const frozenFilms = (films: readonly PlannedFilm[], at: number): FrozenFilm[] =>
  filmsAt(films, at).map(({ film, frame }) => ({
    proxy: film.proxy,
    rate: film.fileRate ?? film.rate,
    place: film.place,
    frame,
    ...(film.edge ? { edge: film.edge } : {}),
    ...(film.isMirrored ? { isMirrored: film.isMirrored } : {}),
  }))

/** One picture lies in the middle of the edition's, as large as it fits. */
function onEdition(place: PlannedFilm['place'], step: Pick<Step, 'width' | 'height'>): PlannedFilm['place'] {
  const aspect = step.width / step.height
  const [width, height] = aspect > ASPECT ? [1, ASPECT / aspect] : [aspect / ASPECT, 1]
  const round = (value: number) => Math.round(value * 1e6) / 1e6
  return {
    x: round((1 - width) / 2 + place.x * width),
    y: round((1 - height) / 2 + place.y * height),
    width: round(place.width * width),
    height: round(place.height * height),
  }
}

function owned(slide: Slide, filmId: string): { film: Film; shown: ShownFilm; step: Step; index: number } {
  const index = slide.steps.findIndex((step) => step.films.some((film) => film.id === filmId))
  const step = slide.steps[index]!
  const film = step.films.find(({ id }) => id === filmId)!
  return { film, shown: film.shown!, step, index }
}

/** @param stepStarts of the slide, samples */
export function plannedFilms(slide: Slide, scheduled: ScheduledSlide, stepStarts: readonly number[]): PlannedFilm[] {
  return scheduled.films.map(({ filmId, startSamples, endSamples }): PlannedFilm => {
    const { film, shown, step, index } = owned(slide, filmId)
    return {
      filmId,
      proxy: shown.proxy,
      rate: shown.rate,
      ...filmFrames(film),
      frames: shown.frames,
      place: onEdition(filmPlace(film, step), step),
      seenSamples: film.hasPoster ? startSamples : Math.min(startSamples, stepStarts[index]!),
      startSamples,
      endSamples,
      stays: film.afterwards === 'last-picture' && !film.loops,
      isMuted: film.isMuted || shown.sound === null,
    }
  })
}

/**
 * What runs on over a slide of a film of an earlier one: in its place over the pictures, from the frame on that is nearest to where it had come.
 *
 * @param owner the film's own slide
 */
export function filmRunningOn(owner: Slide, { film: scheduled, playedSamples, endSamples }: RunningOn): PlannedFilm[] {
  const { film, shown, step } = owned(owner, scheduled.filmId)
  const { from, to } = filmFrames(film)
  const frameSamples = (SAMPLE_RATE * shown.rate[1]) / shown.rate[0]
  const first = from + Math.round(playedSamples / frameSamples)
  // what is left of its last frame is not worth a picture
  if (first >= to) return []
  return [
    {
      filmId: film.id,
      proxy: shown.proxy,
      rate: shown.rate,
      from: first,
      to,
      frames: shown.frames,
      place: onEdition(filmPlace(film, step), step),
      seenSamples: 0,
      startSamples: 0,
      endSamples: Math.min(endSamples, Math.round((to - first) * frameSamples)),
      stays: false,
      isMuted: film.isMuted || shown.sound === null,
    },
  ]
}

/** The sound of one film as a bed has it. */
function placedFilm(slide: Slide, scheduled: ScheduledSlide, film: ScheduledFilm, speech: readonly SampleRange[]): PlacedBed[] {
  const { film: own, shown } = owned(slide, film.filmId)
  if (shown.sound === null || own.isMuted) return []
  const start = scheduled.startSamples + film.startSamples
  const end = isRunningOn(own) ? start + film.onceSamples : scheduled.startSamples + film.endSamples
  const [count, per] = shown.rate
  return [
    {
      bedId: film.filmId,
      sound: shown.sound,
      start,
      end,
      firstSample: Math.round((filmFrames(own).from * per * SAMPLE_RATE) / count),
      loopSamples: own.loops ? film.onceSamples : null,
      gains: filmGains({ ...own, loudnessLufs: shown.loudnessLufs }, { start, end }, speech),
      isFilm: true,
    },
  ]
}

/** The sounds of all films, each as a bed that gives way to the voice. @param speech where somebody speaks, lecture samples */
export function placedFilms(
  lecture: Pick<Lecture, 'slides'>,
  times: Schedule,
  speech: () => readonly SampleRange[],
): PlacedBed[] {
  const owners = new Map(lecture.slides.map((slide) => [slide.id, slide]))
  return times.slides.flatMap((scheduled) =>
    scheduled.films.flatMap((film) => placedFilm(owners.get(scheduled.slideId)!, scheduled, film, speech())),
  )
}
