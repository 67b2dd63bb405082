/** Analyses a sealed take, suggests a tidyUp if it has none, and renders the clip of its tidyUp. */

import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { and, eq, isNotNull, ne } from 'drizzle-orm'
import { cutSlips } from '#core/audio/tidy-up/edit.ts'
import { suggestTidyUp } from '#core/audio/tidy-up/suggest.ts'
import { TakeAnalysis } from '#core/model/take.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { packed } from '#core/words/packed.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import type { Tables } from '#server/db/database.ts'
import { clips, slides, takes, tidyUps } from '#server/db/schema.ts'
import { remakeScriptCues } from '#server/domain/captions/captions.ts'
import { clipKey } from '#server/domain/lectures/read.ts'
import { verifyAndDeleteJournal } from '#server/domain/takes/takes.ts'
import { asUserFacing } from '#server/errors/user-facing-error.ts'
import { decodeStored, decodeStoredToDisk, LONG, type Pcm } from '#server/media/pcm.ts'
import type { JobDefinition, Report } from '#server/queue/queue.ts'
import type { TidiedSound } from '#server/tasks/task.ts'
import { keepClip } from '#server/tasks/work.ts'

/** What is known of the same recording on another slide, or in another lecture: a take never changes, so it holds here as well. */
async function twinOf(db: Tables, takeId: string, sound: string) {
  const [twin] = await db
    .select({ analysis: takes.analysis, spectrogram: takes.spectrogram })
    .from(takes)
    .where(and(eq(takes.sound, sound), ne(takes.id, takeId), isNotNull(takes.analysis)))
    .limit(1)
  return { analysis: twin?.analysis ? TakeAnalysis.parse(twin.analysis) : null, spectrogram: twin?.spectrogram ?? null }
}

async function clipOf(db: Tables, sound: string, tidyUp: TidyUp) {
  const [clip] = await db
    .select()
    .from(clips)
    .where(eq(clips.key, clipKey(sound, tidyUp)))
  return clip ?? null
}

export const tidy: JobDefinition<'tidy'>['run'] = (input, context, report, signal) =>
  tidyTake(input, context, report, signal, async ({ slideId, isAnswer }, lectureId) => {
    if (isAnswer) await context.queue.add('read-answer', lectureId, input)
    else await context.queue.add('align', lectureId, { slideId })
  })

/** A take as the database knows it, and what is known of its sound; null where it has no sound. */
async function readTake(db: Tables, takeId: string) {
  const [row] = await db
    .select()
    .from(takes)
    .innerJoin(slides, eq(slides.id, takes.slideId))
    .leftJoin(tidyUps, eq(tidyUps.takeId, takes.id))
    .where(eq(takes.id, takeId))
  if (!row?.takes.sound) return null
  const { takes: take, slides: slide } = row
  const sound = row.takes.sound
  const marks = take.marks ?? []
  const twin = await twinOf(db, takeId, sound)
  // rows of an earlier version lack what was added since: the schema knows its usual value
  const analysis = take.analysis ? TakeAnalysis.parse(take.analysis) : twin.analysis
  /** What the person has asked for. */
  const asked = row.tidyUps ? TidyUp.parse(row.tidyUps.tidyUp) : null
  const tidyUp = asked ?? (analysis && cutSlips(suggestTidyUp(analysis, take.samples), marks))
  const clip = tidyUp && (await clipOf(db, sound, tidyUp))
  return { take, slide, sound, marks, analysis, asked, tidyUp, clip, spectrogram: take.spectrogram ?? twin.spectrogram }
}
type KnownTake = NonNullable<Awaited<ReturnType<typeof readTake>>>

/** Takes down what came of a take. @param tidied null where its clip was there already */
async function keepTidied(context: AppContext, known: KnownTake, tidied: TidiedSound | null) {
  const { take, slide, asked, tidyUp } = known
  const analysis = tidied?.analysis ?? known.analysis!
  const clip = tidied && {
    key: clipKey(known.sound, tidied.tidyUp),
    takeId: take.id,
    samples: tidied.samples,
    sound: tidied.clip,
    peaks: tidied.peaks,
    figures: tidied.figures,
    powers: tidied.powers,
  }
  await context.db.write(async (tx) => {
    const [row] = await tx.update(takes).set({ analysis, problem: null }).where(eq(takes.id, take.id)).returning()
    if (!asked)
      await tx
        .insert(tidyUps)
        .values({ takeId: take.id, tidyUp: tidied?.tidyUp ?? tidyUp! })
        .onConflictDoNothing()
    if (clip) await tx.insert(clips).values(clip).onConflictDoNothing()
    // what somebody else recorded is kept when the teacher wants it; what she made of such a take is hers to keep
    if (take.analysis !== null || (take.speaker !== null && take.chunks !== null)) return
    // a fresh take is kept when there is a voice in it, or nothing better; a recovered one is offered and not forced
    const [now] = await tx.select().from(slides).where(eq(slides.id, row!.slideId))
    const good = analysis.speech.length > 0 && !row!.recovered
    if (good || now!.keptTakeId === null) await tx.update(slides).set({ keptTakeId: take.id }).where(eq(slides.id, slide.id))
    await remakeScriptCues(tx, slide.id)
  })
  context.events.tell({ type: 'lecture', lectureId: slide.lectureId })
}

/** What was begun while a take was recorded came to nothing: it is tidied as any other. */
class NotReady extends Error {}

/** Tidies a take: what was tidied while it was recorded is only kept. */
async function makeClip(context: AppContext, known: KnownTake, report: Report, signal: AbortSignal): Promise<TidiedSound> {
  const { tasks, ahead } = context
  const { take, sound, marks, analysis, asked } = known
  const ready = ahead.finish(take.id, marks, signal)
  const whole = ready?.then((tidied) => {
    if (tidied) return tidied
    throw new NotReady()
  })
  const kept =
    whole &&
    (await keepClip(context, whole, signal, () => report(0.9, message('Keeping'))).catch((error) => {
      if (error instanceof NotReady) return null
      throw error
    }))
  return kept ?? tasks.run('tidy', { sound, samples: take.samples, analysis, tidyUp: asked, marks }, signal)
}

/** @param thenAlign is told of a take whose words can be sought */
export async function tidyTake(
  { takeId }: { takeId: string },
  context: AppContext,
  report: Report,
  signal: AbortSignal,
  thenAlign: (take: KnownTake['take'], lectureId: string) => Promise<void> = async () => {},
): Promise<undefined> {
  const { db, store, workers, ahead, events } = context
  const known = await readTake(db.read, takeId)
  if (!known) return
  const { take, sound } = known
  const { lectureId } = known.slide
  const isFresh = take.analysis === null
  if (known.clip && !isFresh && take.spectrogram) return
  const spillFolder = take.samples > LONG ? store.scratchPath('') : null
  try {
    report(0.1, message('Tidying'))
    if (spillFolder !== null) await mkdir(spillFolder)
    let samples: Pcm | null = null
    const decoded = async () => {
      samples ??= await (spillFolder === null
        ? decodeStored(context, sound)
        : decodeStoredToDisk(context, sound, join(spillFolder, 'recorded')))
      return samples
    }
    if (known.analysis || known.asked) ahead.drop(takeId)
    const made = known.clip ? null : await makeClip(context, known, report, signal)
    signal.throwIfAborted()
    await keepTidied(context, known, made)
    if (isFresh) await thenAlign(take, lectureId)
    if (take.spectrogram) return
    // the rest comes after what is waited for
    if (!(await verifyAndDeleteJournal(context, takeId, await decoded())))
      return await tidyTake({ takeId }, context, report, signal, thenAlign)
    report(0.95, message('Drawing'))
    const picture = known.spectrogram ?? (await store.put(await workers.spectrogram(await decoded(), signal)))
    await db.write((tx) => tx.update(takes).set({ spectrogram: picture }).where(eq(takes.id, takeId)))
  } catch (error) {
    if (!signal.aborted) {
      const why = asUserFacing(error).said
      const problem = packed(message('This take could not be tidied yet. {why}', { why }))
      await db.write((tx) => tx.update(takes).set({ problem }).where(eq(takes.id, takeId))).catch(() => {})
    }
    throw error
  } finally {
    // a thread that was ended may still write for a moment
    if (spillFolder !== null) await rm(spillFolder, { recursive: true, force: true, maxRetries: 5 })
    events.tell({ type: 'lecture', lectureId })
  }
}
