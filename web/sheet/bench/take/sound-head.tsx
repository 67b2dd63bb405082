/** Over the sound of a take: play, what is heard, and how much of it is shown. */

import { Play, Square } from 'lucide-react'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock } from '#web/components/format.ts'
import { ToolButton } from '#web/lecture-ui/words/tool-button.tsx'
import { type View, whole, zoom } from '#web/sheet/bench/sound/view.ts'
import type { TakePlayback } from './use-take-playback.ts'

interface SoundHeadProps {
  playback: TakePlayback
  hasClip: boolean
  view: View
  onView: (view: View) => void
  /** Seconds of the whole take. */
  length: number
}

export function SoundHead({ playback, hasClip, view, onView, length }: SoundHeadProps) {
  const { heard, equal, moment, playing } = playback
  return (
    <div className="mb-2 flex flex-wrap items-center gap-2 text-sm">
      <Button onClick={playback.toggle} aria-label={playing ? say('Stop') : say('Play')}>
        {playing ? <Square size={14} fill="currentColor" aria-hidden /> : <Play size={15} fill="currentColor" aria-hidden />}
        <span className="w-14 text-start">{clock(moment)}</span>
      </Button>
      <div role="radiogroup" aria-label={say('What is heard')} className="join">
        {(['recorded', 'tidied'] as const).map((what) => (
          // biome-ignore lint/a11y/useSemanticElements: a switch of two large words, not a form
          <button
            key={what}
            type="button"
            role="radio"
            aria-checked={heard === what}
            disabled={what === 'tidied' && !hasClip}
            onClick={() => playback.listenTo(what)}
            className={`btn join-item btn-sm border-edge ${heard === what ? 'btn-neutral' : ''}`}
          >
            {what === 'tidied' ? say('Tidied') : say('As recorded')}
          </button>
        ))}
      </div>
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          className="checkbox checkbox-xs border-edge"
          checked={equal}
          onChange={(event) => playback.setEqual(event.target.checked)}
        />
        {say('equally loud')}
      </label>
      <span className="ms-auto flex gap-1.5">
        <ToolButton onClick={() => onView(zoom(view, 0.5, moment, length))} shortcut="+">
          {say('Zoom in')}
        </ToolButton>
        <ToolButton onClick={() => onView(zoom(view, 2, moment, length))} shortcut="−">
          {say('Zoom out')}
        </ToolButton>
        <ToolButton onClick={() => onView(whole(length))}>{say('Whole take')}</ToolButton>
      </span>
    </div>
  )
}
