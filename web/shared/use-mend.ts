/** Makes the one-press mend of a finding an edit that can be undone. */
import { useCallback } from 'react'
import type { Check } from '#core/edition/checks.ts'
import type { Lecture } from '#core/lecture.ts'
import type { Command } from '#web/shared/edits/commands.ts'
import { editOrTell } from '#web/shared/edits/history.ts'
import { useAppDispatch } from '#web/shared/store.ts'

export function useMend(lecture: Lecture): (check: Check) => void {
  const dispatch = useAppDispatch()
  // the same function as long as the lecture is the same: rows that are far from an edit are not drawn again
  return useCallback(
    ({ mend, finding }) => {
      if (!mend) return
      const forth: Command[] = []
      const back: Command[] = []
      const slide = lecture.slides.find((s) => s.id === mend.slide?.id)
      if (mend.slide && slide) {
        const { id, change } = mend.slide
        forth.push({ kind: 'slide', id, change })
        back.push({ kind: 'slide', id, change: { altText: slide.altText, timing: slide.timing } })
      }
      const takes = new Map(lecture.slides.flatMap((s) => s.takes.map((take) => [take.id, take])))
      for (const { takeId, tidyUp } of mend.tidyUps ?? []) {
        const before = takes.get(takeId)?.tidyUp
        if (!before) continue
        forth.push({ kind: 'tidyUp', takeId, tidyUp })
        back.push({ kind: 'tidyUp', takeId, tidyUp: before })
      }
      if (forth.length > 0) void dispatch(editOrTell({ lectureId: lecture.id, label: `mending “${finding}”`, forth, back }))
    },
    [dispatch, lecture],
  )
}
