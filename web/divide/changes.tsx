/** The recording in lines of a minute or so, with a handle at each change of slide. */

import { Play } from 'lucide-react'
import { memo, type PointerEvent, useDeferredValue, useEffect, useRef } from 'react'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { Slide } from '#core/model/slide.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import type { Boundary } from '#core/timing/division/split.ts'
import { say } from '#core/words/say.ts'
import { drawSoon } from '#web/components/draw-queue.ts'
import { clock } from '#web/components/format.ts'
import { useWidth } from '#web/components/use-width.ts'
import { peaksUrl, type Recording, soundUrl, thumbnailUrl } from '#web/data/api.ts'
import { derivedFile } from '#web/data/derived-file.ts'
import { drawPeaks, fitCanvas } from '#web/lecture-ui/peaks.ts'
import { togglePlay } from '#web/playback/sound.ts'

const LINE_HEIGHT = 64
/** Of sound in one line: short enough to see pauses, long enough to see the lecture. */
const LINE_S = 60
/** A short recording is drawn larger, down to this. */
const SHORTEST_LINE_S = 20
/** Lines that a screen shows at first; the others are drawn when those are there. */
const FIRST_LINES = 8
/** Heard before a change, so that one can tell whether it is right. */
const BEFORE_S = 2
/** The widest tag of a change. */
const TAG_WIDTH = 300
const NUDGE = toSamples(0.05)

/** How the sound from one sample to another looks; the voice solid, pauses pale. */
const Wave = memo(function Wave({ recording, start, end, width }: { recording: Recording; width: number } & SampleRange) {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    let current = true
    void derivedFile(peaksUrl(recording.peaks)).then((bytes) => {
      // an hour has sixty lines: one a frame
      drawSoon(() => {
        if (!current || !canvas.current) return
        fitCanvas(canvas.current, width, LINE_HEIGHT)
        const near = recording.speech.filter((s) => s.end > start && s.start < end)
        drawPeaks(canvas.current, new Int16Array(bytes), [{ start, end }], near)
      })
    })
    return () => {
      current = false
    }
  }, [recording, start, end, width])
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={say('Sound from {start} on', { start: clock(toSeconds(start), 0) })}
      className="block text-primary"
      style={{ width, height: LINE_HEIGHT }}
    />
  )
})

interface ChangesProps {
  recording: Recording
  slides: Slide[]
  /** Of each slide in the lecture, from 1. */
  numbers: number[]
  boundaries: Boundary[]
  /** @param snap whether a near pause pulls it in */
  onMove: (index: number, at: number, snap: boolean) => void
}

export function Changes(props: ChangesProps) {
  const [measure, width] = useWidth()
  return (
    <fieldset ref={measure} dir="ltr" className="grid gap-5" aria-label={say('Changes of slide over the recording')}>
      {width > 0 && <Lines {...props} width={width} />}
    </fieldset>
  )
}

function Lines({ recording, slides, numbers, boundaries, onMove, width }: ChangesProps & { width: number }) {
  const line = toSamples(Math.min(LINE_S, Math.max(SHORTEST_LINE_S, Math.ceil(toSeconds(recording.samples)))))
  const lines = useDeferredValue(Math.ceil(recording.samples / line), FIRST_LINES)
  const pixels = width / line
  return Array.from({ length: lines }, (_, n) => {
    const stretch = { start: n * line, end: Math.min(recording.samples, (n + 1) * line) }
    if (stretch.end <= stretch.start) return null
    return (
      <div
        key={stretch.start}
        className="relative pt-8 [content-visibility:auto]"
        // lines out of sight are laid out when they come into it
        style={{ height: LINE_HEIGHT + 32 }}
      >
        <span className="absolute top-0 left-0 text-xs text-base-content/75">{clock(toSeconds(stretch.start), 0)}</span>
        <div
          className="relative border-y border-base-300 bg-base-200/50"
          style={{ width: (stretch.end - stretch.start) * pixels }}
        >
          <Wave recording={recording} {...stretch} width={(stretch.end - stretch.start) * pixels} />
        </div>
        {[{ at: 0, pause: null }, ...boundaries].map((boundary, i) => {
          if (boundary.at < stretch.start || boundary.at >= stretch.end) return null
          return (
            <Handle
              key={`${i} ${slides[i]?.id}`}
              recording={recording}
              slide={slides[i]!}
              number={numbers[i]!}
              boundary={boundary}
              left={(boundary.at - stretch.start) * pixels}
              opensBack={(boundary.at - stretch.start) * pixels > width - TAG_WIDTH}
              samplesAPixel={1 / pixels}
              onMove={i === 0 ? null : (at, snap) => onMove(i - 1, at, snap)}
            />
          )
        })}
      </div>
    )
  })
}

interface HandleProps {
  recording: Recording
  slide: Slide
  number: number
  boundary: Boundary
  left: number
  /** Near the right edge: what is written of it stands before its line. */
  opensBack: boolean
  samplesAPixel: number
  /** Null for the first slide, which begins where the recording does. */
  onMove: ((at: number, snap: boolean) => void) | null
}

function Handle({ recording, slide, number, boundary, left, opensBack, samplesAPixel, onMove }: HandleProps) {
  const from = useRef<{ x: number; at: number } | null>(null)
  const drag = (event: PointerEvent) => {
    if (!from.current || !onMove) return
    onMove(from.current.at + (event.clientX - from.current.x) * samplesAPixel, !event.altKey)
  }
  const words = say(
    onMove && !boundary.pause ? 'Slide {number} begins at {at}, not in a pause' : 'Slide {number} begins at {at}',
    {
      number,
      at: clock(toSeconds(boundary.at)),
    },
  )
  return (
    <div className="absolute inset-y-0" style={{ left }}>
      <div className={`drawn absolute top-6 bottom-0 w-0.5 ${boundary.pause || !onMove ? 'bg-base-content' : 'bg-error'}`} />
      <div
        className={`absolute top-0 flex items-center gap-1 rounded border border-edge bg-base-100 pr-1 text-xs whitespace-nowrap ${opensBack ? 'right-0' : ''}`}
      >
        {onMove ? (
          <button
            type="button"
            aria-label={say('{words}. Move it with the arrow keys; a pause nearby pulls it in', { words })}
            className="flex cursor-ew-resize touch-none items-center gap-1 rounded-l bg-base-200 px-1 py-0.5"
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId)
              from.current = { x: event.clientX, at: boundary.at }
            }}
            onPointerMove={drag}
            onPointerUp={() => {
              from.current = null
            }}
            onKeyDown={(event) => {
              const step = { ArrowLeft: -NUDGE, ArrowRight: NUDGE }[event.key]
              if (step === undefined) return
              event.preventDefault()
              onMove(boundary.at + step * (event.shiftKey ? 10 : 1), false)
            }}
          >
            <span aria-hidden="true">↔</span> {number}
          </button>
        ) : (
          <span className="px-1 py-0.5">{number}</span>
        )}
        <img
          src={thumbnailUrl(slide.steps.at(-1)!.thumbnail)}
          alt=""
          className="h-5 w-9 border border-base-300 bg-white object-contain"
        />
        <bdi className="max-w-28 truncate">{slide.title || say('Without a title')}</bdi>
        {onMove && !boundary.pause && <span className="font-medium text-error">{say('no pause')}</span>}
        <button
          type="button"
          className="rounded p-0.5 hover:bg-base-200"
          aria-label={say('Hear the change to slide {number}', { number })}
          onClick={() => togglePlay(soundUrl(recording.sound), Math.max(0, toSeconds(boundary.at) - BEFORE_S))}
        >
          <Play size={12} fill="currentColor" aria-hidden />
        </button>
      </div>
    </div>
  )
}
