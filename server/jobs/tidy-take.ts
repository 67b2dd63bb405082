/** Analyses a sealed take, suggests a tidyUp if it has none, and renders the clip of its tidyUp. */
import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { and, eq, isNotNull, ne } from 'drizzle-orm'
import { cutSlips } from '#core/audio/tidy-up/edit.ts'
import { suggestTidyUp } from '#core/audio/tidy-up/suggest.ts'
import { TakeAnalysis } from '#core/model/take.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import type { AppContext } from '#server/context/context.ts'
import type { Tables } from '#server/db/database.ts'
import { clips, slides, takes, tidyUps } from '#server/db/schema.ts'
import { remakeScriptCues } from '#server/domain/captions/captions.ts'
import { clipKey } from '#server/domain/lectures/read.ts'
import { verifyAndDeleteJournal } from '#server/domain/takes/takes.ts'
import { asUserFacing } from '#server/errors/user-facing-error.ts'
import { bytesLater, decodeStored, decodeStoredToDisk, LONG, type Pcm } from '#server/media/pcm.ts'
import { bytesOf, encodeFlac } from '#server/media/sound-files.ts'
import type { JobDefinition, Report } from '#server/queue/queue.ts'

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
  tidyTake(input, context, report, signal, async (slideId, lectureId) => {
    await context.queue.add('align', lectureId, { slideId })
  })

/** @param thenAlign is told which slide has a take that its captions can be timed by */
export async function tidyTake(
  { takeId }: { takeId: string },
  context: AppContext,
  report: Report,
  signal: AbortSignal,
  thenAlign: (slideId: string, lectureId: string) => Promise<void> = async () => {},
): Promise<undefined> {
  const { db, store, media, workers, ahead, events } = context
  const [row] = await db.read
    .select()
    .from(takes)
    .innerJoin(slides, eq(slides.id, takes.slideId))
    .leftJoin(tidyUps, eq(tidyUps.takeId, takes.id))
    .where(eq(takes.id, takeId))
  if (!row?.takes.sound) return
  const { sound } = row.takes
  const { lectureId } = row.slides
  const marks = row.takes.marks ?? []
  const isFresh = row.takes.analysis === null
  const twin = await twinOf(db.read, takeId, sound)
  // rows of an earlier version lack what was added since: the schema knows its usual value
  const analysis = row.takes.analysis ? TakeAnalysis.parse(row.takes.analysis) : twin.analysis
  const spectrogram = row.takes.spectrogram ?? twin.spectrogram
  const known = row.tidyUps ? TidyUp.parse(row.tidyUps.tidyUp) : null
  const tidyUp = known ?? (analysis && cutSlips(suggestTidyUp(analysis, row.takes.samples), marks))
  const clip = tidyUp && (await clipOf(db.read, sound, tidyUp))
  if (clip && !isFresh && row.takes.spectrogram) return
  const spillFolder = row.takes.samples > LONG ? store.scratchPath('') : null
  try {
    report(0.1, 'Tidying')
    if (spillFolder !== null) await mkdir(spillFolder)
    let samples: Pcm | null = null
    const decoded = async () => {
      samples ??= await (spillFolder === null
        ? decodeStored(context, sound)
        : decodeStoredToDisk(context, sound, join(spillFolder, 'recorded')))
      return samples
    }
    if (analysis || known) ahead.drop(takeId)
    const tidying = async () =>
      (await ahead.finish(takeId, marks, signal)) ??
      (await workers.tidy({ samples: await decoded(), analysis, tidyUp: known, marks, spillFolder }, signal))
    const begun = clip ? null : tidying()
    const encoding = begun && encodeFlac(media, store, bytesLater(begun.then((made) => made.clip)))
    // one cannot go on without the other: what is wrong is told by the first
    encoding?.catch(() => {})
    const tidied = await begun
    signal.throwIfAborted()
    report(0.9, 'Keeping')
    const measured = tidied && (await workers.measure(tidied, signal))
    const rendered = measured && {
      key: clipKey(sound, tidied.tidyUp),
      takeId,
      samples: tidied.clip.length,
      sound: await encoding!,
      peaks: await store.put(bytesOf(measured.peaks)),
      figures: measured.figures,
      powers: measured.powers,
    }
    const found = tidied?.analysis ?? analysis!
    await db.write(async (tx) => {
      const [take] = await tx.update(takes).set({ analysis: found, problem: null }).where(eq(takes.id, takeId)).returning()
      if (!known)
        await tx
          .insert(tidyUps)
          .values({ takeId, tidyUp: tidied?.tidyUp ?? tidyUp! })
          .onConflictDoNothing()
      if (rendered) await tx.insert(clips).values(rendered).onConflictDoNothing()
      if (!isFresh) return
      // a fresh take is kept when there is a voice in it, or nothing better; a recovered one is offered and not forced
      const [slide] = await tx.select().from(slides).where(eq(slides.id, take!.slideId))
      const good = found.speech.length > 0 && !take!.recovered
      if (good || slide!.keptTakeId === null) await tx.update(slides).set({ keptTakeId: takeId }).where(eq(slides.id, slide!.id))
      await remakeScriptCues(tx, slide!.id)
    })
    events.tell({ type: 'lecture', lectureId })
    if (isFresh) await thenAlign(row.slides.id, lectureId)
    if (row.takes.spectrogram) return
    // the rest comes after what is waited for
    if (!(await verifyAndDeleteJournal(context, takeId, await decoded())))
      return await tidyTake({ takeId }, context, report, signal, thenAlign)
    report(0.95, 'Drawing')
    const picture = spectrogram ?? (await store.put(await workers.spectrogram(await decoded(), signal)))
    await db.write((tx) => tx.update(takes).set({ spectrogram: picture }).where(eq(takes.id, takeId)))
  } catch (error) {
    if (!signal.aborted) {
      const problem = `This take could not be tidied yet. ${asUserFacing(error).message}`
      await db.write((tx) => tx.update(takes).set({ problem }).where(eq(takes.id, takeId))).catch(() => {})
    }
    throw error
  } finally {
    // a thread that was ended may still write for a moment
    if (spillFolder !== null) await rm(spillFolder, { recursive: true, force: true, maxRetries: 5 })
    events.tell({ type: 'lecture', lectureId })
  }
}
