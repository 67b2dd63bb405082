import { Repeat } from 'lucide-react'
import { useEffect } from 'react'
import { Link } from 'react-router'
import { gainOver, silenceOut } from '#core/audio/tidy-up/edit.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { Take } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { figure } from '#core/words/figures.ts'
import { say } from '#core/words/say.ts'
import { announce } from '#web/components/announcer.tsx'
import { buttonLook } from '#web/components/button.tsx'
import { clock } from '#web/components/format.ts'
import type { WayOut, waysOut } from '#web/sheet/bench/words/use-move-words.ts'
import { ToolButton } from './tool-button.tsx'

const SETTLED_MS = 500

/** What can be done with the selected stretch. */
/** The caption of the script that is heard where the selection begins: its sentence can be said again. */
function captionAt(lecture: Lecture, take: Take, { start, end }: SampleRange) {
  const cues = lecture.captionTracks.find((track) => track.origin === 'script')?.cues ?? []
  const [from, to] = [toSeconds(start), toSeconds(end)]
  return cues.find((cue) => cue.takeId === take.id && cue.scriptText !== '' && cue.end > from && cue.start < to)
}

export function SelectionBar({
  lecture,
  take,
  selection,
  recipe,
  onLoop,
  onCut,
  onRestore,
  onRecipe,
  ways,
  onMove,
}: {
  lecture: Lecture
  take: Take
  selection: SampleRange
  recipe: TidyUp
  onLoop: () => void
  onCut: () => void
  onRestore: () => void
  onRecipe: (recipe: TidyUp, label: string) => void
  /** Where marked words may go; null where a stretch of sound is selected. */
  ways: ReturnType<typeof waysOut> | null
  onMove: (way: WayOut) => void
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
  const again = captionAt(lecture, take, selection)
  return (
    <div className="flex flex-wrap items-center gap-1.5 py-1 text-sm">
      <span className="me-1">{selected}</span>
      <ToolButton onClick={onLoop} shortcut="L">
        <Repeat size={13} aria-hidden /> {say('Hear it in a loop')}
      </ToolButton>
      <ToolButton onClick={onCut} shortcut="X">
        {say('Cut out')}
      </ToolButton>
      <ToolButton onClick={onRestore} shortcut="B">
        {say('Put back')}
      </ToolButton>
      <ToolButton onClick={() => onRecipe(silenceOut(recipe, selection), say('silence'))}>{say('Only the room')}</ToolButton>
      <ToolButton onClick={() => onRecipe(gainOver(recipe, selection, -6), say('quieter'))}>{say('Quieter')}</ToolButton>
      <ToolButton onClick={() => onRecipe(gainOver(recipe, selection, 4), say('louder'))}>{say('Louder')}</ToolButton>
      <ToolButton onClick={() => onRecipe({ ...recipe, roomTone: selection }, say('room tone'))}>
        {say('This is the room')}
      </ToolButton>
      {ways?.before && (
        <ToolButton onClick={() => onMove(ways.before!)}>
          {say('To the end of slide {number}', { number: ways.before.number })}
        </ToolButton>
      )}
      {ways?.after && (
        <ToolButton onClick={() => onMove(ways.after!)}>
          {say('To the beginning of slide {number}', { number: ways.after.number })}
        </ToolButton>
      )}
      {again && (
        <Link to={`/lectures/${lecture.id}/booth?slide=${take.slideId}&again=${again.id}`} className={buttonLook({ size: 'xs' })}>
          {say('Say this sentence again')}
        </Link>
      )}
    </div>
  )
}
