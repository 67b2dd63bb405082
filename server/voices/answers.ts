/** What a class recorded by a link, as its teacher hears it: a row a recording, with what was read of the script. */

import { and, asc, eq, isNull } from 'drizzle-orm'
import { type ReadingReport, readingReport } from '#core/captions/reading/reading-report.ts'
import { READING_VERSION } from '#core/captions/reading/word-path.ts'
import { TakeAnalysis } from '#core/model/take.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { textOf } from '#core/script/points.ts'
import { unpacked } from '#core/words/packed.ts'
import { type Message, message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { clips, lectures, slides, takes, tidyUps } from '#server/db/schema.ts'
import { voices } from '#server/db/voices-schema.ts'
import { clipKey } from '#server/domain/lectures/read.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

export interface Answer {
  /** Of the recording. */
  id: string
  voiceId: string
  name: string
  slideId: string
  startedAt: number
  /** How often the same voice had spoken to the slide by then, from 1. */
  attempt: number
  samples: number
  /** Tidied and levelled; null while that is done. */
  clip: { samples: number; sound: string; peaks: string } | null
  problem: Message | null
  /** null where the slide has no script, its language has no voice, or it is not known yet. */
  report: ReadingReport | null
  /** The script was changed after this was read. */
  isScriptChanged: boolean
}

const rowsOf = (read: Tables, token: string, includesDeleted = false) =>
  read
    .select()
    .from(takes)
    .innerJoin(voices, and(eq(voices.id, takes.voiceId), eq(voices.token, token)))
    .innerJoin(slides, eq(slides.id, takes.slideId))
    .innerJoin(lectures, eq(lectures.id, slides.lectureId))
    .leftJoin(tidyUps, eq(tidyUps.takeId, takes.id))
    .where(and(eq(takes.isAnswer, true), eq(takes.voiceState, 'sent'), includesDeleted ? undefined : isNull(takes.deletedAt)))
    .orderBy(asc(voices.name), asc(slides.position), asc(takes.startedAt))

/** @returns what was sent by a link: by name, then in the order of the slides and of time */
export async function readAnswers(read: Tables, token: string): Promise<Answer[]> {
  const rows = await rowsOf(read, token)
  const attempts = new Map<string, number>()
  const answers: Answer[] = []
  for (const { takes: take, voices: voice, slides: slide, lectures: lecture, tidyUps: edits } of rows) {
    const own = `${voice.id} ${slide.id}`
    attempts.set(own, (attempts.get(own) ?? 0) + 1)
    const key = take.sound && edits ? clipKey(take.sound, TidyUp.parse(edits.tidyUp)) : null
    const [clip] = key === null ? [] : await read.select().from(clips).where(eq(clips.key, key))
    const { reading } = take
    const language = slide.language ?? lecture.language
    const isSame = reading?.script === textOf(slide.script) && reading.language === language
    const speech = take.analysis ? TakeAnalysis.parse(take.analysis).speech : []
    answers.push({
      id: take.id,
      voiceId: voice.id,
      name: voice.name,
      slideId: slide.id,
      startedAt: take.startedAt,
      attempt: attempts.get(own)!,
      samples: take.samples,
      clip: clip ? { samples: clip.samples, sound: clip.sound, peaks: clip.peaks } : null,
      problem: take.problem === null ? null : unpacked(take.problem),
      report: reading?.version === READING_VERSION ? readingReport(reading.path, speech) : null,
      isScriptChanged: reading !== null && !isSame,
    })
  }
  return answers
}

const gone = () => new UserFacingError(message('This answer is not here any more. It may have been withdrawn.'), 404)

/** @returns files of an answer @throws UserFacingError (404) when it is gone, or was never sent */
export async function answerFiles(read: Tables, takeId: string): Promise<{ sound: string; recorded: string; peaks: string }> {
  const [row] = await read
    .select()
    .from(takes)
    .leftJoin(tidyUps, eq(tidyUps.takeId, takes.id))
    .where(and(eq(takes.id, takeId), eq(takes.isAnswer, true), eq(takes.voiceState, 'sent')))
  if (!row?.takes.sound || !row.takes.peaks) throw gone()
  const recorded = row.takes.sound
  if (row.tidyUps) {
    const key = clipKey(row.takes.sound, TidyUp.parse(row.tidyUps.tidyUp))
    const [clip] = await read.select().from(clips).where(eq(clips.key, key))
    if (clip) return { sound: clip.sound, recorded, peaks: clip.peaks }
  }
  return { sound: recorded, recorded, peaks: row.takes.peaks }
}

/** Deletes an answer, or brings it back. @returns id of the lecture */
export async function setAnswerDeleted(db: Database, takeId: string, deleted: boolean): Promise<string> {
  return db.write(async (tx) => {
    const [take] = await tx
      .update(takes)
      .set({ deletedAt: deleted ? Date.now() : null })
      .where(and(eq(takes.id, takeId), eq(takes.isAnswer, true), eq(takes.voiceState, 'sent')))
      .returning()
    if (!take) throw gone()
    const [slide] = await tx.select().from(slides).where(eq(slides.id, take.slideId))
    return slide!.lectureId
  })
}
