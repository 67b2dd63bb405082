/** What was said beside the script can be typed where it was said, and goes into the script there. */

import { toast } from 'sonner'
import type { SpokenItem } from '#core/captions/spoken/spoken-items.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Take } from '#core/model/take.ts'
import { insertSaid } from '#core/script/edit/insert-said.ts'
import { textOf } from '#core/script/points.ts'
import { say } from '#core/words/say.ts'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import type { WordMarks } from './use-word-marks.ts'

/** The sentence that is heard last before an item; null when there is none. */
function sentenceBefore(items: readonly SpokenItem[], at: number): string | null {
  const last = items.findLastIndex((item, i) => i < at && item.kind === 'script')
  if (last < 0) return null
  const { utterance } = items[last]!
  return items.flatMap((item) => (item.kind === 'script' && item.utterance === utterance ? [item.text] : [])).join(' ')
}

/** @returns what takes the typed words; null where no words are missing: what is marked is known, or there is no script */
export function useSaidInGap(lecture: Lecture, take: Take, { items, marked }: WordMarks): ((said: string) => void) | null {
  const dispatch = useAppDispatch()
  const slide = lecture.slides.find(({ id }) => id === take.slideId)
  const isGap = marked !== null && items.slice(marked.first, marked.last + 1).every(({ kind }) => kind === 'unknown')
  if (!slide || !isGap || textOf(slide.script).trim() === '') return null
  return (said) => {
    const script = insertSaid(slide.script, sentenceBefore(items, marked.first), said)
    if (script === null) {
      toast.error(say('The script is another by now. Look at it on the sheet, and write what was said there.'))
      return
    }
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('what was said, in the script of slide {number}', { number: lecture.slides.indexOf(slide) + 1 }),
        forth: [{ kind: 'slide', id: slide.id, change: { script } }],
        back: [{ kind: 'slide', id: slide.id, change: { script: slide.script } }],
      }),
    )
  }
}
