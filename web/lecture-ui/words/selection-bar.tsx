/** What can be done with the selected stretch, be it marked as words or as sound. */

import { Play, Repeat } from 'lucide-react'
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
import { GapField } from './gap-field.tsx'
import { ToolButton } from './tool-button.tsx'
import { useMoveWords, waysOut } from './use-move-words.ts'
import { useSaidInGap } from './use-said-in-gap.ts'
import type { WordMarks } from './use-word-marks.ts'

const SETTLED_MS = 500

/** The caption of the script that is heard where the selection begins: its sentence can be said again. */
function captionAt(lecture: Lecture, take: Take, { start, end }: SampleRange) {
  const cues = lecture.captionTracks.find((track) => track.origin === 'script')?.cues ?? []
  const [from, to] = [toSeconds(start), toSeconds(end)]
  return cues.find((cue) => cue.takeId === take.id && cue.scriptText !== '' && cue.end > from && cue.start < to)
}

export function SelectionBar({
  lecture,
  take,
  recipe,
  marks,
  selection,
  onLoop,
  loops = true,
  onRecipe,
}: {
  lecture: Lecture
  take: Take
  recipe: TidyUp
  marks: WordMarks
  /** What is marked, as sound. */
  selection: SampleRange
  /** Plays it. */
  onLoop: () => void
  /** Over and over, where whoever plays it can. */
  loops?: boolean
  onRecipe: (recipe: TidyUp, label: string) => void
}) {
  const move = useMoveWords(lecture, take, marks)
  const onSaid = useSaidInGap(lecture, take, marks)
  // a stretch of sound goes nowhere: nobody knows which words it holds
  const ways = marks.isByWords ? waysOut(lecture, take.slideId) : null
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
        {loops ? <Repeat size={13} aria-hidden /> : <Play size={13} fill="currentColor" aria-hidden />}{' '}
        {loops ? say('Hear it in a loop') : say('Hear it')}
      </ToolButton>
      <ToolButton onClick={() => void marks.cut()} shortcut="X">
        {say('Cut out')}
      </ToolButton>
      <ToolButton onClick={marks.restore} shortcut="B">
        {say('Put back')}
      </ToolButton>
      <ToolButton onClick={() => onRecipe(silenceOut(recipe, selection), say('silence'))}>{say('Only the room')}</ToolButton>
      <ToolButton onClick={() => onRecipe(gainOver(recipe, selection, -6), say('quieter'))}>{say('Quieter')}</ToolButton>
      <ToolButton onClick={() => onRecipe(gainOver(recipe, selection, 4), say('louder'))}>{say('Louder')}</ToolButton>
      <ToolButton onClick={() => onRecipe({ ...recipe, roomTone: selection }, say('room tone'))}>
        {say('This is the room')}
      </ToolButton>
      {ways?.before && (
        <ToolButton onClick={() => void move(ways.before!)}>
          {say('To the end of slide {number}', { number: ways.before.number })}
        </ToolButton>
      )}
      {ways?.after && (
        <ToolButton onClick={() => void move(ways.after!)}>
          {say('To the beginning of slide {number}', { number: ways.after.number })}
        </ToolButton>
      )}
      {again && (
        <Link to={`/lectures/${lecture.id}/booth?slide=${take.slideId}&again=${again.id}`} className={buttonLook({ size: 'xs' })}>
          {say('Say this sentence again')}
        </Link>
      )}
      {onSaid && <GapField key={selection.start} onSaid={onSaid} />}
    </div>
  )
}
