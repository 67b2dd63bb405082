/** The thin bar at the bottom: plays the lecture as learners will hear it. */

import { Captions, CaptionsOff, MonitorPlay, Pause, Play } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { slideAt } from '#core/edition/frame-at.ts'
import type { EditionPlan } from '#core/edition/plan.ts'
import type { CaptionTrack } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock } from '#web/components/format.ts'
import { usePageKeys } from '#web/components/keys/use-page-keys.ts'
import { RATES } from '#web/playback/lecture-player.ts'
import { player, usePlayer } from '#web/playback/player.ts'
import { usePlaybackPlan } from '#web/playback/use-playback-plan.ts'
import { usePlayhead } from '#web/playback/use-playhead.ts'
import { Stage } from './stage.tsx'

const STEP_S = 5

/** All slides side by side, as wide as they are long; what was heard is filled. */
function Line({ plan }: { plan: EditionPlan }) {
  const filled = useRef<HTMLDivElement>(null)
  const slider = useRef<HTMLDivElement>(null)
  const total = toSeconds(plan.lengthSamples)
  usePlayhead((seconds) => {
    if (filled.current) filled.current.style.width = `${(100 * seconds) / total}%`
    if (slider.current) {
      slider.current.setAttribute('aria-valuenow', seconds.toFixed(1))
      const slide = slideAt(plan, toSamples(seconds))
      slider.current.setAttribute(
        'aria-valuetext',
        say('{at}, slide {slide}: {title}', { at: clock(seconds), slide: slide + 1, title: plan.slides[slide]!.title }),
      )
    }
  })
  const at = (clientX: number) => {
    const box = slider.current!.getBoundingClientRect()
    return ((clientX - box.left) / box.width) * total
  }
  return (
    <div
      ref={slider}
      dir="ltr"
      role="slider"
      tabIndex={0}
      aria-label={say('Moment of the lecture')}
      aria-valuemin={0}
      aria-valuemax={Math.round(total)}
      aria-valuenow={0}
      className="relative h-5 min-w-0 grow cursor-pointer overflow-hidden bg-base-300/70"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        player.seek(at(event.clientX))
      }}
      onPointerMove={(event) => event.buttons === 1 && player.seek(at(event.clientX))}
      onKeyDown={(event) => {
        const slide = slideAt(plan, toSamples(player.position()))
        const start = (index: number) =>
          toSeconds(plan.slides[Math.min(plan.slides.length - 1, Math.max(0, index))]!.startSamples)
        const moves: Record<string, number> = {
          ArrowLeft: player.position() - STEP_S,
          ArrowRight: player.position() + STEP_S,
          PageUp: start(slide - 1),
          PageDown: start(slide + 1),
          Home: 0,
          End: total,
        }
        const to = moves[event.key]
        if (to === undefined) return
        event.preventDefault()
        player.seek(to)
      }}
    >
      <div ref={filled} className="absolute inset-y-0 start-0 drawn bg-primary/45" />
      {plan.slides.slice(1).map((slide) => (
        <span
          key={slide.slideId}
          className="absolute inset-y-0 w-0.5 bg-base-200"
          style={{ left: `${(100 * slide.startSamples) / plan.lengthSamples}%` }}
        />
      ))}
    </div>
  )
}

function Now({ total }: { total: number }) {
  const text = useRef<HTMLElement>(null)
  usePlayhead((seconds) => {
    const now = clock(seconds)
    if (text.current && text.current.textContent !== now) text.current.textContent = now
  })
  return (
    <span dir="ltr" className="whitespace-nowrap">
      <strong ref={text}>0:00.0</strong> <span className="text-base-content/75">/ {clock(total)}</span>
    </span>
  )
}

export function Transport({ lecture, captionsOf }: { lecture: Lecture; captionsOf?: CaptionTrack }) {
  const { plan, cues } = usePlaybackPlan(lecture, captionsOf)
  const { playing, rate, onlyThisSlide } = usePlayer()
  const [picture, setPicture] = useState(false)
  const [captions, setCaptions] = useState(true)
  const [everPlayed, setEverPlayed] = useState(false)
  usePageKeys({ space: () => document.getElementById('play-lecture')?.click() })
  useEffect(() => {
    // the picture comes with the first sound, once; from then on it is as it was left
    if (!playing || everPlayed) return
    setEverPlayed(true)
    setPicture(true)
  }, [playing, everPlayed])
  if (!plan) return null
  return (
    <>
      {picture && (
        <aside
          aria-label={say('What learners see')}
          className="fixed end-4 bottom-16 z-30 w-[26rem] max-w-[60vw] max-sm:bottom-24 overflow-hidden rounded-md border border-edge shadow-lg"
        >
          <Stage plan={plan} cues={cues} captions={captions} />
        </aside>
      )}
      <section
        aria-label={say('Play the lecture')}
        className="sticky bottom-0 z-30 flex min-h-12 shrink-0 items-center gap-4 border-t max-sm:flex-wrap max-sm:gap-x-2 max-sm:gap-y-1 max-sm:py-1.5 border-base-300 bg-base-200 px-4 text-sm"
      >
        <Button
          id="play-lecture"
          kind="neutral"
          square
          aria-label={playing ? say('Pause the lecture') : say('Play the lecture')}
          onClick={() => (playing ? player.pause() : player.play())}
        >
          {playing ? <Pause size={16} fill="currentColor" aria-hidden /> : <Play size={16} fill="currentColor" aria-hidden />}
        </Button>
        <Now total={toSeconds(plan.lengthSamples)} />
        <Line plan={plan} />
        <label className="flex items-center gap-1.5 whitespace-nowrap max-md:hidden">
          <input
            type="checkbox"
            className="checkbox checkbox-xs border-edge"
            checked={onlyThisSlide}
            onChange={(event) => player.play(player.position(), { onlyThisSlide: event.target.checked })}
          />
          {say('this slide only')}
        </label>
        <select
          aria-label={say('Speed')}
          className="select select-xs w-20 border-edge bg-base-100"
          value={rate}
          onChange={(event) => player.setRate(Number(event.target.value))}
        >
          {RATES.map((value) => (
            <option key={value} value={value}>
              {value} ×
            </option>
          ))}
        </select>
        <Button kind="ghost" size="xs" aria-pressed={captions} onClick={() => setCaptions(!captions)}>
          {captions ? <Captions size={17} aria-hidden /> : <CaptionsOff size={17} aria-hidden />}{' '}
          {captions ? say('Captions on') : say('Captions off')}
        </Button>
        <Button kind="ghost" size="xs" aria-pressed={picture} onClick={() => setPicture(!picture)}>
          <MonitorPlay size={17} aria-hidden /> {say('Picture')}
        </Button>
      </section>
    </>
  )
}
