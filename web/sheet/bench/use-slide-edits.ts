/** What acts on slides are made of: edits with their names, and what the server has made already. */
import { toast } from 'sonner'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { sentenceOf } from '#web/data/api.ts'
import type { Arranged, Command } from '#web/data/commands.ts'
import { editOrTell, noted } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'

export const arranged = (slide: Slide, steps: string[] = slide.steps.map((step) => step.id), deleted = false): Arranged => ({
  id: slide.id,
  steps,
  deleted,
})

export function useSlideEdits(lecture: Lecture) {
  const dispatch = useAppDispatch()
  const number = (slide: Slide) => lecture.slides.findIndex((s) => s.id === slide.id) + 1
  const perform = (label: string, forth: Command[], back: Command[]) =>
    dispatch(editOrTell({ lectureId: lecture.id, label, forth, back }))
  const deletion = (id: string, deleted: boolean): Command => ({ kind: 'slide-deleted', id, deleted })
  /** Something the server has made already, which undoing takes away and redoing brings back. */
  const added = (slideId: string, label: string) =>
    void dispatch(noted({ lectureId: lecture.id, label, forth: [deletion(slideId, false)], back: [deletion(slideId, true)] }))
  const tell = (error: unknown) => void toast.error(sentenceOf(error))
  return { number, perform, deletion, added, tell }
}
