/** Beside the sound of a take: its figures, how it is tidied, and a press that tidies all others the same way. */

import { Undo2 } from 'lucide-react'
import type { ReactNode } from 'react'
import { toast } from 'sonner'
import type { Lecture } from '#core/model/lecture.ts'
import type { Take } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { say } from '#core/words/say.ts'
import { suggested, useSameForAll } from '#web/data/use-tidy-up.ts'
import { TidySettings } from '#web/lecture-ui/tidy-settings.tsx'
import { ToolButton } from '#web/lecture-ui/words/tool-button.tsx'
import { prepare, preview } from '#web/sheet/bench/sound/preview.ts'
import type { View } from '#web/sheet/bench/sound/view.ts'
import { Fades } from './fades.tsx'
import { TakeFigures } from './take-figures.tsx'

interface TidyingControlsProps {
  lecture: Lecture
  take: Take
  kept: TidyUp
  view: View
  edit: (next: TidyUp, label: string) => void
  /** Ends what is played, before a change of strength is heard. */
  onQuiet: () => void
  children: ReactNode
}

export function TidyingControls({ lecture, take, kept, view, edit, onQuiet, children }: TidyingControlsProps) {
  const sameForAll = useSameForAll(lecture)
  const hear = (strength: number) => {
    onQuiet()
    void preview(take, view, strength).then(
      (ms) => ms !== null && performance.measure(say('strength heard'), { start: performance.now() - ms, duration: ms }),
      () => toast.error(say('The change cannot be heard before it is kept: this part of the recording did not arrive.')),
    )
  }
  const likeThis = () => {
    const count = sameForAll(kept)
    toast(
      count === 0
        ? say('All slides are tidied like this already.')
        : say('{count, plural, one {# slide} other {# slides}} will be tidied like this one.', { count }),
    )
  }
  return (
    // the stretch is studied when the controls are gone to, so that the first change is heard as soon as the later ones
    // biome-ignore lint/a11y/useSemanticElements: a group of controls, not a form
    <div
      role="group"
      aria-label={say('Tidying of this take')}
      className="grid content-start gap-3"
      onPointerEnter={() => prepare(take, view)}
      onFocus={() => prepare(take, view)}
    >
      <TakeFigures take={take} />
      <TidySettings settings={kept} humHz={take.analysis?.humHz ?? null} onChange={edit} onStrength={hear} />
      <Fades recipe={kept} onRecipe={edit} />
      <div className="flex flex-wrap gap-1.5">
        <ToolButton onClick={() => edit(suggested(take), say('putting back to suggested'))}>
          <Undo2 size={13} aria-hidden className="rtl:-scale-x-100" /> {say('As suggested')}
        </ToolButton>
        <ToolButton onClick={likeThis}>{say('Same for all slides')}</ToolButton>
      </div>
      {children}
    </div>
  )
}
