/** Films of a slide as strips of pictures on the time scale. */
import { Clapperboard } from 'lucide-react'
import { filmsAt, type PlannedFilm } from '#core/edition/films.ts'
import { keptTake } from '#core/model/kept-take.ts'
import { type Film, filmFrames, filmSeconds, type ShownFilm } from '#core/model/moving/film.ts'
import type { Slide } from '#core/model/slide.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import type { ScheduledFilm, ScheduledSlide } from '#core/timing/scheduled.ts'
import { say } from '#core/words/say.ts'
import { clock } from '#web/components/format.ts'
import { thumbnailUrl } from '#web/data/api.ts'
import type { Scale } from './scale.tsx'

const HEIGHT = 26

interface StripProps {
  /** What it is, in words. */
  label: string
  shown: ShownFilm
  /** Of the slide: where it begins and ends. */
  startSamples: number
  endSamples: number
  scale: Scale
  /** Which frame the picture with this number shows, of so many. */
  frameAt: (picture: number, count: number) => number
}

/** Pictures side by side, each of the moment at which it stands. */
function Strip({ label, shown, startSamples, endSamples, scale, frameAt }: StripProps) {
  const width = Math.min(scale.width, Math.max(4, toSeconds(endSamples - startSamples) * scale.pixelsASecond))
  const tile = Math.max(8, Math.round((HEIGHT * shown.width) / shown.height))
  const count = Math.max(1, Math.ceil(width / tile))
  const last = Math.max(1, shown.stripPictures - 1)
  return (
    <span
      role="img"
      aria-label={label}
      title={label}
      className="absolute inset-y-0 overflow-hidden rounded-sm border border-base-content/60 bg-neutral"
      style={{ left: toSeconds(startSamples) * scale.pixelsASecond, width }}
    >
      {Array.from({ length: count }, (_, i) => {
        const picture = Math.min(last, Math.floor((frameAt(i, count) / shown.frames) * shown.stripPictures))
        return (
          <span
            key={i}
            className="absolute inset-y-0 bg-no-repeat"
            style={{
              left: i * tile,
              width: tile,
              backgroundImage: `url(${thumbnailUrl(shown.strip)})`,
              backgroundSize: `${shown.stripPictures * 100}% 100%`,
              backgroundPosition: `${(picture / last) * 100}% 0`,
            }}
          />
        )
      })}
    </span>
  )
}

function Band({ film, scheduled, scale }: { film: Film; scheduled: ScheduledFilm; scale: Scale }) {
  const shown = film.shown!
  const { from, to } = filmFrames(film)
  const { name } = film
  const seconds = toSeconds(scheduled.endSamples - scheduled.startSamples)
  const label = film.loops
    ? say('Film “{name}”, {length}, again and again', { name, length: clock(filmSeconds(shown)) })
    : say('Film “{name}”, {length}', { name, length: clock(seconds) })
  return (
    <Strip
      {...scheduled}
      label={label}
      shown={shown}
      scale={scale}
      // one that begins anew is seen in quarters of it
      frameAt={(i, count) => from + (film.loops ? ((i * (to - from)) / 4) % (to - from) : (i * (to - from)) / count)}
    />
  )
}

/** What a shared screen shows, where it is seen. */
function FilmedBand({ filmed, slide, scale }: { filmed: PlannedFilm; slide: Slide; scale: Scale }) {
  const cut = keptTake(slide)!.footage.find(({ footage }) => footage.shown?.proxy === filmed.proxy)
  if (!cut) return null
  const length = filmed.endSamples - filmed.startSamples
  const frameAt = (i: number, count: number) => filmsAt([filmed], filmed.startSamples + (i * length) / count)[0]?.frame ?? 0
  const label = say('Demonstration, {length}', { length: clock(toSeconds(length)) })
  return <Strip {...filmed} label={label} shown={cut.footage.shown!} scale={scale} frameAt={frameAt} />
}

/** Nothing where nothing was filmed with the take that is kept. */
export function FootageBand({ slide, filmed, scale }: { slide: Slide; filmed: readonly PlannedFilm[]; scale: Scale }) {
  const waiting = keptTake(slide)?.footage.some(({ footage }) => footage.shown === null && footage.problem === null)
  return (
    <>
      {filmed.length > 0 && (
        <div className="relative mt-1" style={{ height: HEIGHT }}>
          {filmed.map((one) => (
            <FilmedBand key={one.filmId} filmed={one} slide={slide} scale={scale} />
          ))}
        </div>
      )}
      {waiting && (
        <p dir="auto" className="mt-1 flex items-center gap-1 text-sm text-base-content/75">
          <Clapperboard size={14} aria-hidden className="shrink-0" />
          {say('What was filmed is being made ready')}
        </p>
      )}
    </>
  )
}

/** What of a film of an earlier slide is seen on over this one. */
export interface FilmRunningOn {
  film: Film
  /** Of the slide that it began on, from 1. */
  from: number
  planned: PlannedFilm
}

function RunningOnBand({ running: { film, from, planned }, scale }: { running: FilmRunningOn; scale: Scale }) {
  const { name } = film
  const frameAt = (i: number, count: number) => planned.from + (i * (planned.to - planned.from)) / count
  const label = say('Film “{name}” runs on from slide {slide}', { name, slide: from })
  return <Strip {...planned} label={label} shown={film.shown!} scale={scale} frameAt={frameAt} />
}

/** Nothing where the slide has no film, and none runs on over it. */
export function FilmBand({
  slide,
  scheduled,
  runningOn,
  scale,
}: {
  slide: Slide
  scheduled: ScheduledSlide | null
  runningOn: readonly FilmRunningOn[]
  scale: Scale
}) {
  const films = slide.steps.flatMap((step) => step.films)
  if (films.length === 0 && runningOn.length === 0) return null
  const waiting = films.filter((film) => film.shown === null)
  return (
    <>
      {runningOn.map((one) => (
        <div key={one.film.id} className="relative mt-1" style={{ height: HEIGHT }}>
          <RunningOnBand running={one} scale={scale} />
        </div>
      ))}
      {scheduled && scheduled.films.length > 0 && (
        <div className="relative mt-1" style={{ height: HEIGHT }}>
          {scheduled.films.map((one) => (
            <Band key={one.filmId} film={films.find((film) => film.id === one.filmId)!} scheduled={one} scale={scale} />
          ))}
        </div>
      )}
      {waiting.map((film) => (
        <p key={film.id} dir="auto" className="mt-1 flex items-center gap-1 text-sm text-base-content/75">
          <Clapperboard size={14} aria-hidden className="shrink-0" />
          {film.problem
            ? say('The film “{name}” is not shown', { name: film.name })
            : say('The film “{name}” is being made ready', { name: film.name })}
        </p>
      ))}
    </>
  )
}
