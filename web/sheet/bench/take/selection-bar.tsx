import { Repeat } from 'lucide-react'
import { cutOut, gainOver, putBack, silenceOut } from '#core/audio/tidy-up/edit.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { clock } from '#web/components/format.ts'
import { ToolButton } from './tool-button.tsx'

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
  return (
    <div className="flex flex-wrap items-center gap-1.5 py-1 text-sm">
      <span className="mr-1">
        Selected {clock(toSeconds(selection.start))} to {clock(toSeconds(selection.end))} (
        {toSeconds(selection.end - selection.start).toFixed(2)} s)
      </span>
      <ToolButton onClick={onLoop} shortcut="L">
        <Repeat size={13} aria-hidden /> Hear it in a loop
      </ToolButton>
      <ToolButton onClick={() => onRecipe(cutOut(recipe, selection), 'cut')} shortcut="X">
        Cut out
      </ToolButton>
      <ToolButton onClick={() => onRecipe(putBack(recipe, selection), 'putting back')} shortcut="B">
        Put back
      </ToolButton>
      <ToolButton onClick={() => onRecipe(silenceOut(recipe, selection), 'silence')}>Only the room</ToolButton>
      <ToolButton onClick={() => onRecipe(gainOver(recipe, selection, -6), 'quieter')}>Quieter</ToolButton>
      <ToolButton onClick={() => onRecipe(gainOver(recipe, selection, 4), 'louder')}>Louder</ToolButton>
      <ToolButton onClick={() => onRecipe({ ...recipe, roomTone: selection }, 'room tone')}>This is the room</ToolButton>
    </div>
  )
}
