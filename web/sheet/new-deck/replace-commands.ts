/** What is taken over of a new deck, as one edit that can be undone. */
import type { FoundReplacement } from '#core/deck/match/replace.ts'
import { outlastsPicture } from '#core/deck/warnings.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Message } from '#core/words/say.ts'
import type { Command } from '#web/data/commands.ts'

/** What of a new deck somebody wants. */
export interface Wanted {
  /** Slides that get their new picture and title. */
  changed: ReadonlySet<string>
  /** Pages that become slides. */
  added: ReadonlySet<number>
  /** Slides that are taken out. */
  removed: ReadonlySet<string>
  /** The slides in the order of the new deck. */
  reordered: boolean
}

/** What the server has made ready, not seen yet. */
export interface MadeReady {
  steps: { slideId: string; stepIds: string[] }[]
  /** Of the added pages, in their order. */
  slideIds: string[]
}

/** @returns the edit, and what takes it back */
export function replaceCommands(
  lecture: Pick<Lecture, 'slides'>,
  replaced: Pick<FoundReplacement, 'changed' | 'added' | 'order'> & {
    pages: Pick<FoundReplacement['pages'][number], 'warnings'>[]
  },
  { changed, added, removed, reordered }: Wanted,
  made: MadeReady,
): { forth: Command[]; back: Command[] } {
  const slideOf = (id: string) => lecture.slides.find((slide) => slide.id === id)
  const deletion = (ids: readonly string[], deleted: boolean) =>
    ids.map((id): Command => ({ kind: 'slide-deleted', id, deleted }))
  const pictures = (arranged: { id: string; steps: string[] }[]): Command[] =>
    arranged.length > 0 ? [{ kind: 'steps', slides: arranged.map((a) => ({ ...a, deleted: false })) }] : []
  const gone = [...removed]
  const retitled = replaced.changed.filter(({ slideId, newTitle }) => changed.has(slideId) && newTitle !== null)
  // what could not be drawn of the old pictures says nothing of the new ones
  const told = made.steps.flatMap(({ slideId }) => {
    const page = replaced.changed.find((one) => one.slideId === slideId)?.page
    const before = slideOf(slideId)?.warnings ?? []
    const now = [...before.filter(outlastsPicture), ...((page === undefined ? undefined : replaced.pages[page]?.warnings) ?? [])]
    if (before.length + now.length === 0) return []
    const command = (warnings: Message[]): Command => ({ kind: 'slide', id: slideId, change: { warnings } })
    return [{ forth: command(now), back: command(before) }]
  })
  const title = (id: string, text: string): Command => ({ kind: 'slide', id, change: { title: text } })
  // the new slides stand behind those that they come after
  const order = [...(replaced.order ?? [])]
  for (const [i, { afterSlideId }] of replaced.added
    .filter(({ page }) => added.has(page))
    .toReversed()
    .entries())
    order.splice(afterSlideId === null ? 0 : order.indexOf(afterSlideId) + 1, 0, made.slideIds.at(-1 - i)!)
  const inOrder = (ids: readonly string[]): Command[] => (reordered ? [{ kind: 'order', order: [...ids] }] : [])
  // as many pictures as before: each takes the moment of the one whose place it has
  const moments = made.steps.flatMap(({ slideId, stepIds }) => {
    const slide = slideOf(slideId)
    if (!slide || slide.steps.length !== stepIds.length) return []
    return slide.takes.flatMap(({ id: takeId, stepMoments }): { forth: Command; back: Command }[] => {
      const carried = slide.steps.flatMap((step, i) => (step.id in stepMoments ? [[stepIds[i]!, stepMoments[step.id]!]] : []))
      if (carried.length === 0) return []
      const command = (values: Record<string, number>): Command => ({ kind: 'step-moments', takeId, moments: values })
      return [{ forth: command({ ...stepMoments, ...Object.fromEntries(carried) }), back: command(stepMoments) }]
    })
  })
  return {
    forth: [
      ...pictures(made.steps.map(({ slideId, stepIds }) => ({ id: slideId, steps: stepIds }))),
      ...moments.map(({ forth }) => forth),
      ...told.map(({ forth }) => forth),
      ...retitled.map(({ slideId, newTitle }) => title(slideId, newTitle!)),
      ...deletion(made.slideIds, false),
      ...deletion(gone, true),
      ...inOrder(order.filter((id) => !removed.has(id))),
    ],
    back: [
      ...pictures(made.steps.map(({ slideId }) => ({ id: slideId, steps: slideOf(slideId)!.steps.map((s) => s.id) }))),
      ...moments.map(({ back }) => back),
      ...told.map(({ back }) => back),
      ...retitled.map(({ slideId }) => title(slideId, slideOf(slideId)!.title)),
      ...deletion(made.slideIds, true),
      ...deletion(gone, false),
      ...inOrder(lecture.slides.map((slide) => slide.id)),
    ],
  }
}
