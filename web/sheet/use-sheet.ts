/** Everything the rows of the sheet show, worked out once for all of them. */
import { useMemo } from 'react'
import { filmCuesOnLecture } from '#core/captions/tracks/film-cues.ts'
import { cuesOnLecture, type LectureCue } from '#core/captions/tracks/place-cues.ts'
import { publishedTracks } from '#core/captions/tracks/published-tracks.ts'
import type { Check } from '#core/edition/checks/check.ts'
import { checks } from '#core/edition/checks/checks.ts'
import { filmRunningOn, type PlannedFilm } from '#core/edition/films.ts'
import { footageOfSlides } from '#core/edition/footage.ts'
import { bedRun, plan, slideCaptions, slideFingerprint } from '#core/edition/plan.ts'
import type { Bed } from '#core/model/bed.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { filmsRunningOn } from '#core/timing/films.ts'
import { type Schedule, schedule } from '#core/timing/schedule.ts'
import type { ScheduledSlide } from '#core/timing/scheduled.ts'
import type { Edition } from '#web/data/api.ts'
import type { FilmRunningOn } from './film-band.tsx'

export const FILTERS = ['all', 'to-do', 'no-sound', 'from-deck', 'changed'] as const
export type Filter = (typeof FILTERS)[number]

export interface RowData {
  slide: Slide
  /** Place in the lecture, from 0. */
  index: number
  scheduled: ScheduledSlide | null
  cues: LectureCue[]
  /** What is said in films, when it is heard. */
  filmCues: LectureCue[]
  checks: Check[]
  /** What a shared screen shows on it. */
  demonstrations: PlannedFilm[]
  /** Films of earlier slides that are seen on over it. */
  runningOn: FilmRunningOn[]
  beds: { bed: Bed; first: boolean; last: boolean }[]
  /** Comments on it that are not settled. */
  comments: number
}

export interface SheetData {
  times: Schedule
  found: Check[]
  rows: RowData[]
  counts: Record<Filter, number>
  /** Findings to look at, and comments to settle. */
  toDo: number
}

const NONE: never[] = []

function grouped<T>(items: readonly T[], key: (item: T) => string | null): Map<string, T[]> {
  const groups = new Map<string, T[]>()
  for (const item of items) {
    const name = key(item)
    if (name === null) continue
    const known = groups.get(name)
    if (known) known.push(item)
    else groups.set(name, [item])
  }
  return groups
}

const isToDo = (row: RowData) => row.comments > 0 || row.checks.some((check) => check.level !== 'note')
const matches: Record<Filter, (row: RowData) => boolean> = {
  all: () => true,
  'to-do': isToDo,
  'no-sound': (row) => row.checks.some((check) => check.kind === 'no-sound'),
  // something of its deck could not be drawn
  'from-deck': (row) => row.checks.some((check) => check.kind === 'from-deck'),
  changed: (row) => row.checks.some((check) => check.kind === 'changed'),
}

/** What runs on over each slide, by its id. */
function filmsOver({ slides }: Lecture, times: Schedule): ReadonlyMap<string, FilmRunningOn[]> {
  const places = new Map(slides.map((slide, i) => [slide.id, i]))
  const own = times.slides.map(({ slideId }) => slides[places.get(slideId)!]!)
  const over = filmsRunningOn(own, times.slides)
  return new Map(
    own.map((slide, i) => [
      slide.id,
      over[i]!.flatMap((one) => {
        const owner = own[one.ownSlide]!
        const film = owner.steps.flatMap((step) => step.films).find(({ id }) => id === one.film.filmId)!
        return filmRunningOn(owner, one).map((planned) => ({ film, from: places.get(owner.id)! + 1, planned }))
      }),
    ]),
  )
}

/** @param comments that are open, by slide */
export function useSheet(lecture: Lecture, newest: Edition | undefined, comments: ReadonlyMap<string, number>): SheetData {
  return useMemo(() => {
    const times = schedule(lecture)
    const shown = lecture.slides.some((slide) => !slide.hidden)
    const published =
      newest && newest.slides.length > 0 && shown
        ? {
            number: newest.number,
            fingerprints: new Map(newest.slides.map((s) => [s.slideId, s.fingerprint])),
            now: new Map(plan(lecture).slides.map((s) => [s.slideId, slideFingerprint(s, slideCaptions(lecture, s.slideId))])),
          }
        : undefined
    const footage = footageOfSlides(lecture, times)
    const demonstrations = grouped(
      times.slides.flatMap((s, i) => footage[i]!.filter((film) => !film.edge).map((film) => ({ slideId: s.slideId, film }))),
      (one) => one.slideId,
    )
    const runningOn = filmsOver(lecture, times)
    const found = checks(lecture, times, published)
    const track = publishedTracks(lecture)[0]
    const cues = grouped(track ? cuesOnLecture(lecture, track.cues) : [], (cue) => cue.slideId)
    const filmCues = grouped(track ? filmCuesOnLecture(lecture, track.language) : [], (cue) => cue.slideId)
    // after a deck was brought in every description is a draft: told when it is published, and where it is written
    const own = grouped(
      found.filter((check) => check.kind !== 'draft-alt-text'),
      (check) => check.slideId,
    )
    const scheduled = new Map(times.slides.map((s) => [s.slideId, s]))
    const beds = new Map<string, RowData['beds']>()
    for (const bed of lecture.beds) {
      const run = bedRun(lecture, bed, times)
      for (let i = run?.first ?? 0; run && i <= run.last; i++) {
        const { slideId } = times.slides[i]!
        beds.set(slideId, [...(beds.get(slideId) ?? []), { bed, first: i === run.first, last: i === run.last }])
      }
    }
    const rows = lecture.slides.map((slide, index) => ({
      slide,
      index,
      scheduled: scheduled.get(slide.id) ?? null,
      cues: cues.get(slide.id) ?? NONE,
      filmCues: filmCues.get(slide.id) ?? NONE,
      checks: own.get(slide.id) ?? NONE,
      demonstrations: demonstrations.get(slide.id)?.map(({ film }) => film) ?? NONE,
      beds: beds.get(slide.id) ?? NONE,
      runningOn: runningOn.get(slide.id) ?? NONE,
      comments: comments.get(slide.id) ?? 0,
    }))
    const counts = Object.fromEntries(
      FILTERS.map((filter) => [filter, rows.filter(matches[filter]).length]),
    ) as SheetData['counts']
    const toDo = found.filter((check) => check.level !== 'note').length + rows.reduce((sum, row) => sum + row.comments, 0)
    return { times, found, rows, counts, toDo }
  }, [lecture, newest, comments])
}

/** @returns rows that a filter and a searched text leave, in order */
export function chosenRows(rows: readonly RowData[], filter: Filter, search: string): RowData[] {
  const wanted = search.trim().toLocaleLowerCase()
  const holds = ({ slide, index }: RowData) =>
    wanted === '' || `${slide.title}\n${slide.script}`.toLocaleLowerCase().includes(wanted) || String(index + 1) === wanted
  return rows.filter((row) => matches[filter](row) && holds(row))
}
