/** What can be done with a slide as a whole; everything can be undone. */

import { toast } from 'sonner'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { say } from '#core/words/say.ts'
import type { Command } from '#web/data/commands.ts'
import { sheetApi } from '#web/data/endpoints/sheet.ts'
import { undo } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { arranged, useSlideEdits } from './use-slide-edits.ts'

export function useSlideActs(lecture: Lecture) {
  const dispatch = useAppDispatch()
  const [copySlide] = sheetApi.useCopySlideMutation()
  const { number, perform, added, deletion, tell } = useSlideEdits(lecture)

  return {
    hide: (slide: Slide) =>
      perform(
        say(slide.hidden ? 'showing slide {number}' : 'hiding slide {number}', { number: number(slide) }),
        [{ kind: 'slide', id: slide.id, change: { hidden: !slide.hidden } }],
        [{ kind: 'slide', id: slide.id, change: { hidden: slide.hidden } }],
      ),
    async remove(slide: Slide) {
      const n = number(slide)
      await perform(say('deleting slide {number}', { number: n }), [deletion(slide.id, true)], [deletion(slide.id, false)])
      toast(say('Slide {number} was deleted; its takes are kept with it.', { number: n }), {
        action: { label: say('Undo'), onClick: () => void dispatch(undo()) },
      })
    },
    async copy(slide: Slide) {
      try {
        const { slideId } = await copySlide({ lectureId: lecture.id, slideId: slide.id }).unwrap()
        added(slideId, say('copying slide {number}', { number: number(slide) }))
        toast(
          say('Slide {number} was copied, with its script; its recording stays with the original.', { number: number(slide) }),
        )
      } catch (error) {
        tell(error)
      }
    },
    /** Makes the pictures of the next slide further steps of this one; its script goes below this one's. */
    join(slide: Slide) {
      const next = lecture.slides[number(slide)]
      if (!next) return
      const script = [slide.script, next.script].filter((text) => text.trim() !== '').join('\n\n')
      const steps = [...slide.steps, ...next.steps].map((step) => step.id)
      void perform(
        say('joining slides {number} and {next}', { number: number(slide), next: number(slide) + 1 }),
        [
          { kind: 'steps', slides: [arranged(slide, steps), arranged(next, [], true)] },
          { kind: 'slide', id: slide.id, change: { script } },
        ],
        [
          { kind: 'steps', slides: [arranged(slide), arranged(next)] },
          { kind: 'slide', id: slide.id, change: { script: slide.script } },
        ],
      )
    },
    /** Makes a slide of every step again: copies that have one picture each. */
    async separate(slide: Slide) {
      try {
        const made: string[] = []
        for (let i = slide.steps.length - 1; i > 0; i--)
          made.unshift((await copySlide({ lectureId: lecture.id, slideId: slide.id }).unwrap()).slideId)
        await perform(
          say('separating the steps of slide {number}', { number: number(slide) }),
          [
            {
              kind: 'steps',
              slides: [
                arranged(slide, [slide.steps[0]!.id]),
                ...made.map((id, i) => ({ id, steps: [slide.steps[i + 1]!.id], deleted: false })),
              ],
            },
            ...made.map((id): Command => ({ kind: 'slide', id, change: { script: '' } })),
          ],
          [{ kind: 'steps', slides: [arranged(slide), ...made.map((id) => ({ id, steps: [], deleted: true }))] }],
        )
      } catch (error) {
        tell(error)
      }
    },
  }
}
