/** Analyses a sealed take, suggests a tidyUp if it has none, and renders the clip of its recipe. */
import { eq } from 'drizzle-orm'
import { TakeAnalysis, TidyUp } from '#core/lecture.ts'
import { clips, slides, takes, tidyUps } from '#server/db/schema.ts'
import { remakeScriptCues } from '#server/lectures/captions.ts'
import { clipKey } from '#server/lectures/read.ts'
import { bytesOf, decodeFlac, encodeFlac } from '#server/media/sound-files.ts'
import { sentenceFor } from '#server/sentence.ts'
import type { Tools } from '#server/tools.ts'
import type { Report } from './queue.ts'

/** @param thenAlign is told which slide has a take that its captions can be timed by */
export async function tidyTake(
  { takeId }: { takeId: string },
  tools: Tools,
  report: Report,
  signal: AbortSignal,
  thenAlign: (slideId: string, lectureId: string) => Promise<void> = async () => {},
) {
  const { db, store, media, workers, events } = tools
  const [row] = await db.read
    .select()
    .from(takes)
    .innerJoin(slides, eq(slides.id, takes.slideId))
    .leftJoin(tidyUps, eq(tidyUps.takeId, takes.id))
    .where(eq(takes.id, takeId))
  if (!row?.takes.sound) return
  const { sound, spectrogram } = row.takes
  // rows of an earlier version lack what was added since: the schema knows its usual value
  const analysis = row.takes.analysis ? TakeAnalysis.parse(row.takes.analysis) : null
  const known = row.tidyUps ? TidyUp.parse(row.tidyUps.recipe) : null
  if (known && analysis && spectrogram) {
    const [clip] = await db.read
      .select()
      .from(clips)
      .where(eq(clips.key, clipKey(sound, known)))
    if (clip) return
  }
  try {
    report(0.1, 'Listening')
    const samples = await decodeFlac(media, store.path(sound))
    report(0.3, 'Tidying')
    const tidied = await workers.tidy(
      { samples, analysis, tidyUp: known, marks: row.takes.marks ?? [], draw: spectrogram === null },
      signal,
    )
    report(0.9, 'Keeping')
    const clip = {
      key: clipKey(sound, tidied.tidyUp),
      takeId,
      samples: tidied.clip.length,
      sound: await encodeFlac(media, store, tidied.clip),
      peaks: await store.put(bytesOf(tidied.peaks)),
      figures: tidied.figures,
    }
    const picture = tidied.spectrogram ? await store.put(tidied.spectrogram) : spectrogram
    await db.write(async (tx) => {
      const [take] = await tx
        .update(takes)
        .set({ analysis: tidied.analysis, spectrogram: picture, problem: null })
        .where(eq(takes.id, takeId))
        .returning()
      if (!known) await tx.insert(tidyUps).values({ takeId, recipe: tidied.tidyUp }).onConflictDoNothing()
      await tx.insert(clips).values(clip).onConflictDoNothing()
      if (analysis) return
      // a fresh take is kept when there is a voice in it, or nothing better; a recovered one is offered and not forced
      const [slide] = await tx.select().from(slides).where(eq(slides.id, take!.slideId))
      const good = tidied.analysis.speech.length > 0 && !take!.recovered
      if (good || slide!.keptTakeId === null) await tx.update(slides).set({ keptTakeId: takeId }).where(eq(slides.id, slide!.id))
      await remakeScriptCues(tx, slide!.id)
    })
    if (!analysis) await thenAlign(row.slides.id, row.slides.lectureId)
  } catch (error) {
    if (!signal.aborted) {
      const problem = `This take could not be tidied yet. ${sentenceFor(error).message}`
      await db.write((tx) => tx.update(takes).set({ problem }).where(eq(takes.id, takeId))).catch(() => {})
    }
    throw error
  } finally {
    events.tell({ type: 'lecture', lectureId: row.slides.lectureId })
  }
}
