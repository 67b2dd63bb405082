/** Keys of the sound of a take, while it has focus. */

import type { KeyboardEvent } from 'react'
import type { SampleRange } from '#core/model/sample-range.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { reveal, type View, zoom } from '#web/sheet/bench/sound/view.ts'
import type { TakePlayback } from './use-take-playback.ts'

interface SoundKeys {
  playback: TakePlayback
  /** Seconds of the whole take. */
  length: number
  view: View
  onView: (view: View) => void
  selection: SampleRange | null
  onSelect: (selection: SampleRange | null) => void
  /** Cuts out, or puts back, what is selected. */
  onCut: () => void
  onRestore: () => void
}

/** With Shift the edge of the selection that was moved last goes on; at first that is its end. */
function moveBy(arrow: number, extending: boolean, { playback, length, view, onView, selection, onSelect }: SoundKeys) {
  const { moment } = playback
  const atStart = selection !== null && Math.abs(toSeconds(selection.start) - moment) < 1e-3
  const from = extending && selection && !atStart ? toSeconds(selection.end) : moment
  const to = Math.max(0, Math.min(length, from + arrow))
  if (extending) {
    const fixed = selection ? (atStart ? selection.end : selection.start) : toSamples(moment)
    const moved = toSamples(to)
    if (moved !== fixed) onSelect({ start: Math.min(fixed, moved), end: Math.max(fixed, moved) })
  }
  playback.seek(to)
  onView(reveal(view, to, length))
}

export const soundKeys = (keys: SoundKeys) => (event: KeyboardEvent) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return
  const { playback, length, view, onView, selection, onSelect, onCut, onRestore } = keys
  const { moment, heard } = playback
  const step = (view.end - view.start) / 100
  const acts: Record<string, () => void> = {
    ArrowLeft: () => moveBy(-step, event.shiftKey, keys),
    ArrowRight: () => moveBy(step, event.shiftKey, keys),
    ' ': playback.toggle,
    Home: () => playback.seek(0),
    End: () => playback.seek(length),
    '+': () => onView(zoom(view, 0.6, moment, length)),
    '-': () => onView(zoom(view, 1 / 0.6, moment, length)),
    l: () => playback.loop(selection),
    t: () => playback.listenTo(heard === 'tidied' ? 'recorded' : 'tidied'),
    x: onCut,
    Delete: onCut,
    b: onRestore,
    Escape: () => onSelect(null),
  }
  const act = acts[event.key]
  if (!act) return
  act()
  event.preventDefault()
  event.stopPropagation()
}
