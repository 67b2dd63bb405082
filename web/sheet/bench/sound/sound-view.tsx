/** Spectrogram and waveform of a take over one axis, with what was taken out, the curtains, the selection and the playhead. */

import { type KeyboardEvent, type PointerEvent, type RefObject, useEffect, useRef, useState } from 'react'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { Take } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { clock } from '#web/components/format.ts'
import { useWidth } from '#web/components/use-width.ts'
import { peaksUrl, spectrogramUrl } from '#web/data/api.ts'
import { derivedFile } from '#web/data/derived-file.ts'
import { drawPeaks, fitCanvas } from '#web/lecture-ui/peaks.ts'
import { Curtain } from './curtain.tsx'
import { drawSpectrogram } from './spectrogram.ts'
import { fromPixels, scroll, ticksOf, toPixels, type View, zoom } from './view.ts'

const SPECTROGRAM_HEIGHT = 112
const WAVE_HEIGHT = 88
/** A press that moves less than this is a click. */
const CLICK_PX = 4

interface SoundViewProps {
  take: Take
  recipe: TidyUp
  view: View
  onView: (view: View) => void
  selection: SampleRange | null
  onSelect: (selection: SampleRange | null) => void
  /** The recipe while a curtain is dragged, and when it is let go. */
  onDrag: (recipe: TidyUp | null) => void
  onRecipe: (recipe: TidyUp, label: string) => void
  moment: number
  onSeek: (moment: number) => void
  onKey: (event: KeyboardEvent) => void
}

/** Stretches drawn over the sound. */
function Band({
  stretch,
  x,
  className,
  label,
}: {
  stretch: SampleRange
  x: (s: number) => number
  className: string
  label: string
}) {
  const left = x(toSeconds(stretch.start))
  return (
    <div
      role="img"
      aria-label={say('{label}, {start} to {end}', {
        label,
        start: clock(toSeconds(stretch.start)),
        end: clock(toSeconds(stretch.end)),
      })}
      title={label}
      className={`absolute inset-y-0 ${className}`}
      style={{ left, width: Math.max(1, x(toSeconds(stretch.end)) - left) }}
    />
  )
}

/** Draws waveform and spectrogram of what is in view, as soon as they are there. */
function useDrawing(take: Take, view: View, width: number) {
  const waves = useRef<HTMLCanvasElement>(null)
  const spectrum = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    let current = true
    if (width === 0) return
    void derivedFile(peaksUrl(take.peaks!)).then((bytes) => {
      if (!current || !waves.current) return
      fitCanvas(waves.current, width, WAVE_HEIGHT)
      drawPeaks(
        waves.current,
        new Int16Array(bytes),
        [{ start: toSamples(view.start), end: toSamples(view.end) }],
        take.analysis?.speech ?? null,
      )
    })
    if (take.spectrogram)
      void derivedFile(spectrogramUrl(take.spectrogram)).then((bytes) => {
        if (!current || !spectrum.current) return
        fitCanvas(spectrum.current, width, SPECTROGRAM_HEIGHT)
        drawSpectrogram(spectrum.current, new Uint8Array(bytes), view)
      })
    return () => {
      current = false
    }
  }, [take.peaks, take.spectrogram, take.analysis, view, width])
  return { waves, spectrum }
}

/** Ctrl and the wheel zoom, Shift and the wheel, or a sideways wheel, scroll. */
function useWheel(
  frame: RefObject<HTMLElement | null>,
  { view, onView, width, length }: { view: View; onView: (view: View) => void; width: number; length: number },
) {
  // React listens to wheels passively, and a passive listener cannot keep the page from zooming
  useEffect(() => {
    const element = frame.current
    if (!element || width === 0) return
    const onWheel = (event: WheelEvent) => {
      if (event.ctrlKey || event.metaKey) {
        event.preventDefault()
        const at = fromPixels(view, width, event.clientX - element.getBoundingClientRect().left)
        onView(zoom(view, Math.exp(event.deltaY * 0.004), at, length))
      } else if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
        event.preventDefault()
        onView(scroll(view, ((event.deltaX || event.deltaY) / width) * (view.end - view.start), length))
      }
    }
    element.addEventListener('wheel', onWheel, { passive: false })
    return () => element.removeEventListener('wheel', onWheel)
  }, [frame, view, width, length, onView])
}

/** What was taken out or changed by hand. */
function Bands({ recipe, x }: { recipe: TidyUp; x: (seconds: number) => number }) {
  return (
    <>
      {recipe.cuts.map((s) => (
        <Band
          key={`c${s.start}`}
          stretch={s}
          x={x}
          className="hatched border-x border-base-content bg-base-100/75"
          label={say('Cut out')}
        />
      ))}
      {recipe.pauseCuts.map((s) => (
        <Band
          key={`p${s.start}`}
          stretch={s}
          x={x}
          className="hatched border-x border-edge bg-base-100/75"
          label={say('Pause shortened')}
        />
      ))}
      {recipe.silenced.map((s) => (
        <Band
          key={`s${s.start}`}
          stretch={s}
          x={x}
          className="border border-dashed border-base-content bg-base-100/60"
          label={say('Only the room is heard')}
        />
      ))}
      {recipe.gains.map(({ stretch, db }) => (
        <Band
          key={`g${stretch.start}`}
          stretch={stretch}
          x={x}
          className="border-x border-b-4 border-info bg-info/10"
          label={say(db > 0 ? 'Louder by {db} dB' : 'Quieter by {db} dB', { db: Math.abs(db) })}
        />
      ))}
    </>
  )
}

export function SoundView(props: SoundViewProps) {
  const { take, recipe, view, onView, selection, onSelect, moment, onSeek } = props
  const [measure, width] = useWidth()
  const frame = useRef<HTMLDivElement>(null)
  const [pressed, setPressed] = useState<number | null>(null)
  const length = toSeconds(take.samples)
  const { waves, spectrum } = useDrawing(take, view, width)
  useWheel(frame, { view, onView, width, length })
  const x = (seconds: number) => toPixels(view, width, seconds)
  const toMoment = (clientX: number) =>
    Math.max(0, Math.min(length, fromPixels(view, width, clientX - frame.current!.getBoundingClientRect().left)))

  const down = (event: PointerEvent) => {
    if (event.button !== 0) return
    ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
    setPressed(event.clientX)
  }
  const move = (event: PointerEvent) => {
    if (pressed === null || Math.abs(event.clientX - pressed) < CLICK_PX) return
    const [a, b] = [toMoment(pressed), toMoment(event.clientX)].sort((m, n) => m - n) as [number, number]
    onSelect({ start: toSamples(a), end: Math.max(toSamples(a) + 1, toSamples(b)) })
  }
  const up = (event: PointerEvent) => {
    if (pressed !== null && Math.abs(event.clientX - pressed) < CLICK_PX) {
      onSelect(null)
      onSeek(toMoment(event.clientX))
    }
    setPressed(null)
  }

  const start = x(toSeconds(recipe.kept.start))
  const end = x(toSeconds(recipe.kept.end))
  const curtain = { take, recipe, toMoment, onDrag: props.onDrag, onRecipe: props.onRecipe }
  return (
    <div ref={measure} dir="ltr" className="min-w-0">
      <div
        ref={frame}
        role="application"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the keys of the sound work where it has the focus
        tabIndex={0}
        aria-label={say(
          'Sound of take {number}. Arrows move, with Shift they select; Space plays; X cuts out; plus and minus zoom.',
          { number: take.number },
        )}
        className="relative cursor-text touch-pan-y select-none overflow-hidden border-y border-base-300 bg-base-100"
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={() => setPressed(null)}
        onKeyDown={props.onKey}
      >
        <canvas ref={spectrum} className="block bg-base-100 text-base-content" style={{ width, height: SPECTROGRAM_HEIGHT }} />
        <canvas ref={waves} className="block text-primary" style={{ width, height: WAVE_HEIGHT }} />
        <Bands recipe={recipe} x={x} />
        <Curtain {...curtain} side="start" left={x(0)} width={start - x(0)} />
        <Curtain {...curtain} side="end" left={end} width={x(length) - end} />
        {selection && (
          <div
            data-testid="selection"
            className="pointer-events-none absolute inset-y-0 border-x-2 border-secondary bg-secondary/20"
            style={{ left: x(toSeconds(selection.start)), width: x(toSeconds(selection.end)) - x(toSeconds(selection.start)) }}
          />
        )}
        <div className="pointer-events-none absolute inset-y-0 drawn w-0.5 bg-error" style={{ left: x(moment) - 1 }} />
      </div>
      <div className="relative h-8 overflow-hidden text-xs text-base-content/75" aria-hidden="true">
        {width > 0 &&
          ticksOf(view, width).map((tick) => (
            <span key={tick} className="absolute top-0 border-l border-base-300 pl-1" style={{ left: x(tick) }}>
              {clock(tick)}
            </span>
          ))}
        {recipe.roomTone && (
          <span
            className="absolute top-0 h-2 border-x-2 border-b-2 border-secondary"
            style={{
              left: x(toSeconds(recipe.roomTone.start)),
              width: x(toSeconds(recipe.roomTone.end)) - x(toSeconds(recipe.roomTone.start)),
            }}
          >
            <span className="absolute top-2 whitespace-nowrap text-secondary">{say('room tone')}</span>
          </span>
        )}
      </div>
    </div>
  )
}
