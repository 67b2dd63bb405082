/** Films of the slide that is spoken to: they move while it is recorded, so that what is said fits them, and without their sound, which would be recorded. */
import { useEffect, useRef, useState } from 'react'
import { type Film, filmPlace, filmSeconds } from '#core/model/moving/film.ts'
import type { Slide, Step } from '#core/model/slide.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { filmUrl } from '#web/data/api.ts'
import type { SessionView } from '../session/use-recording-session.ts'

/** How it goes together with what is said now. */
const WHEN: Record<Film['voice'], Message> = {
  over: message('Its sound is not heard here'),
  before: message('It is shown when you have spoken'),
  after: message('Speak when it has ended; its sound is not heard here'),
}

interface BoothFilmProps {
  film: Film
  step: Step
  /** Of the recording that goes on: it begins with each anew. */
  takeId: string | null
  state: SessionView['state']
}

function BoothFilm({ film, step, takeId, state }: BoothFilmProps) {
  const video = useRef<HTMLVideoElement>(null)
  const [ended, setEnded] = useState(false)
  const { fromSeconds, loops, voice } = film
  const toSeconds = film.toSeconds ?? filmSeconds(film.shown!)
  const begin = () => {
    setEnded(false)
    if (video.current) video.current.currentTime = fromSeconds
  }
  // biome-ignore lint/correctness/useExhaustiveDependencies: each recording begins it anew
  useEffect(begin, [takeId, fromSeconds])
  const moves = state === 'recording' && voice !== 'before' && !ended
  useEffect(() => {
    if (moves) void video.current?.play().catch(() => {})
    else video.current?.pause()
  }, [moves])
  const { x, y, width, height } = filmPlace(film, step)
  const share = (value: number) => `${value * 100}%`
  return (
    <>
      <video
        ref={video}
        src={filmUrl(film.shown!.proxy)}
        muted
        playsInline
        preload="auto"
        aria-label={say('Film “{name}”', { name: film.name })}
        className="absolute object-fill"
        style={{ left: share(x), top: share(y), width: share(width), height: share(height) }}
        hidden={ended && film.afterwards === 'slide'}
        onTimeUpdate={({ currentTarget }) => {
          if (currentTarget.currentTime < toSeconds) return
          if (loops) currentTarget.currentTime = fromSeconds
          else setEnded(true)
        }}
        onEnded={({ currentTarget }) => {
          if (!loops) return setEnded(true)
          begin()
          void currentTarget.play().catch(() => {})
        }}
      />
      {!ended && (
        <p
          className="absolute rounded-ee bg-base-100/85 px-2 py-0.5 text-sm"
          style={{ left: share(Math.max(0, x)), top: share(Math.max(0, y)) }}
        >
          {say(WHEN[voice])}
        </p>
      )}
    </>
  )
}

/** @param step how many of its pictures have come */
export function BoothFilms({ slide, step, session }: { slide: Slide; step: number; session: SessionView }) {
  return slide.steps
    .slice(0, step + 1)
    .flatMap((own) =>
      own.films
        .filter((film) => film.shown !== null)
        .map((film) => <BoothFilm key={film.id} film={film} step={own} takeId={session.takeId} state={session.state} />),
    )
}
