/** Listens to the kept take of a slide: finds the words of its script, times its captions by them, and notes what is heard between words. */

import { and, eq, isNotNull } from 'drizzle-orm'
import { ALIGN_VERSION } from '#core/captions/align/align.ts'
import { SOUNDS_VERSION } from '#core/captions/spoken/heard-sounds.ts'
import { TakeAnalysis } from '#core/model/take.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { textOf } from '#core/script/points.ts'
import { sentences } from '#core/script/sentences.ts'
import { message } from '#core/words/say.ts'
import type { Database } from '#server/db/database.ts'
import { captionTracks, slides, takes, tidyUps } from '#server/db/schema.ts'
import { isAlignmentOf, remakeScriptCues } from '#server/domain/captions/captions.ts'
import { carryAttachedCues } from '#server/domain/captions/carry-attached.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import type { JobAdder, JobDefinition } from '#server/queue/queue.ts'

/** Seeks the words of all slides anew, as when they are in another language. */
export async function alignAllSlides(db: Database, queue: JobAdder, lectureId: string) {
  const lecture = await readLecture(db.read, lectureId)
  for (const slide of lecture.slides) if (slide.keptTakeId) await queue.add('align', lectureId, { slideId: slide.id })
}

export const alignTake: JobDefinition<'align'>['run'] = async (
  { slideId, soundsOnly, captionsOnly },
  context,
  report,
  signal,
) => {
  const { db, tasks, events } = context
  const [row] = await db.read
    .select()
    .from(slides)
    .innerJoin(takes, eq(takes.id, slides.keptTakeId))
    .innerJoin(tidyUps, eq(tidyUps.takeId, takes.id))
    .innerJoin(captionTracks, and(eq(captionTracks.lectureId, slides.lectureId), eq(captionTracks.origin, 'script')))
    .where(eq(slides.id, slideId))
  if (!row?.takes.sound || !row.takes.analysis) return
  const { lectureId } = row.slides
  const script = textOf(row.slides.script)
  const language = row.slides.language ?? row.captionTracks.language
  const isSpoken = row.takes.analysis.speech.length > 0
  const known = isAlignmentOf(row.takes.alignment, script, language)
  if (known) await db.write((tx) => carryAttachedCues(tx, row.takes))
  const said = isSpoken && !known && !soundsOnly ? sentences(script, language) : []
  const knowsSounds = row.takes.heardSounds?.version === SOUNDS_VERSION
  if (said.length === 0 && (knowsSounds || !isSpoken || captionsOnly)) return
  // the same recording on another slide, with the same script
  const twins = await db.read
    .select({ alignment: takes.alignment, heardSounds: takes.heardSounds })
    .from(takes)
    .where(and(eq(takes.sound, row.takes.sound), isNotNull(takes.alignment)))
  const twin = twins.find((kept) => isAlignmentOf(kept.alignment, script, language))
  const heardOfTwin = twins.find((kept) => kept.heardSounds?.version === SOUNDS_VERSION)?.heardSounds
  report(0.1, message('Listening for the words'))
  const sought =
    (said.length === 0 || twin) && (knowsSounds || heardOfTwin)
      ? null
      : await tasks.run(
          'words',
          {
            sound: row.takes.sound,
            samples: row.takes.samples,
            sentences: twin ? [] : said,
            language,
            recipe: TidyUp.parse(row.tidyUps.tidyUp),
            humHz: TakeAnalysis.parse(row.takes.analysis).humHz,
          },
          signal,
        )
  const alignment = twin?.alignment?.alignment ?? sought?.alignment ?? null
  const sounds = heardOfTwin ?? { version: SOUNDS_VERSION, sounds: sought?.sounds ?? [] }
  report(0.9, message('Timing the captions'))
  await db.write(async (tx) => {
    if (!knowsSounds) await tx.update(takes).set({ heardSounds: sounds }).where(eq(takes.id, row.takes.id))
    // without a voice for the language the captions stay spread over the speech
    if (!alignment || said.length === 0) return
    const kept = { version: ALIGN_VERSION, language, script, alignment }
    await tx.update(takes).set({ alignment: kept }).where(eq(takes.id, row.takes.id))
    // a script that was changed meanwhile waits for its own alignment
    await remakeScriptCues(tx, slideId)
    await carryAttachedCues(tx, { ...row.takes, alignment: kept })
  })
  events.tell({ type: 'lecture', lectureId })
}
