/** What can be done with a slide's pictures, and with slides that are only text; everything can be undone. */

import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import type { Lecture } from '#core/model/lecture.ts'
import type { Card, Slide } from '#core/model/slide.ts'
import { say } from '#core/words/say.ts'
import type { Command } from '#web/data/commands.ts'
import { sheetApi } from '#web/data/endpoints/sheet.ts'
import { arranged, useSlideEdits } from './use-slide-edits.ts'

export function usePictureActs(lecture: Lecture) {
  const navigate = useNavigate()
  const [addCard] = sheetApi.useAddCardMutation()
  const [givePicture] = sheetApi.useGivePictureMutation()
  const [drawCard] = sheetApi.useDrawCardMutation()
  const { number, perform, added, tell } = useSlideEdits(lecture)

  return {
    async addCard(afterSlideId: string | null, card: Card) {
      try {
        const { slideId } = await addCard({ id: lecture.id, afterSlideId, card }).unwrap()
        added(slideId, say('adding a text slide'))
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
          say('text of slide {number}', { number: number(slide) }),
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
        const { stepId } = await givePicture({ slideId: slide.id, file, insteadOf: slide.steps[step]!.id }).unwrap()
        const steps = slide.steps.map((s, i) => (i === step ? stepId : s.id))
        const uncard: Command[] = slide.card ? [{ kind: 'slide', id: slide.id, change: { card: null } }] : []
        const recard: Command[] = slide.card ? [{ kind: 'slide', id: slide.id, change: { card: slide.card } }] : []
        await perform(
          say('picture of slide {number}', { number: number(slide) }),
          [{ kind: 'steps', slides: [arranged(slide, steps)] }, ...uncard],
          [{ kind: 'steps', slides: [arranged(slide)] }, ...recard],
        )
        toast.success(say('The picture was replaced. Script, captions and sound are as they were.'))
      } catch (error) {
        tell(error)
      }
    },
  }
}
