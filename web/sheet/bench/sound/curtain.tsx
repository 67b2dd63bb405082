/** One end of what is heard of a take: covered, and moved by its grip. */

import { type KeyboardEvent, useRef } from 'react'
import { moveCurtain } from '#core/audio/tidy-up/edit.ts'
import type { Take } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { clock } from '#web/components/format.ts'

interface CurtainProps {
  take: Take
  recipe: TidyUp
  /** The recipe while it is dragged, and when it is let go. */
  onDrag: (recipe: TidyUp | null) => void
  onRecipe: (recipe: TidyUp, label: string) => void
  side: 'start' | 'end'
  left: number
  width: number
  toMoment: (clientX: number) => number
}

export function Curtain({ side, recipe, take, left, width, toMoment, onDrag, onRecipe }: CurtainProps) {
  const dragged = useRef<TidyUp | null>(null)
  const name = side === 'start' ? say('Beginning') : say('End')
  const place = (moment: number) => moveCurtain(recipe, side, toSamples(moment), take.samples)
  const letGo = () => {
    if (dragged.current) onRecipe(dragged.current, side === 'start' ? say('beginning of the clip') : say('end of the clip'))
    dragged.current = null
    onDrag(null)
  }
  const press = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
    if (by === undefined) return
    event.preventDefault()
    event.stopPropagation()
    const step = event.shiftKey ? 0.5 : 0.05
    onRecipe(
      place(toSeconds(recipe.kept[side]) + by * step),
      side === 'start' ? say('beginning of the clip') : say('end of the clip'),
    )
  }
  return (
    <div
      className="hatched absolute inset-y-0 bg-base-100/75"
      style={{ left, width: Math.max(0, width) }}
      data-testid={`curtain-${side}`}
    >
      <div
        role="slider"
        tabIndex={0}
        aria-label={say('{name} of what is heard', { name })}
        aria-valuemin={0}
        aria-valuemax={toSeconds(take.samples)}
        aria-valuenow={toSeconds(recipe.kept[side])}
        aria-valuetext={clock(toSeconds(recipe.kept[side]))}
        className={`absolute inset-y-0 z-10 flex w-4 cursor-ew-resize touch-none items-center justify-center ${side === 'start' ? '-right-2' : '-left-2'}`}
        onKeyDown={press}
        onPointerDown={(event) => {
          event.stopPropagation()
          event.currentTarget.setPointerCapture(event.pointerId)
          dragged.current = recipe
        }}
        onPointerMove={(event) => {
          if (!dragged.current) return
          dragged.current = place(toMoment(event.clientX))
          onDrag(dragged.current)
        }}
        onPointerUp={letGo}
        onPointerCancel={letGo}
      >
        <span className="drawn h-9 w-2 rounded-sm border border-base-100 bg-base-content" />
      </div>
      <div className={`drawn absolute inset-y-0 w-px bg-base-content ${side === 'start' ? 'right-0' : 'left-0'}`} />
    </div>
  )
}
