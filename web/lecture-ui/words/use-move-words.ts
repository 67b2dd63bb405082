/** Takes marked words to the slide before or after: their sound, their place in the script, and with it their captions. */

import { toast } from 'sonner'
import { cutOut } from '#core/audio/tidy-up/edit.ts'
import { cutOfItems } from '#core/captions/spoken/spoken-items.ts'
import { JOBS } from '#core/jobs/job.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import type { Take } from '#core/model/take.ts'
import { moveText } from '#core/script/edit/move-text.ts'
import { say } from '#core/words/say.ts'
import { sentenceOf } from '#web/data/api.ts'
import type { Command } from '#web/data/commands.ts'
import { lectureApi } from '#web/data/endpoints/lecture.ts'
import { editOrTell } from '#web/data/history.ts'
import { lectureNow } from '#web/data/lecture-now.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { useJobEnd } from '#web/data/use-job-end.ts'
import type { WordMarks } from './use-word-marks.ts'

export interface WayOut {
  slide: Slide
  /** From 1. */
  number: number
  at: 'start' | 'end'
}

/** Where words of a slide may go: after those of the slide before, and before those of the next. */
export function waysOut(lecture: Lecture, slideId: string): { before: WayOut | null; after: WayOut | null } {
  const i = lecture.slides.findIndex((slide) => slide.id === slideId)
  const way = (n: number, at: WayOut['at']): WayOut | null => {
    const slide = lecture.slides[n]
    return slide ? { slide, number: n + 1, at } : null
  }
  return { before: way(i - 1, 'end'), after: way(i + 1, 'start') }
}

export function useMoveWords(lecture: Lecture, take: Take, marks: WordMarks) {
  const dispatch = useAppDispatch()
  const [placeCuts] = lectureApi.usePlaceCutsMutation()
  const [moveWords] = lectureApi.useMoveWordsMutation()
  const whenEnded = useJobEnd()

  return async ({ slide: to, number, at }: WayOut) => {
    const { items, struck, marked } = marks
    if (!marked) return
    const goes = cutOfItems(items, struck, marked)
    if ('cut' in goes) return
    const text = items
      .slice(marked.first, marked.last + 1)
      .filter(({ kind }) => kind === 'script')
      .map((item) => item.text)
      .join(' ')
    try {
      const [placed] = await placeCuts({ takeId: take.id, cuts: [goes.words] }).unwrap()
      const job = await moveWords({ takeId: take.id, cut: placed!.cut, slideId: to.id, at }).unwrap()
      whenEnded(job, ({ result }) => {
        const now = lectureNow(lecture.id)
        const [own, other] = [take.slideId, to.id].map((id) => now?.slides.find((slide) => slide.id === id))
        const recipe = own?.takes.find(({ id }) => id === take.id)?.tidyUp
        if (!own || !other || !recipe) return
        const { takeId } = JOBS['move-words'].result.parse(result)
        const scripts = moveText(own.script, other.script, text, at)
        const script = (slide: Slide, words: string): Command[] =>
          words === slide.script ? [] : [{ kind: 'slide', id: slide.id, change: { script: words } }]
        void dispatch(
          editOrTell({
            lectureId: lecture.id,
            label: say('moving words to slide {number}', { number }),
            forth: [
              { kind: 'tidyUp', takeId: take.id, tidyUp: cutOut(recipe, placed!.cut) },
              { kind: 'slide', id: other.id, change: { keptTakeId: takeId } },
              ...(scripts ? [...script(own, scripts.from), ...script(other, scripts.to)] : []),
            ],
            back: [
              ...(scripts
                ? ([
                    { kind: 'slide', id: other.id, change: { script: other.script } },
                    { kind: 'slide', id: own.id, change: { script: own.script } },
                  ] satisfies Command[])
                : []),
              { kind: 'slide', id: other.id, change: { keptTakeId: to.keptTakeId } },
              { kind: 'tidyUp', takeId: take.id, tidyUp: recipe },
            ],
          }),
        )
        if (text !== '' && !scripts)
          toast(say('The words are on slide {number}. The scripts stay as they are: change them by hand.', { number }))
        else toast.success(say('The words are on slide {number}. Both takes stay whole.', { number }))
      })
    } catch (error) {
      toast.error(sentenceOf(error))
    }
  }
}
