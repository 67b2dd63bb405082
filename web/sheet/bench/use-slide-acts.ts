/** What can be done with a slide as a whole; everything can be undone. */

import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import type { Lecture } from '#core/model/lecture.ts'
import type { Card, Slide } from '#core/model/slide.ts'
import { sentenceOf } from '#web/data/api.ts'
import type { Arranged, Command } from '#web/data/commands.ts'
import { editOrTell, noted, undo } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { sheetApi } from '#web/sheet/sheet-api.ts'

const arranged = (slide: Slide, steps: string[] = slide.steps.map((step) => step.id), deleted = false): Arranged => ({
  id: slide.id,
  steps,
  deleted,
})

export function useSlideActs(lecture: Lecture) {
  const dispatch = useAppDispatch()
  const navigate = useNavigate()
  const [addCard] = sheetApi.useAddCardMutation()
  const [copySlide] = sheetApi.useCopySlideMutation()
  const [givePicture] = sheetApi.useGivePictureMutation()
  const [drawCard] = sheetApi.useDrawCardMutation()
  const number = (slide: Slide) => lecture.slides.findIndex((s) => s.id === slide.id) + 1
  const perform = (label: string, forth: Command[], back: Command[]) =>
    dispatch(editOrTell({ lectureId: lecture.id, label, forth, back }))
  const deletion = (id: string, deleted: boolean): Command => ({ kind: 'slide-deleted', id, deleted })
  /** Something the server has made already, which undoing takes away and redoing brings back. */
  const added = (slideId: string, label: string) =>
    void dispatch(noted({ lectureId: lecture.id, label, forth: [deletion(slideId, false)], back: [deletion(slideId, true)] }))
  const tell = (error: unknown) => void toast.error(sentenceOf(error), { duration: 12_000 })

  return {
    hide: (slide: Slide) =>
      perform(
        `${slide.hidden ? 'showing' : 'hiding'} slide ${number(slide)}`,
        [{ kind: 'slide', id: slide.id, change: { hidden: !slide.hidden } }],
        [{ kind: 'slide', id: slide.id, change: { hidden: slide.hidden } }],
      ),
    async remove(slide: Slide) {
      const n = number(slide)
      await perform(`deleting slide ${n}`, [deletion(slide.id, true)], [deletion(slide.id, false)])
      toast(`Slide ${n} was deleted; its takes are kept with it.`, {
        action: { label: 'Undo', onClick: () => void dispatch(undo()) },
      })
    },
    async copy(slide: Slide) {
      try {
        const { slideId } = await copySlide({ lectureId: lecture.id, slideId: slide.id }).unwrap()
        added(slideId, `copying slide ${number(slide)}`)
        toast(`Slide ${number(slide)} was copied, with its script; its recording stays with the original.`)
      } catch (error) {
        tell(error)
      }
    },
    async addCard(afterSlideId: string | null, card: Card) {
      try {
        const { slideId } = await addCard({ id: lecture.id, afterSlideId, card }).unwrap()
        added(slideId, 'adding a text slide')
        void navigate(`/lectures/${lecture.id}/slides/${slideId}`, { preventScrollReset: true })
      } catch (error) {
        tell(error)
      }
    },
    /** Writes a text slide anew. Its title and description follow while they are still those of the old text. */
    async changeCard(slide: Slide, card: Card) {
      const described = (c: Card) => [c.heading, c.line].filter(Boolean).join('. ')
      const before = slide.card!
      try {
        const { stepId } = await drawCard({ slideId: slide.id, card }).unwrap()
        const change = {
          card,
          ...(slide.title === before.heading ? { title: card.heading } : {}),
          ...(slide.altText === described(before) ? { altText: described(card) } : {}),
        }
        await perform(
          `text of slide ${number(slide)}`,
          [
            { kind: 'slide', id: slide.id, change },
            { kind: 'steps', slides: [arranged(slide, [stepId])] },
          ],
          [
            { kind: 'slide', id: slide.id, change: { card: before, title: slide.title, altText: slide.altText } },
            { kind: 'steps', slides: [arranged(slide)] },
          ],
        )
      } catch (error) {
        tell(error)
      }
    },
    /** Puts another picture in the place of one; captions, script and sound stay. */
    async replacePicture(slide: Slide, step: number, file: File) {
      try {
        const { stepId } = await givePicture({ slideId: slide.id, file }).unwrap()
        const steps = slide.steps.map((s, i) => (i === step ? stepId : s.id))
        const uncard: Command[] = slide.card ? [{ kind: 'slide', id: slide.id, change: { card: null } }] : []
        const recard: Command[] = slide.card ? [{ kind: 'slide', id: slide.id, change: { card: slide.card } }] : []
        await perform(
          `picture of slide ${number(slide)}`,
          [{ kind: 'steps', slides: [arranged(slide, steps)] }, ...uncard],
          [{ kind: 'steps', slides: [arranged(slide)] }, ...recard],
        )
        toast.success('The picture was replaced. Script, captions and sound are as they were.')
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
        `joining slides ${number(slide)} and ${number(slide) + 1}`,
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
          `separating the steps of slide ${number(slide)}`,
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
