/** When the further pictures of a slide appear: handles over its strip. */

import { type PointerEvent, useRef, useState } from 'react'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { slideSeconds, toSeconds } from '#core/timing/clocks.ts'
import type { ScheduledSlide } from '#core/timing/scheduled.ts'
import { type StepStart, stepStarts } from '#core/timing/steps.ts'
import { timeMap } from '#core/timing/time-map.ts'
import { say } from '#core/words/say.ts'
import { clock } from '#web/components/format.ts'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import type { Scale } from './scale.tsx'

const NUDGE_S = 0.1
const WORDS: Record<StepStart['by'], (said: { number: number; at: string }) => string> = {
  hand: (said) => say('Picture {number} appears at {at}', said),
  words: (said) => say('Picture {number} appears at {at}, where its words are said', said),
  spread: (said) => say('Picture {number} appears at {at}, spread evenly until a moment is set', said),
}

interface StepMarksProps {
  lecture: Lecture
  slide: Slide
  scheduled: ScheduledSlide
  scale: Scale
  mayChange: boolean
}

export function StepMarks({ lecture, slide, scheduled, scale, mayChange }: StepMarksProps) {
  const dispatch = useAppDispatch()
  const take = keptTake(slide)
  const starts = stepStarts(slide, scheduled)
  const number = lecture.slides.indexOf(slide) + 1
  if (!take?.tidyUp || starts.length < 2) return null
  const map = timeMap(take.tidyUp, toSeconds(scheduled.leadSamples))
  const from = toSeconds(scheduled.leadSamples)
  const to = from + toSeconds(scheduled.clipSamples)
  const move = (stepId: string, at: number) => {
    const moment = map.toTake(slideSeconds(Math.min(Math.max(at, from), to - 0.001)))
    if (moment === null) return
    const moments = (values: Record<string, number>) => [{ kind: 'step-moments' as const, takeId: take.id, moments: values }]
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('moment of a picture of slide {number}', { number }),
        forth: moments({ ...take.stepMoments, [stepId]: moment }),
        back: moments(take.stepMoments),
      }),
    )
  }
  return starts.slice(1).map((step, i) => (
    <StepMark
      key={step.stepId}
      number={i + 2}
      at={step.at}
      by={step.by}
      // a picture does not pass its neighbours: they are a sequence
      least={starts[i]!.at}
      most={starts[i + 2]?.at ?? to}
      scale={scale}
      onMove={mayChange ? (at) => move(step.stepId, at) : null}
    />
  ))
}

interface StepMarkProps {
  number: number
  /** Seconds of the slide. */
  at: number
  by: StepStart['by']
  least: number
  most: number
  scale: Scale
  /** Null where it stays where it is. */
  onMove: ((at: number) => void) | null
}

function StepMark({ number, at, by, least, most, scale, onMove }: StepMarkProps) {
  const grip = useRef<{ x: number; at: number } | null>(null)
  const [dragged, setDragged] = useState<number | null>(null)
  const within = (seconds: number) => Math.min(Math.max(seconds, least + NUDGE_S), most - NUDGE_S)
  const drag = (event: PointerEvent) => {
    if (grip.current) setDragged(within(grip.current.at + (event.clientX - grip.current.x) / scale.pixelsASecond))
  }
  const shown = dragged ?? at
  const words = WORDS[by]({ number, at: clock(shown) })
  return (
    <>
      <span
        aria-hidden="true"
        className={`pointer-events-none absolute top-0 h-14 border-l border-secondary ${by === 'spread' ? 'border-dashed' : ''}`}
        style={{ left: shown * scale.pixelsASecond }}
      />
      <button
        type="button"
        disabled={!onMove}
        title={onMove ? say('{words}. Drag it, or move it with the arrow keys', { words }) : words}
        aria-label={onMove ? say('{words}. Move it with the arrow keys', { words }) : words}
        className="absolute -top-1 z-10 h-6 min-w-6 -translate-x-1/2 enabled:cursor-ew-resize enabled:touch-none rounded border border-secondary bg-base-100 px-1 text-xs leading-none text-secondary"
        style={{ left: shown * scale.pixelsASecond }}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId)
          grip.current = { x: event.clientX, at }
        }}
        onPointerMove={drag}
        onPointerUp={() => {
          grip.current = null
          if (dragged !== null && dragged !== at) onMove?.(dragged)
          setDragged(null)
        }}
        onPointerCancel={() => {
          grip.current = null
          setDragged(null)
        }}
        onKeyDown={(event) => {
          const step = { ArrowLeft: -NUDGE_S, ArrowRight: NUDGE_S }[event.key]
          if (step === undefined) return
          event.preventDefault()
          onMove?.(within(at + step * (event.shiftKey ? 10 : 1)))
        }}
      >
        {number}
      </button>
    </>
  )
}
