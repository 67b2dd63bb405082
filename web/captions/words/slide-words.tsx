/** The words of a slide as they were said, under its captions: marked, cut out and put back as on the bench. */

import { type KeyboardEvent, useState } from 'react'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import type { Take } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { slideSeconds, takeSeconds, toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { timeMap } from '#core/timing/time-map.ts'
import { SelectionBar } from '#web/lecture-ui/words/selection-bar.tsx'
import { TakeWords } from '#web/lecture-ui/words/take-words.tsx'
import { useRecipeEdit } from '#web/lecture-ui/words/use-recipe-edit.ts'
import { useWordMarks } from '#web/lecture-ui/words/use-word-marks.ts'
import { player, usePlayer } from '#web/playback/player.ts'
import { usePlayhead } from '#web/playback/use-playhead.ts'

interface SlideWordsProps {
  lecture: Lecture
  slide: Slide
  take: Take & { tidyUp: TidyUp }
}

/** Between the lecture that plays and the moments of a take. */
function clocksOf(lecture: Lecture, { slide, take }: Pick<SlideWordsProps, 'slide' | 'take'>) {
  const scheduled = schedule(lecture).slides.find(({ slideId }) => slideId === slide.id)
  if (!scheduled) return null
  const map = timeMap(take.tidyUp, toSeconds(scheduled.leadSamples))
  const begins = toSeconds(scheduled.startSamples)
  return {
    toTake: (now: number) => map.toTake(slideSeconds(now - begins)),
    /** What was cut out is not heard: the next that is. */
    toLecture(moment: number) {
      const heard = map.spanToSlide(takeSeconds(moment), takeSeconds(toSeconds(take.samples)))
      return heard && begins + heard.start
    },
  }
}

export function SlideWords({ lecture, slide, take }: SlideWordsProps) {
  const number = lecture.slides.indexOf(slide) + 1
  const edit = useRecipeEdit(lecture, take, number)
  const marks = useWordMarks({ lecture, take, kept: take.tidyUp, edit })
  const { playing } = usePlayer()
  const [moment, setMoment] = useState<number | null>(null)
  const clocks = clocksOf(lecture, { slide, take })
  usePlayhead((now) => {
    const heard = clocks?.toTake(now) ?? null
    // often enough for words, and not for every frame
    if ((heard === null) !== (moment === null) || Math.abs((heard ?? 0) - (moment ?? 0)) > 0.05) setMoment(heard)
  })
  const play = (from: number) => {
    const at = clocks?.toLecture(from)
    if (at !== undefined && at !== null) player.play(at)
  }
  const hearMarked = () => marks.selection && play(toSeconds(marks.selection.start))
  const acts: Record<string, () => void> = {
    x: () => void marks.cut(),
    Delete: () => void marks.cut(),
    b: marks.restore,
    l: () => void hearMarked(),
    ' ': () => (playing ? player.pause() : play(moment ?? 0)),
    Escape: () => marks.markSound(null),
  }
  const onKey = (event: KeyboardEvent) => {
    const act = event.ctrlKey || event.metaKey || event.altKey ? undefined : acts[event.key]
    if (!act) return
    act()
    event.preventDefault()
    event.stopPropagation()
  }
  return (
    <div className="mb-3 border-b border-base-300 pb-2">
      <TakeWords
        marks={marks}
        language={slide.language ?? lecture.language}
        moment={moment ?? 0}
        playing={playing && moment !== null}
        onSeek={() => {}}
        onPlay={play}
        onKey={onKey}
      />
      {marks.selection && (
        <SelectionBar
          lecture={lecture}
          take={take}
          recipe={take.tidyUp}
          marks={marks}
          selection={marks.selection}
          onLoop={() => void hearMarked()}
          loops={false}
          onRecipe={edit}
        />
      )}
    </div>
  )
}
