/** Takes over from a new version of a deck what somebody has decided to. Takes, scripts and captions stay where they are. */

import { eq } from 'drizzle-orm'
import { z } from 'zod'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import type { Tables } from '#server/db/database.ts'
import { replacements } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { insertHiddenSlide, insertPage } from './slides.ts'

export const ReplacementChoice = z.object({
  /** Slides that get their new picture. */
  changed: z.array(z.string()).max(1000),
  /** Pages that become slides. */
  added: z.array(z.number().int().nonnegative()).max(1000),
})

/** @throws UserFacingError (404) when it has waited for a month, or was found by a version before this one */
export async function readReplacement(db: Tables, id: string) {
  const [replacement] = await db.select().from(replacements).where(eq(replacements.id, id))
  if (!replacement) throw new UserFacingError(message('The new deck is not there any more. Drop it once more.'), 404)
  return replacement
}

/** Makes what is wanted ready, not seen yet: the edits that show it can be undone. */
export async function takeOver({ db }: AppContext, id: string, choice: z.infer<typeof ReplacementChoice>) {
  const { lectureId, found } = await readReplacement(db.read, id)
  const { pages, changed, added } = found
  const picturesOf = (page: number) => {
    const { picture, thumbnail, width, height, steps = [], films = [] } = pages[page]!
    return [{ picture, thumbnail, width, height, films }, ...steps]
  }
  const steps: { slideId: string; stepIds: string[] }[] = []
  for (const { slideId, page, hasNewPicture } of changed)
    if (hasNewPicture && choice.changed.includes(slideId)) {
      steps.push({ slideId, stepIds: await insertPage(db, slideId, picturesOf(page)) })
    }
  const slideIds: string[] = []
  const lastAfter = new Map<string | null, string>()
  for (const { page, afterSlideId } of added) {
    if (!choice.added.includes(page)) continue
    const { title, altText, isAltTextDraft = false, script = '', hidden = false, warnings = [], section = '' } = pages[page]!
    // several new pages in a row follow one another
    const after = lastAfter.get(afterSlideId) ?? afterSlideId
    const id = await insertHiddenSlide(
      db,
      lectureId,
      after,
      { title, altText, isAltTextDraft, script, hidden, warnings, section, timing: {} },
      picturesOf(page),
    )
    lastAfter.set(afterSlideId, id)
    slideIds.push(id)
  }
  return { lectureId, steps, slideIds }
}
