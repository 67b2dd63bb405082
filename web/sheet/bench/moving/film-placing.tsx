/** Where a film stands on its slide: dragged on the slide's picture, or told in whole per cents. */
import { type PointerEvent, useRef, useState } from 'react'
import { type Film, type FilmPlace, filmPlace } from '#core/model/moving/film.ts'
import type { Step } from '#core/model/slide.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { NumberField } from '#web/components/fields/number-field.tsx'
import { thumbnailUrl } from '#web/data/api.ts'

const WIDTH = 224
const SMALLEST = 0.05

const within = (value: number, least: number, most: number) => Math.min(Math.max(value, least), most)
const whole = (share: number) => Math.round(share * 100) / 100

/** The slide with its film as a box that is moved, and made larger or smaller at its corner. For the pointer: whoever has none has the fields. */
function Picture({ film, step, onPlace }: { film: Film; step: Step; onPlace: (place: FilmPlace) => void }) {
  const place = filmPlace(film, step)
  const [moved, setMoved] = useState<FilmPlace | null>(null)
  const grip = useRef<{ x: number; y: number; sizes: boolean } | null>(null)
  const height = (WIDTH * step.height) / step.width
  const shown = moved ?? place
  const ratio = place.height / place.width
  const begin = (event: PointerEvent, sizes: boolean) => {
    event.stopPropagation()
    event.currentTarget.setPointerCapture(event.pointerId)
    grip.current = { x: event.clientX, y: event.clientY, sizes }
  }
  const drag = (event: PointerEvent) => {
    if (!grip.current) return
    const [dx, dy] = [(event.clientX - grip.current.x) / WIDTH, (event.clientY - grip.current.y) / height]
    if (grip.current.sizes) {
      const width = whole(within(place.width + dx, SMALLEST, 1 - place.x))
      setMoved({ ...place, width, height: width * ratio })
    } else
      setMoved({
        ...place,
        x: whole(within(place.x + dx, 0, Math.max(0, 1 - place.width))),
        y: whole(within(place.y + dy, 0, Math.max(0, 1 - place.height))),
      })
  }
  const drop = () => {
    grip.current = null
    if (moved && JSON.stringify(moved) !== JSON.stringify(place)) onPlace(moved)
    setMoved(null)
  }
  const share = (value: number) => `${value * 100}%`
  const { strip, stripPictures } = film.shown!
  return (
    <div
      aria-hidden="true"
      dir="ltr"
      data-testid="film-placing"
      className="relative shrink-0 overflow-hidden border border-edge bg-white bg-contain bg-center bg-no-repeat select-none"
      style={{ width: WIDTH, height, backgroundImage: `url(${thumbnailUrl(step.thumbnail)})` }}
      onPointerMove={drag}
      onPointerUp={drop}
      onPointerCancel={() => {
        grip.current = null
        setMoved(null)
      }}
    >
      <div
        className="absolute cursor-move touch-none border-2 border-secondary bg-no-repeat"
        style={{
          left: share(shown.x),
          top: share(shown.y),
          width: share(shown.width),
          height: share(shown.height),
          backgroundImage: `url(${thumbnailUrl(strip)})`,
          backgroundSize: `${stripPictures * 100}% 100%`,
        }}
        onPointerDown={(event) => begin(event, false)}
      >
        <span
          className="absolute -end-1 -bottom-1 size-4 cursor-nwse-resize touch-none rounded-sm border border-secondary bg-base-100"
          onPointerDown={(event) => begin(event, true)}
        />
      </div>
    </div>
  )
}

/** @param onPlace null for as large as it fits */
export function FilmPlacing({ film, step, onPlace }: { film: Film; step: Step; onPlace: (place: FilmPlace | null) => void }) {
  const place = filmPlace(film, step)
  const ratio = place.height / place.width
  const field = (label: string, share: number, least: number, change: (share: number) => Partial<FilmPlace>) => (
    <NumberField
      label={label}
      unit="%"
      min={least}
      max={100}
      step={1}
      value={Math.round(share * 100)}
      onChange={(value) => {
        const next = { ...place, ...change(value / 100) }
        onPlace({ ...next, height: next.width * ratio })
      }}
    />
  )
  return (
    <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
      <Picture film={film} step={step} onPlace={onPlace} />
      {field(say('From the left'), place.x, 0, (x) => ({ x }))}
      {field(say('From above'), place.y, 0, (y) => ({ y }))}
      {field(say('Width'), place.width, 2, (width) => ({ width }))}
      {film.place && (
        <Button kind="ghost" onClick={() => onPlace(null)}>
          {say('As large as it fits')}
        </Button>
      )}
    </div>
  )
}
