/** The sound around one caption, with its two edges to drag. */

import { type PointerEvent, useEffect, useRef, useState } from 'react'
import type { StoredCue } from '#core/model/caption.ts'
import type { Take } from '#core/model/take.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { figure } from '#core/words/figures.ts'
import { say } from '#core/words/say.ts'
import { useWidth } from '#web/components/use-width.ts'
import { peaksUrl } from '#web/data/api.ts'
import { derivedFile } from '#web/data/derived-file.ts'
import { drawPeaks, fitCanvas } from '#web/lecture-ui/peaks.ts'

const AROUND_S = 1.2
const HEIGHT = 72
const NUDGE_S = 0.05

interface CueStripProps {
  take: Take
  cue: StoredCue
  /** Captions of the same take, to be seen beside it. */
  others: readonly StoredCue[]
  onMove: (edge: 'start' | 'end', seconds: number) => void
}

export function CueStrip({ take, cue, others, onMove }: CueStripProps) {
  const [measure, width] = useWidth()
  const canvas = useRef<HTMLCanvasElement>(null)
  const [dragged, setDragged] = useState<{ edge: 'start' | 'end'; by: number } | null>(null)
  const grip = useRef(0)
  const from = Math.max(0, cue.start - AROUND_S)
  const to = cue.end + AROUND_S
  const pixels = width / (to - from)
  const { peaks, analysis } = take
  useEffect(() => {
    let current = true
    if (peaks && width > 0)
      void derivedFile(peaksUrl(peaks)).then((bytes) => {
        if (!current || !canvas.current) return
        fitCanvas(canvas.current, width, HEIGHT)
        const stretch = { start: toSamples(from), end: toSamples(to) }
        drawPeaks(canvas.current, new Int16Array(bytes), [stretch], analysis?.speech ?? null)
      })
    return () => {
      current = false
    }
  }, [peaks, analysis, width, from, to])
  const at = (edge: 'start' | 'end') => cue[edge] + (dragged?.edge === edge ? dragged.by : 0)
  const handle = (edge: 'start' | 'end', words: string) => (
    <button
      type="button"
      aria-label={say('{words} {seconds} s of the recording. Move it with the arrow keys', {
        words,
        seconds: figure(at(edge), 2),
      })}
      className="absolute inset-y-0 z-10 w-5 -translate-x-1/2 cursor-ew-resize touch-none"
      style={{ left: (at(edge) - from) * pixels }}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        grip.current = event.clientX
        setDragged({ edge, by: 0 })
      }}
      onPointerMove={(event: PointerEvent) => dragged && setDragged({ edge, by: (event.clientX - grip.current) / pixels })}
      onPointerUp={() => {
        if (dragged && dragged.by !== 0) onMove(edge, dragged.by)
        setDragged(null)
      }}
      onPointerCancel={() => setDragged(null)}
      onKeyDown={(event) => {
        const step = { ArrowLeft: -NUDGE_S, ArrowRight: NUDGE_S }[event.key]
        if (step === undefined) return
        event.preventDefault()
        onMove(edge, step * (event.shiftKey ? 4 : 1))
      }}
    >
      <span className="absolute inset-y-0 left-1/2 drawn w-0.5 -translate-x-1/2 bg-secondary" />
      <span className="absolute top-1/2 left-1/2 h-6 w-2 -translate-x-1/2 -translate-y-1/2 rounded-full border border-secondary bg-base-100" />
    </button>
  )
  return (
    <div
      ref={measure}
      dir="ltr"
      className="relative overflow-hidden border-y border-base-300 bg-base-200/50"
      style={{ height: HEIGHT }}
    >
      {width > 0 && (
        <>
          {others.map((other) => (
            <span
              key={other.id}
              aria-hidden="true"
              className="absolute inset-y-0 border-x border-edge bg-base-content/5"
              style={{ left: (other.start - from) * pixels, width: (other.end - other.start) * pixels }}
            />
          ))}
          <span
            aria-hidden="true"
            className="absolute inset-y-0 bg-secondary/15"
            style={{ left: (at('start') - from) * pixels, width: Math.max(0, at('end') - at('start')) * pixels }}
          />
          <canvas
            ref={canvas}
            role="img"
            aria-label={say('Sound around the caption')}
            className="absolute inset-0 text-primary"
            style={{ width, height: HEIGHT }}
          />
          {handle('start', say('Comes at'))}
          {handle('end', say('Goes at'))}
        </>
      )}
    </div>
  )
}
