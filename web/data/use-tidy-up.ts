/** Changes of a take's recipe as edits that can be undone. */

import { useCallback } from 'react'
import { type RoomSettings, withRoomSettings } from '#core/audio/tidy-up/edit.ts'
import { suggestTidyUp } from '#core/audio/tidy-up/suggest.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Take } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { say } from '#core/words/say.ts'
import type { Command } from './commands.ts'
import { editOrTell } from './history.ts'
import { useAppDispatch } from './store.ts'

const command = (takeId: string, tidyUp: TidyUp): Command => ({ kind: 'tidyUp', takeId, tidyUp })

/** @returns a function that says whether anything is changed by it */
export function useTidyUp(lecture: Lecture, take: Take, slideNumber: number) {
  const dispatch = useAppDispatch()
  return useCallback(
    (next: TidyUp, label: string): boolean => {
      if (!take.tidyUp || JSON.stringify(next) === JSON.stringify(take.tidyUp)) return false
      void dispatch(
        editOrTell({
          lectureId: lecture.id,
          label: say('{label}, slide {slideNumber}', { label, slideNumber }),
          forth: [command(take.id, next)],
          back: [command(take.id, take.tidyUp)],
        }),
      )
      return true
    },
    [dispatch, lecture.id, take, slideNumber],
  )
}

export const suggested = (take: Take): TidyUp => suggestTidyUp(take.analysis ?? { speech: [] }, take.samples)

/** Gives every kept take of the lecture the same settings, in one step that can be undone. @returns how many takes change */
export function useSameForAll(lecture: Lecture): (settings: RoomSettings) => number {
  const dispatch = useAppDispatch()
  return (settings) => {
    const changed = lecture.slides.flatMap((slide) => {
      const take = keptTake(slide)
      if (!take?.tidyUp || !take.analysis) return []
      const next = withRoomSettings(take.tidyUp, settings, take.analysis)
      return JSON.stringify(next) === JSON.stringify(take.tidyUp) ? [] : [{ take, next, before: take.tidyUp }]
    })
    if (changed.length > 0)
      void dispatch(
        editOrTell({
          lectureId: lecture.id,
          label: say('the same tidying for all slides'),
          forth: changed.map(({ take, next }) => command(take.id, next)),
          back: changed.map(({ take, before }) => command(take.id, before)),
        }),
      )
    return changed.length
  }
}
