/** Thin controls of our own over the browser's video: play, a bar divided at the slides, speed, captions, full screen. */
import { Captions, Maximize, Pause, Play } from 'lucide-react'
import { type RefObject, useEffect, useState } from 'react'
import { toSeconds } from '#core/timing/clocks.ts'
import { clock } from '#web/shared/format.ts'
import type { WatchedEdition } from './edition.ts'

const SPEEDS = [0.75, 1, 1.25, 1.5, 1.75, 2]
const SPEED_KEY = 'watch speed'
const SKIP_S = 5

interface ControlsProps {
  video: RefObject<HTMLVideoElement | null>
  frame: RefObject<HTMLDivElement | null>
  edition: WatchedEdition
  moment: number
  onSeek: (seconds: number) => void
  language: string | null
  onLanguage: (language: string | null) => void
}

/** Slide by slide, how much of it was played. */
function Segments({ edition, moment }: Pick<ControlsProps, 'edition' | 'moment'>) {
  return (
    <div className="pointer-events-none flex h-2.5 gap-[3px]" aria-hidden="true">
      {edition.chapters.map((chapter) => {
        const played = (moment - toSeconds(chapter.startSamples)) / toSeconds(chapter.lengthSamples)
        return (
          <div key={chapter.startSamples} className="bg-base-300" style={{ flexGrow: chapter.lengthSamples }}>
            <div className="h-full bg-primary" style={{ width: `${Math.min(1, Math.max(0, played)) * 100}%` }} />
          </div>
        )
      })}
    </div>
  )
}

export function Controls({ video, frame, edition, moment, onSeek, language, onLanguage }: ControlsProps) {
  const [playing, setPlaying] = useState(false)
  const [speed, setSpeed] = useState(() => Number(localStorage.getItem(SPEED_KEY)) || 1)
  const length = toSeconds(edition.lengthSamples)
  const toggle = () => {
    const element = video.current
    if (element) element.paused ? void element.play() : element.pause()
  }
  useEffect(() => {
    const element = video.current
    if (!element) return
    element.playbackRate = speed
    const told = () => setPlaying(!element.paused)
    for (const event of ['play', 'pause', 'ended']) element.addEventListener(event, told)
    return () => {
      for (const event of ['play', 'pause', 'ended']) element.removeEventListener(event, told)
    }
  }, [video, speed])
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const tag = (event.target as HTMLElement).tagName
      if (['INPUT', 'SELECT', 'TEXTAREA', 'BUTTON', 'A'].includes(tag)) return
      if (event.key === ' ') toggle()
      else if (event.key === 'ArrowRight') onSeek(Math.min(length, moment + SKIP_S))
      else if (event.key === 'ArrowLeft') onSeek(Math.max(0, moment - SKIP_S))
      else return
      event.preventDefault()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  })
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-2 py-3">
      <button type="button" onClick={toggle} aria-label={playing ? 'Pause' : 'Play'} className="btn btn-square btn-neutral">
        {playing ? <Pause size={19} fill="currentColor" aria-hidden /> : <Play size={19} fill="currentColor" aria-hidden />}
      </button>
      <span className="text-sm whitespace-nowrap">
        {clock(moment, 0)} / {clock(length, 0)}
      </span>
      <div className="relative min-w-40 grow">
        <Segments edition={edition} moment={moment} />
        <input
          type="range"
          aria-label="Where you are in the lecture"
          aria-valuetext={clock(moment, 0)}
          min={0}
          max={length}
          step={0.1}
          value={Math.min(moment, length)}
          onChange={(event) => onSeek(Number(event.target.value))}
          className="absolute -inset-y-2 w-full cursor-pointer opacity-0 focus-visible:opacity-100"
        />
      </div>
      <select
        aria-label="Speed"
        className="select select-sm w-20 border-edge"
        value={speed}
        onChange={(event) => {
          localStorage.setItem(SPEED_KEY, event.target.value)
          setSpeed(Number(event.target.value))
        }}
      >
        {SPEEDS.map((value) => (
          <option key={value} value={value}>
            {value}×
          </option>
        ))}
      </select>
      {edition.captions.length > 0 && (
        <label className="flex items-center gap-1.5 text-sm">
          <Captions size={17} aria-hidden />
          <span className="sr-only">Captions</span>
          <select
            className="select select-sm w-36 border-edge"
            value={language ?? ''}
            onChange={(event) => onLanguage(event.target.value || null)}
          >
            <option value="">Captions off</option>
            {edition.captions.map((track) => (
              <option key={track.language} value={track.language}>
                {track.label}
              </option>
            ))}
          </select>
        </label>
      )}
      <button
        type="button"
        className="btn btn-square btn-ghost btn-sm"
        aria-label="Full screen"
        onClick={() => void (document.fullscreenElement ? document.exitFullscreen() : frame.current?.requestFullscreen())}
      >
        <Maximize size={17} aria-hidden />
      </button>
    </div>
  )
}
