/** Makes the one-press fix of a finding an edit that can be undone. */

import { useCallback } from 'react'
import type { Check } from '#core/edition/checks/check.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { FilmSettings } from '#core/model/moving/film.ts'
import { say } from '#core/words/say.ts'
import type { Command } from './commands.ts'
import { editOrTell } from './history.ts'
import { useAppDispatch } from './store.ts'

export function useFix(lecture: Lecture): (check: Check) => void {
  const dispatch = useAppDispatch()
  // the same function as long as the lecture is the same: rows that are far from an edit are not drawn again
  return useCallback(
    ({ fix, finding }) => {
      if (!fix) return
      const forth: Command[] = []
      const back: Command[] = []
      const slide = lecture.slides.find((s) => s.id === fix.slide?.id)
      if (fix.slide && slide) {
        const { id, change } = fix.slide
        const { altText, isAltTextDraft, timing, warnings } = slide
        forth.push({ kind: 'slide', id, change })
        back.push({ kind: 'slide', id, change: { altText, isAltTextDraft, timing, warnings } })
      }
      const film = lecture.slides.flatMap((s) => s.steps.flatMap((step) => step.films)).find((one) => one.id === fix.film?.id)
      if (fix.film && film) {
        const { id, change } = fix.film
        const before = Object.fromEntries(Object.keys(change).map((key) => [key, film[key as keyof FilmSettings]]))
        forth.push({ kind: 'film', id, change })
        back.push({ kind: 'film', id, change: before as Partial<FilmSettings> })
      }
      const takes = new Map(lecture.slides.flatMap((s) => s.takes.map((take) => [take.id, take])))
      for (const { takeId, tidyUp } of fix.tidyUps ?? []) {
        const before = takes.get(takeId)?.tidyUp
        if (!before) continue
        forth.push({ kind: 'tidyUp', takeId, tidyUp })
        back.push({ kind: 'tidyUp', takeId, tidyUp: before })
      }
      const into = lecture.slides.find((s) => s.id === fix.join?.into)
      if (fix.join && into) {
        const from = fix.join.from.flatMap((id) => lecture.slides.find((s) => s.id === id) ?? [])
        const stepsOf = (s: (typeof from)[number]) => s.steps.map((step) => step.id)
        const all = [into, ...from]
        const script = all
          .map((s) => s.script.trim())
          .filter(Boolean)
          .join('\n\n')
        forth.push(
          {
            kind: 'steps',
            slides: [
              { id: into.id, steps: all.flatMap(stepsOf), deleted: false },
              ...from.map((s) => ({ id: s.id, steps: [], deleted: true })),
            ],
          },
          { kind: 'slide', id: into.id, change: { script } },
        )
        back.push(
          { kind: 'steps', slides: all.map((s) => ({ id: s.id, steps: stepsOf(s), deleted: false })) },
          { kind: 'slide', id: into.id, change: { script: into.script } },
        )
      }
      if (forth.length > 0)
        void dispatch(editOrTell({ lectureId: lecture.id, label: say('mending “{finding}”', { finding }), forth, back }))
    },
    [dispatch, lecture],
  )
}
