/** Takes over from a new version of a deck what somebody has decided to. Takes, scripts and captions stay where they are. */
import { eq } from 'drizzle-orm'
import { z } from 'zod'
import type { Replacement } from '#core/deck/replace.ts'
import type { AppContext } from '#server/context/context.ts'
import { jobs } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { ImportedPage } from '#server/import/tasks.ts'
import { insertHiddenSlide, insertHiddenStep } from './slides.ts'

export interface Replaced extends Replacement {
  lectureId: string
  pages: ImportedPage[]
}

export const ReplacementChoice = z.object({
  /** Slides that get their new picture. */
  changed: z.array(z.string()).max(1000),
  /** Pages that become slides. */
  added: z.array(z.number().int().nonnegative()).max(1000),
})

/** Makes what is wanted ready, not seen yet: the edits that show it can be undone. */
export async function takeOver({ db }: AppContext, jobId: string, choice: z.infer<typeof ReplacementChoice>) {
  const [job] = await db.read.select().from(jobs).where(eq(jobs.id, jobId))
  if (job?.kind !== 'replace' || job.state !== 'done')
    throw new UserFacingError('The new deck is not there any more. Drop it once more.', 404)
  const { lectureId, pages, changed, added } = job.result as Replaced
  const pictureOf = (page: number) => {
    const { picture, thumbnail, width, height } = pages[page]!
    return { picture, thumbnail, width, height }
  }
  const steps: { slideId: string; stepId: string }[] = []
  for (const { slideId, page, hasNewPicture } of changed)
    if (hasNewPicture && choice.changed.includes(slideId))
      steps.push({ slideId, stepId: await insertHiddenStep(db, slideId, pictureOf(page)) })
  const slideIds: string[] = []
  const lastAfter = new Map<string | null, string>()
  for (const { page, afterSlideId } of added) {
    if (!choice.added.includes(page)) continue
    const { title, altText, script = '', hidden = false, warnings = [], section = '' } = pages[page]!
    // several new pages in a row follow one another
    const after = lastAfter.get(afterSlideId) ?? afterSlideId
    const id = await insertHiddenSlide(
      db,
      lectureId,
      after,
      { title, altText, script, hidden, warnings, section, timing: {} },
      pictureOf(page),
    )
    lastAfter.set(afterSlideId, id)
    slideIds.push(id)
  }
  return { lectureId, steps, slideIds }
}
