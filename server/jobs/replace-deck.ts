/** Reads a new version of a lecture's deck and says what is other in it. Nothing changes before somebody has decided. */

import { DeckProblem } from '#core/deck/problem.ts'
import { compareDeck } from '#core/deck/replace.ts'
import type { AppContext } from '#server/context/context.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import type { Replaced } from '#server/domain/lectures/replace.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { Report } from '#server/queue/queue.ts'
import { type ImportInput, pagesOf, sortFiles } from './import-deck.ts'

export async function replaceDeck(
  { lectureId, files }: Pick<ImportInput, 'lectureId' | 'files'>,
  context: AppContext,
  report: Report,
  signal: AbortSignal,
): Promise<Replaced> {
  try {
    const sorted = await sortFiles(files, context, signal)
    if (sorted.bundle)
      throw new UserFacingError(
        `“${sorted.bundle.name}” is a whole lecture. Drop it on the shelf: it becomes one of its own there.`,
        422,
      )
    const [sound] = sorted.sounds
    if (sound)
      throw new UserFacingError(
        `“${sound.name}” is a sound. Drop it by itself on the slide it is for, and the deck without it.`,
        422,
      )
    const { pages } = await pagesOf(sorted, context, report, signal)
    const { slides } = await readLecture(context.db.read, lectureId)
    return { lectureId, pages, ...compareDeck(slides, pages) }
  } catch (error) {
    throw error instanceof DeckProblem ? new UserFacingError(error.message, 422) : error
  }
}
