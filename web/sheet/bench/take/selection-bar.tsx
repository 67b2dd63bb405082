import { Repeat } from 'lucide-react'
import { useEffect } from 'react'
import { cutOut, gainOver, putBack, silenceOut } from '#core/audio/tidy-up/edit.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { figure } from '#core/words/figures.ts'
import { say } from '#core/words/say.ts'
import { announce } from '#web/components/announcer.tsx'
import { clock } from '#web/components/format.ts'
import { ToolButton } from './tool-button.tsx'

const SETTLED_MS = 500

/** What can be done with the selected stretch. */
export function SelectionBar({
  selection,
  recipe,
  onLoop,
  onRecipe,
}: {
  selection: SampleRange
  recipe: TidyUp
  onLoop: () => void
  onRecipe: (recipe: TidyUp, label: string) => void
}) {
  const selected = say('Selected {start} to {end} ({seconds} s)', {
    start: clock(toSeconds(selection.start)),
    end: clock(toSeconds(selection.end)),
    seconds: figure(toSeconds(selection.end - selection.start), 2),
  })
  // said when it stays as it is, and not at every step on the way
  useEffect(() => {
    const timer = setTimeout(() => announce(selected), SETTLED_MS)
    return () => clearTimeout(timer)
  }, [selected])
  return (
    <div className="flex flex-wrap items-center gap-1.5 py-1 text-sm">
      <span className="me-1">{selected}</span>
      <ToolButton onClick={onLoop} shortcut="L">
        <Repeat size={13} aria-hidden /> {say('Hear it in a loop')}
      </ToolButton>
      <ToolButton onClick={() => onRecipe(cutOut(recipe, selection), say('cut'))} shortcut="X">
        {say('Cut out')}
      </ToolButton>
      <ToolButton onClick={() => onRecipe(putBack(recipe, selection), say('putting back'))} shortcut="B">
        {say('Put back')}
      </ToolButton>
      <ToolButton onClick={() => onRecipe(silenceOut(recipe, selection), say('silence'))}>{say('Only the room')}</ToolButton>
      <ToolButton onClick={() => onRecipe(gainOver(recipe, selection, -6), say('quieter'))}>{say('Quieter')}</ToolButton>
      <ToolButton onClick={() => onRecipe(gainOver(recipe, selection, 4), say('louder'))}>{say('Louder')}</ToolButton>
      <ToolButton onClick={() => onRecipe({ ...recipe, roomTone: selection }, say('room tone'))}>
        {say('This is the room')}
      </ToolButton>
    </div>
  )
}
