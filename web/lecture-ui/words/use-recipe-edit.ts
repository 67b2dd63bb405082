/** Edits of a take's recipe by hand, which are said aloud when they are done. */

import { limitPauses } from '#core/audio/tidy-up/edit.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Take } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { say } from '#core/words/say.ts'
import { announce } from '#web/components/announcer.tsx'
import { useTidyUp } from '#web/data/use-tidy-up.ts'

/** @returns a function that makes a recipe the take's own; pauses are limited anew where their limit is another */
export function useRecipeEdit(lecture: Lecture, take: Take & { tidyUp: TidyUp }, slideNumber: number) {
  const change = useTidyUp(lecture, take, slideNumber)
  return (next: TidyUp, label: string) => {
    const isChanged = change(
      next.longestPauseSeconds === take.tidyUp.longestPauseSeconds
        ? next
        : limitPauses(next, take.analysis ?? { speech: [] }, next.longestPauseSeconds),
      label,
    )
    if (isChanged) announce(say('Done: {what}', { what: label }))
  }
}
