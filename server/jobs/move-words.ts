/** Words of a take laid before or after those of another slide: a new take there, since takes never change. */

import { and, eq, isNull } from 'drizzle-orm'
import { addWords } from '#core/audio/render/add-words.ts'
import type { Mark } from '#core/model/marks.ts'
import { footageLater, footageWithin } from '#core/model/moving/footage.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { message } from '#core/words/say.ts'
import { slides, takes, tidyUps } from '#server/db/schema.ts'
import { isShownTake } from '#server/db/shown.ts'
import { keepWholeTake, readTakeSamples } from '#server/domain/takes/takes.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { decodeStored } from '#server/media/pcm.ts'
import type { JobDefinition } from '#server/queue/queue.ts'

/** Samples of both together. */
const LONGEST = toSamples(3600)

/** Keys that were pressed while it was recorded stay where they were pressed. @param shift samples */
const marksLater = (marks: readonly Mark[], shift: number): Mark[] =>
  marks.map((mark) => ({ ...mark, at: mark.at + shift, ...('from' in mark ? { from: mark.from + shift } : {}) }))

export const moveWords: JobDefinition<'move-words'>['run'] = async ({ id, takeId, slideId, at, cut }, context, report) => {
  const { db, queue } = context
  const [from] = await db.read.select().from(takes).where(eq(takes.id, takeId))
  if (!from?.sound || cut.end > from.samples)
    throw new UserFacingError(message('This take is not here any more. It may have been deleted in another window.'), 404)
  report(0.1, message('Listening'))
  const [own] = await db.read
    .select()
    .from(slides)
    .innerJoin(takes, eq(takes.id, slides.keptTakeId))
    .innerJoin(tidyUps, eq(tidyUps.takeId, takes.id))
    .where(eq(slides.id, slideId))
  if (!own && (await db.read.$count(takes, and(eq(takes.slideId, slideId), isNull(takes.analysis), isShownTake))) > 0)
    throw new UserFacingError(message('What was recorded there is still being tidied. Move the words in a moment.'), 409)
  // both are put together in memory
  if (cut.end - cut.start + (own?.takes.samples ?? 0) > LONGEST)
    throw new UserFacingError(
      message('Together they would be longer than an hour. Divide the recording instead, or move fewer words.'),
      422,
    )
  const words = await readTakeSamples(context, takeId, cut.start, cut.end)
  const moved = footageWithin(from.footage ?? [], cut)
  // what learners are led to in these words goes with them
  const bookmarksAt = (begin: number) =>
    (from.bookmarks ?? [])
      .filter((mark) => toSamples(mark.at) >= cut.start && toSamples(mark.at) < cut.end)
      .map((mark) => ({ ...mark, at: mark.at - toSeconds(cut.start) + toSeconds(begin) }))
  // a slide that nobody has spoken to begins with them
  if (!own?.takes.sound) {
    const alone = await keepWholeTake(context, queue, {
      id,
      slideId,
      pcm: words,
      microphone: from.microphone,
      footage: moved,
      voice: from,
    })
    await db.write((tx) =>
      tx
        .update(takes)
        .set({ bookmarks: bookmarksAt(0) })
        .where(eq(takes.id, id)),
    )
    return alone
  }
  const take = { samples: await decodeStored(context, own.takes.sound), tidyUp: TidyUp.parse(own.tidyUps.tidyUp) }
  report(0.5, message('Putting the words in their place'))
  const { samples, tidyUp, shift } = addWords(take, words, at)
  const seconds = toSeconds(shift)
  const made = await keepWholeTake(context, queue, {
    id,
    slideId,
    pcm: samples,
    microphone: own.takes.microphone,
    // of two voices that of a guest is the one that may be taken back
    voice: own.takes.voiceId === null ? from : own.takes,
    tidyUp,
    footage: [
      ...footageLater(own.takes.footage ?? [], shift),
      ...footageLater(moved, at === 'start' ? 0 : take.samples.length),
    ].sort((a, b) => a.start - b.start),
    marks: marksLater(own.takes.marks ?? [], shift),
  })
  await db.write((tx) =>
    tx
      .update(takes)
      .set({
        bookmarks: [
          ...(own.takes.bookmarks ?? []).map((mark) => ({ ...mark, at: mark.at + seconds })),
          ...bookmarksAt(at === 'start' ? 0 : take.samples.length),
        ].sort((a, b) => a.at - b.at),
        stepMoments: Object.fromEntries(
          Object.entries(own.takes.stepMoments ?? {}).map(([step, when]) => [step, when + seconds]),
        ),
      })
      .where(eq(takes.id, id)),
  )
  return made
}
