/** Listens to an answer for each word of its slide's script: what was read, left out, said twice or read otherwise. */

import { and, eq } from 'drizzle-orm'
import { READING_VERSION } from '#core/captions/reading/word-path.ts'
import { TakeAnalysis } from '#core/model/take.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { textOf } from '#core/script/points.ts'
import { sentences } from '#core/script/sentences.ts'
import { message } from '#core/words/say.ts'
import { lectures, slides, takes, tidyUps } from '#server/db/schema.ts'
import type { JobDefinition } from '#server/queue/queue.ts'

export const readAnswer: JobDefinition<'read-answer'>['run'] = async ({ takeId }, context, report, signal) => {
  const { db, tasks, events } = context
  const [row] = await db.read
    .select()
    .from(takes)
    .innerJoin(slides, eq(slides.id, takes.slideId))
    .innerJoin(lectures, eq(lectures.id, slides.lectureId))
    .innerJoin(tidyUps, eq(tidyUps.takeId, takes.id))
    .where(and(eq(takes.id, takeId), eq(takes.isAnswer, true)))
  if (!row?.takes.sound || !row.takes.analysis) return
  const { sound, samples } = row.takes
  const script = textOf(row.slides.script)
  const language = row.slides.language ?? row.lectures.language
  const sought = sentences(script, language)
  const analysis = TakeAnalysis.parse(row.takes.analysis)
  if (sought.length === 0 || analysis.speech.length === 0) return
  report(0.1, message('Listening for the words'))
  const recipe = TidyUp.parse(row.tidyUps.tidyUp)
  const { reading: path } = await tasks.run(
    'words',
    { sound, samples, sentences: sought, language, recipe, humHz: analysis.humHz, isReading: true },
    signal,
  )
  if (!path) return
  const reading = { version: READING_VERSION, language, script, path }
  await db.write((tx) => tx.update(takes).set({ reading }).where(eq(takes.id, takeId)))
  events.tell({ type: 'lecture', lectureId: row.slides.lectureId })
}
