/** Reads a new version of a lecture's deck and says what is other in it. Nothing changes before somebody has decided. */

import { DeckProblem } from '#core/deck/problem.ts'
import { compareDeck } from '#core/deck/replace.ts'
import type { Tools } from '#server/context/tools.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import type { Replaced } from '#server/domain/lectures/replace.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { Report } from '#server/queue/queue.ts'
import { type ImportInput, pagesOf, sortFiles } from './import-deck.ts'

export async function replaceDeck(
  { lectureId, files }: Pick<ImportInput, 'lectureId' | 'files'>,
  tools: Tools,
  report: Report,
  signal: AbortSignal,
): Promise<Replaced> {
  try {
    const sorted = await sortFiles(files, tools, signal)
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
    const { pages } = await pagesOf(sorted, tools, report, signal)
    const { slides } = await readLecture(tools.db.read, lectureId)
    return { lectureId, pages, ...compareDeck(slides, pages) }
  } catch (error) {
    throw error instanceof DeckProblem ? new UserFacingError(error.message, 422) : error
  }
}
