/** Reads a new version of a lecture's deck and says what is other in it. Nothing changes before somebody has decided. */

import { randomUUID } from 'node:crypto'
import { compareDeck } from '#core/deck/match/replace.ts'
import { DeckProblem } from '#core/deck/problem.ts'
import { message } from '#core/words/say.ts'
import { replacements } from '#server/db/schema.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { JobDefinition } from '#server/queue/queue.ts'
import { pagesOf } from './import-deck.ts'
import { sortFiles } from './sort-files.ts'

export const replaceDeck: JobDefinition<'replace'>['run'] = async ({ lectureId, files }, context, report, signal) => {
  try {
    const sorted = await sortFiles(files, context, signal)
    if (sorted.bundle)
      throw new UserFacingError(
        message('“{name}” is a whole lecture. Drop it on the shelf: it becomes one of its own there.', {
          name: sorted.bundle.name,
        }),
        422,
      )
    const [sound] = sorted.sounds
    if (sound)
      throw new UserFacingError(
        message('“{name}” is a sound. Drop it by itself on the slide it is for, and the deck without it.', { name: sound.name }),
        422,
      )
    const [film] = sorted.films
    if (film)
      throw new UserFacingError(
        message('“{name}” is a film. Drop it by itself on the slide it is for, and the deck without it.', { name: film.name }),
        422,
      )
    const { pages } = await pagesOf(sorted, context, report, signal)
    const { slides } = await readLecture(context.db.read, lectureId)
    const id = randomUUID()
    const found = { pages, ...compareDeck(slides, pages) }
    await context.db.write((tx) => tx.insert(replacements).values({ id, lectureId, createdAt: Date.now(), found }))
    return { replacementId: id, unmatched: sorted.unused }
  } catch (error) {
    throw error instanceof DeckProblem ? new UserFacingError(error.said, 422) : error
  }
}
