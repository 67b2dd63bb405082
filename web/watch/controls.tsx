/** Thin controls of our own over the browser's video: play, a bar divided at the slides, speed, sound, captions, full screen. */

import { ArrowLeft, ArrowRight, Captions, Maximize, Minimize, Pause, Play, RotateCcw, Volume2, VolumeX } from 'lucide-react'
import { type RefObject, useEffect, useState } from 'react'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock, megabytes } from '#web/components/format.ts'
import { type CaptionLook, CaptionLookChoice, type useCaptionLook } from '#web/watch/caption-look.tsx'
import { chapterAt, chapterTitle, type WatchedEdition } from '#web/watch/edition/edition.ts'
import { recall, remember } from '#web/watch/edition/remember.ts'
import type { FullScreen } from '#web/watch/playback/use-full-screen.ts'
import type { Pace } from '#web/watch/playback/use-pace.ts'
import type { Playback } from '#web/watch/playback/use-playback.ts'
import type { VideoChoice, VideoSize } from '#web/watch/playback/use-video-choice.ts'

const SPEEDS = [0.5, 0.75, 1, 1.25, 1.5, 1.75, 2]

interface ControlsProps {
  video: RefObject<HTMLVideoElement | null>
  edition: WatchedEdition
  playback: Playback
  /** null while it is viewed as a video. */
  pace: Pace | null
  full: FullScreen
  /** In full screen, while nobody moves: they come back with the first movement, and with focus. */
  isHidden: boolean
  language: string | null
  onLanguage: (language: string | null) => void
  look: CaptionLook
  onLook: ReturnType<typeof useCaptionLook>[1]
  choice: VideoChoice
  /** Another page shows this one within itself: the list of slides is out of sight. */
  isFramed: boolean
}

/** Slide by slide, how much of it was played. */
function Segments({ edition, moment }: { edition: WatchedEdition; moment: number }) {
  return (
    <div className="pointer-events-none flex h-2.5 gap-px" aria-hidden="true">
      {edition.chapters.map((chapter) => {
        const played = (moment - toSeconds(chapter.startSamples)) / toSeconds(chapter.lengthSamples)
        return (
          <div key={chapter.startSamples} className="bg-base-300" style={{ flexGrow: chapter.lengthSamples }}>
            <div className="drawn h-full bg-primary" style={{ width: `${Math.min(1, Math.max(0, played)) * 100}%` }} />
          </div>
        )
      })}
    </div>
  )
}

/** Where one is; slide by slide it is the place within the slide. */
function Place({ edition, pace, playback: { moment, seek } }: Pick<ControlsProps, 'edition' | 'pace' | 'playback'>) {
  const length = toSeconds(edition.lengthSamples)
  const [from, to] = pace ? [pace.start, pace.stop] : [0, length]
  const at = Math.min(to, Math.max(from, moment))
  return (
    <div dir="ltr" className="flex basis-full items-center gap-3">
      <div className="relative grow">
        {pace ? (
          <div className="h-2.5 bg-base-300" aria-hidden="true">
            <div className="drawn h-full bg-primary" style={{ width: `${((at - from) / (to - from)) * 100}%` }} />
          </div>
        ) : (
          <Segments edition={edition} moment={moment} />
        )}
        <input
          type="range"
          aria-label={pace ? say('Where you are in this slide') : say('Where you are in the lecture')}
          aria-valuetext={clock(at - from, 0)}
          min={from}
          max={to}
          step={0.1}
          value={at}
          onChange={(event) => seek(Number(event.target.value))}
          className="absolute -inset-y-2 w-full cursor-pointer opacity-0 focus-visible:opacity-100"
        />
      </div>
      <span className="text-sm whitespace-nowrap">
        {clock(at - from, 0)} / {clock(to - from, 0)}
      </span>
    </div>
  )
}

/** Back, again, on: nothing moves before the learner does. */
function Steps({ edition, pace }: { edition: WatchedEdition; pace: Pace }) {
  const { slide, waits, goTo } = pace
  const last = edition.chapters.length - 1
  return (
    <div className="flex grow flex-wrap items-center gap-2">
      <Button disabled={slide === 0} onClick={() => goTo(slide - 1)}>
        <ArrowLeft size={16} aria-hidden className="rtl:-scale-x-100" /> {say('Back')}
      </Button>
      <Button onClick={() => goTo(slide)}>
        <RotateCcw size={15} aria-hidden /> {say('Again')}
      </Button>
      <button
        type="button"
        className={`btn btn-sm ${waits ? 'btn-primary' : 'border-edge'}`}
        disabled={slide === last}
        onClick={() => goTo(slide + 1)}
      >
        {say('Next')} <ArrowRight size={16} aria-hidden className="rtl:-scale-x-100" />
      </button>
      <span className="text-sm" role="status">
        {say('Slide {slide} of {slides}: {title}', {
          slide: slide + 1,
          slides: last + 1,
          title: chapterTitle(edition.chapters[slide]!, slide),
        })}
        {waits && '. '}
        {waits && (slide === last ? say('This was the last one: you have come to the end.') : say('Go on when you are ready.'))}
      </span>
      {waits && slide === last && <Button onClick={() => goTo(0)}>{say('From the beginning')}</Button>}
    </div>
  )
}

function Sound({ video }: Pick<ControlsProps, 'video'>) {
  const [volume, setVolume] = useState(1)
  const [muted, setMuted] = useState(false)
  useEffect(() => {
    const element = video.current
    if (!element) return
    const told = () => {
      setVolume(element.volume)
      setMuted(element.muted || element.volume === 0)
    }
    element.addEventListener('volumechange', told)
    return () => element.removeEventListener('volumechange', told)
  }, [video])
  return (
    <span className="flex items-center gap-1">
      <Button
        kind="ghost"
        square
        aria-label={muted ? say('Sound on') : say('Sound off')}
        onClick={() => {
          if (video.current) video.current.muted = !video.current.muted
        }}
      >
        {muted ? <VolumeX size={17} aria-hidden /> : <Volume2 size={17} aria-hidden />}
      </Button>
      <input
        type="range"
        aria-label={say('Volume')}
        className="range range-xs w-16 max-sm:hidden"
        min={0}
        max={1}
        step={0.05}
        value={muted ? 0 : volume}
        onChange={(event) => {
          if (!video.current) return
          video.current.volume = Number(event.target.value)
          video.current.muted = false
        }}
      />
    </span>
  )
}

function Speed({ video }: Pick<ControlsProps, 'video'>) {
  const [speed, setSpeed] = useState(() => Number(recall('speed')) || 1)
  useEffect(() => {
    const element = video.current
    if (!element) return
    // a source that is loaded anew falls back to the usual speed
    const set = () => {
      element.defaultPlaybackRate = speed
      element.playbackRate = speed
    }
    set()
    element.addEventListener('loadedmetadata', set)
    return () => element.removeEventListener('loadedmetadata', set)
  }, [video, speed])
  return (
    <select
      aria-label={say('Speed')}
      className="select select-sm w-20 border-edge"
      value={speed}
      onChange={(event) => {
        remember('speed', event.target.value)
        setSpeed(Number(event.target.value))
      }}
    >
      {SPEEDS.map((value) => (
        <option key={value} value={value}>
          {value}×
        </option>
      ))}
    </select>
  )
}

function CaptionChoice({
  edition,
  language,
  onLanguage,
  look,
  onLook,
}: Pick<ControlsProps, 'edition' | 'language' | 'onLanguage' | 'look' | 'onLook'>) {
  return (
    <span className="flex items-center gap-1.5 text-sm">
      <Captions size={17} aria-hidden />
      <select
        aria-label={say('Captions')}
        className="select select-sm w-48 border-edge"
        value={language ?? ''}
        onChange={(event) => onLanguage(event.target.value || null)}
      >
        <option value="">{say('Captions off')}</option>
        {edition.captions.map((track) => (
          <option key={track.language} value={track.language}>
            {track.label}
          </option>
        ))}
      </select>
      {language !== null && <CaptionLookChoice look={look} onLook={onLook} />}
    </span>
  )
}

/** In full screen the list of slides is out of sight: this goes to them. */
function SlideChoice({ edition, playback, pace }: Pick<ControlsProps, 'edition' | 'playback' | 'pace'>) {
  const current = pace?.slide ?? chapterAt(edition.chapters, playback.moment)
  const goTo = (slide: number) => (pace ? pace.goTo(slide) : playback.seek(toSeconds(edition.chapters[slide]!.startSamples)))
  return (
    <select
      aria-label={say('Slide')}
      className="select select-sm w-48 border-edge"
      value={current}
      onChange={(event) => goTo(Number(event.target.value))}
    >
      {edition.chapters.map((chapter, i) => (
        <option key={chapter.startSamples} value={i}>
          {i + 1}. {chapterTitle(chapter, i)}
        </option>
      ))}
    </select>
  )
}

/** How fine the picture is, and what it weighs, where there is a choice. */
function PictureChoice({ choice }: Pick<ControlsProps, 'choice'>) {
  if (choice.offered.length < 2) return null
  return (
    <select
      aria-label={say('Picture')}
      className="select select-sm w-40 border-edge"
      value={choice.size}
      onChange={(event) => choice.choose(event.target.value as VideoSize)}
    >
      {choice.offered.map(({ size, video }) => (
        <option key={size} value={size}>
          {say('{height} lines, {weight}', { height: video.height, weight: megabytes(video.bytes) })}
        </option>
      ))}
    </select>
  )
}

const OVER_PICTURE = 'absolute inset-x-0 bottom-0 bg-base-100 px-4 transition-opacity focus-within:opacity-100'

export function Controls(props: ControlsProps) {
  const { video, edition, playback, pace, full, isHidden, isFramed } = props
  const { playing, toggle } = playback
  return (
    <section
      aria-label={say('Controls')}
      className={`flex flex-wrap items-center gap-x-4 gap-y-2 py-3 ${full.isFull ? OVER_PICTURE : isFramed ? 'bg-base-100 px-3' : ''} ${isHidden ? 'opacity-0' : ''}`}
    >
      <Place edition={edition} pace={pace} playback={playback} />
      <Button onClick={toggle} aria-label={playing ? say('Pause') : say('Play')} kind="neutral" size="md" square>
        {playing ? <Pause size={19} fill="currentColor" aria-hidden /> : <Play size={19} fill="currentColor" aria-hidden />}
      </Button>
      {pace && <Steps edition={edition} pace={pace} />}
      {(full.isFull || isFramed) && <SlideChoice edition={edition} playback={playback} pace={pace} />}
      <Speed video={video} />
      <Sound video={video} />
      {edition.captions.length > 0 && <CaptionChoice {...props} />}
      <PictureChoice choice={props.choice} />
      <Button
        kind="ghost"
        square
        className="ms-auto"
        aria-label={full.isFull ? say('Leave full screen') : say('Full screen')}
        onClick={full.toggle}
      >
        {full.isFull ? <Minimize size={17} aria-hidden /> : <Maximize size={17} aria-hidden />}
      </Button>
    </section>
  )
}
