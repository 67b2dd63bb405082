/** A take on its own time axis: heard as recorded or tidied, trimmed, cut, silenced and cleaned by hand. */

import { type ReactNode, useEffect, useState } from 'react'
import { cutOut } from '#core/audio/tidy-up/edit.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Take } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { clock } from '#web/components/format.ts'
import { SelectionBar } from '#web/lecture-ui/words/selection-bar.tsx'
import { TakeWords } from '#web/lecture-ui/words/take-words.tsx'
import { ToolButton } from '#web/lecture-ui/words/tool-button.tsx'
import { useRecipeEdit } from '#web/lecture-ui/words/use-recipe-edit.ts'
import { useWordMarks } from '#web/lecture-ui/words/use-word-marks.ts'
import { stopPreview } from '#web/sheet/bench/sound/preview.ts'
import { SoundView } from '#web/sheet/bench/sound/sound-view.tsx'
import { reveal, type View, whole } from '#web/sheet/bench/sound/view.ts'
import { Bookmarks } from './bookmarks.tsx'
import { SoundHead } from './sound-head.tsx'
import { soundKeys } from './sound-keys.ts'
import { TidyingControls } from './tidying-controls.tsx'
import { useTakePlayback } from './use-take-playback.ts'

interface Editing {
  take: Take
  kept: TidyUp
  edit: (next: TidyUp, label: string) => void
}

/** A few words after a long pause at the very end, which perhaps were not meant. */
function TrailingWords({ take, kept, edit, onHear }: Editing & { onHear: (from: number) => void }) {
  const trailing = take.analysis?.trailingUtterance
  if (!trailing || trailing.end > kept.kept.end) return null
  if (kept.cuts.some((cut) => cut.start <= trailing.start && cut.end >= trailing.end)) return null
  return (
    <p className="flex flex-wrap items-center gap-2 py-1 text-sm">
      {say('At {start} a few words follow a long pause. Were they meant?', { start: clock(toSeconds(trailing.start)) })}
      <ToolButton onClick={() => onHear(toSeconds(trailing.start) - 0.3)}>{say('Hear them')}</ToolButton>
      <ToolButton onClick={() => edit(cutOut(kept, { start: trailing.start, end: take.samples }), say('cut'))}>
        {say('Cut them out')}
      </ToolButton>
    </p>
  )
}

type TidiedTake = Take & { tidyUp: TidyUp }
export const isTidied = (take: Take): take is TidiedTake => take.tidyUp !== null

interface TakeSoundProps {
  lecture: Lecture
  take: TidiedTake
  slideNumber: number
  /** What is spoken on the slide. */
  language: string
  /** What stands under the sound, and under the controls beside it. */
  below: ReactNode
  beside: ReactNode
}

export function TakeSound({ lecture, take, slideNumber, language, below, beside }: TakeSoundProps) {
  const length = toSeconds(take.samples)
  const [view, setView] = useState<View>(() => whole(length))
  const [dragged, setDragged] = useState<TidyUp | null>(null)
  const playback = useTakePlayback(take, (moment) => setView((v) => reveal(v, moment, length)))
  useEffect(() => stopPreview, [])
  const kept = take.tidyUp
  const edit = useRecipeEdit(lecture, take, slideNumber)
  const marks = useWordMarks({ lecture, take, kept, edit })
  const { selection, markSound } = marks
  const { moment, seek } = playback
  const seekSeen = (to: number) => {
    seek(to)
    setView((v) => reveal(v, to, length))
  }
  const acts = {
    length,
    view,
    onView: setView,
    selection,
    onSelect: markSound,
    onCut: () => void marks.cut(),
    onRestore: marks.restore,
  }
  const onKey = soundKeys({ playback, ...acts })
  return (
    <div className="grid grid-cols-[1fr_20rem] gap-6 max-md:grid-cols-1">
      <div className="min-w-0">
        <SoundHead playback={playback} hasClip={take.clip !== null} view={view} onView={setView} length={length} />
        <SoundView
          take={take}
          recipe={dragged ?? kept}
          view={view}
          onView={setView}
          selection={selection}
          onSelect={markSound}
          onDrag={setDragged}
          onRecipe={edit}
          moment={moment}
          onSeek={seek}
          onKey={onKey}
        />
        {selection ? (
          <SelectionBar
            lecture={lecture}
            take={take}
            recipe={kept}
            marks={marks}
            selection={selection}
            onLoop={() => playback.loop(selection)}
            onRecipe={edit}
          />
        ) : (
          <p className="py-1 text-sm text-base-content/75">
            {say('Drag over the sound to select a stretch; drag the two grips to trim.')}
          </p>
        )}
        <TakeWords
          marks={marks}
          language={language}
          moment={moment}
          playing={playback.playing}
          onSeek={seekSeen}
          onPlay={playback.play}
          onKey={onKey}
        />
        <TrailingWords take={take} kept={kept} edit={edit} onHear={playback.play} />
        <Bookmarks lecture={lecture} take={take} slideNumber={slideNumber} moment={moment} onSeek={seek} />
        <div className="mt-3">{below}</div>
      </div>
      <TidyingControls lecture={lecture} take={take} kept={kept} view={view} edit={edit} onQuiet={playback.pause}>
        {beside}
      </TidyingControls>
    </div>
  )
}
