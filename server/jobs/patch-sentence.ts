/** A sentence of a take, said again and put into its place: a new take, since takes never change. */

import { eq } from 'drizzle-orm'
import { patchTake, sentenceStretch } from '#core/audio/render/splice.ts'
import { fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import { footageAfter, marksAfter, momentAfter, tidyUpAfter } from '#core/audio/tidy-up/after-replacing.ts'
import { finalUtterance } from '#core/captions/align/align.ts'
import { footageWithin } from '#core/model/moving/footage.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { TakeAnalysis } from '#core/model/take.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { message } from '#core/words/say.ts'
import type { KeptAlignment } from '#server/db/kept.ts'
import { takes, tidyUps } from '#server/db/schema.ts'
import { keepWholeTake } from '#server/domain/takes/takes.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { decodeStored } from '#server/media/pcm.ts'
import type { JobDefinition } from '#server/queue/queue.ts'
import { tidyTake } from './tidy-take.ts'

/** Where the words are heard: captions come a little before them and stay a little after. */
function wordsOf(kept: KeptAlignment | null, text: string, captions: SampleRange): SampleRange {
  const spans = (kept?.alignment.sentences ?? [])
    .filter((sentence) => text.includes(sentence.text))
    .flatMap((sentence) => finalUtterance(sentence) ?? [])
    .map((span) => ({ start: toSamples(span.start), end: toSamples(span.end) }))
    .filter((span) => span.end > captions.start && span.start < captions.end)
  if (spans.length === 0) return captions
  return { start: Math.min(...spans.map((s) => s.start)), end: Math.max(...spans.map((s) => s.end)) }
}

export const patchSentence: JobDefinition<'patch-sentence'>['run'] = async (
  { id, takeId, againTakeId, text, start, end },
  context,
  report,
  signal,
) => {
  const read = async (which: string) => {
    const [row] = await context.db.read.select().from(takes).where(eq(takes.id, which))
    if (!row?.sound || !row.analysis)
      throw new UserFacingError(message('This take is not here any more. Record the whole slide again.'), 404)
    const samples = fromInt16(await decodeStored(context, row.sound))
    return { row, samples, speech: TakeAnalysis.parse(row.analysis).speech }
  }
  report(0.1, message('Listening'))
  // it may still be in the queue
  await tidyTake({ takeId: againTakeId }, context, () => {}, signal)
  const take = await read(takeId)
  const again = await read(againTakeId)
  if (again.speech.length === 0) throw new UserFacingError(message('No voice was heard. Say the sentence again.'), 422)
  report(0.6, message('Putting it in its place'))
  const words = wordsOf(take.row.alignment, text, { start, end })
  const stretch = sentenceStretch(words, take.speech, take.samples.length)
  const { samples, placed, from } = patchTake(take, again, stretch)
  const { slideId, microphone, marks, bookmarks, stepMoments } = take.row
  const replaced = { stretch, length: placed.end - placed.start }
  const own = footageWithin(again.row.footage ?? [], { start: from, end: from + replaced.length })
  const [recipe] = await context.db.read.select().from(tidyUps).where(eq(tidyUps.takeId, takeId))
  const made = await keepWholeTake(context, context.queue, {
    id,
    slideId,
    pcm: toInt16(samples),
    microphone: `${microphone}, a sentence said again`,
    // what was decided about the rest of the take stays
    ...(recipe ? { tidyUp: tidyUpAfter(replaced, TidyUp.parse(recipe.tidyUp)) } : {}),
    marks: marksAfter(replaced, marks ?? []),
    footage: footageAfter(replaced, take.row.footage ?? [], own),
    voice: take.row,
  })
  const moved = (at: number) => toSeconds(momentAfter(replaced, toSamples(at)))
  await context.db.write((tx) =>
    tx
      .update(takes)
      .set({
        bookmarks: (bookmarks ?? []).map((mark) => ({ ...mark, at: moved(mark.at) })),
        stepMoments: Object.fromEntries(Object.entries(stepMoments ?? {}).map(([step, at]) => [step, moved(at)])),
      })
      .where(eq(takes.id, id)),
  )
  return made
}
