/** Has the recogniser write the captions of a slide that has no script. */

import { randomUUID } from 'node:crypto'
import { mkdir, open, rm } from 'node:fs/promises'
import { and, eq } from 'drizzle-orm'
import { wavHeader } from '#core/audio/signal/wav.ts'
import { plainCueText } from '#core/captions/formats/webvtt/cue-text.ts'
import { breakLines } from '#core/captions/generate/break-lines.ts'
import { TakeAnalysis } from '#core/model/take.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { SAMPLE_RATE, toSeconds } from '#core/timing/clocks.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { insertCues } from '#server/db/insert-cues.ts'
import { captionTracks, lectures, slides, takes, tidyUps } from '#server/db/schema.ts'
import { isShownSlide } from '#server/db/shown.ts'
import { recognise } from '#server/domain/caption-tracks/recogniser.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { LONG, piecesOf, withDecoded } from '#server/media/pcm.ts'
import { bytesOf } from '#server/media/sound-files.ts'
import type { JobDefinition } from '#server/queue/queue.ts'

type TakeRow = typeof takes.$inferSelect

/** Cleaned and levelled, and nothing of it taken out: what is heard at a moment stands at that moment of the take. */
const wholeAndClean = (samples: number, own: TidyUp | null): TidyUp => {
  const { cleaning, hum, clicks, highPassHz, roomTone } = own ?? TidyUp.parse({ kept: { start: 0, end: samples } })
  return TidyUp.parse({ kept: { start: 0, end: samples }, cleaning, hum, clicks, highPassHz, roomTone })
}

/** The tidied sound of a take, as long as the take, as a WAV file: a recogniser hears half as many words wrongly as in the raw one. */
async function writeTidied(context: AppContext, take: TakeRow, path: string, signal: AbortSignal): Promise<void> {
  const { db, store, workers } = context
  const [own] = await db.read.select().from(tidyUps).where(eq(tidyUps.takeId, take.id))
  const tidyUp = wholeAndClean(take.samples, own ? TidyUp.parse(own.tidyUp) : null)
  const analysis = take.analysis && TakeAnalysis.parse(take.analysis)
  const spillFolder = take.samples > LONG ? store.scratchPath('.recognise') : null
  if (spillFolder) await mkdir(spillFolder)
  try {
    await withDecoded(context, take.sound!, take.samples, async (samples) => {
      const { clip } = await workers.tidy({ samples, analysis, tidyUp, marks: [], spillFolder }, signal)
      const file = await open(path, 'wx')
      try {
        await file.writeFile(wavHeader(clip.length, SAMPLE_RATE))
        for (const piece of piecesOf(clip)) await file.writeFile(bytesOf(piece))
      } finally {
        await file.close()
      }
    })
  } finally {
    if (spillFolder) await rm(spillFolder, { recursive: true, force: true })
  }
}

export const recogniseTake: JobDefinition<'recognise'>['run'] = async ({ slideId }, context, report, signal) => {
  const { db, store, config, events } = context
  if (!config.recogniser) throw new UserFacingError(message('There is no recogniser here. Type the captions by ear.'), 409)
  const [row] = await db.read
    .select()
    .from(slides)
    .innerJoin(lectures, eq(lectures.id, slides.lectureId))
    .innerJoin(takes, eq(takes.id, slides.keptTakeId))
    .innerJoin(captionTracks, and(eq(captionTracks.lectureId, slides.lectureId), eq(captionTracks.origin, 'script')))
    .where(and(eq(slides.id, slideId), isShownSlide))
  if (!row?.takes.sound) throw new UserFacingError(message('This slide has no recording to listen to.'), 409)
  const { language, id: trackId } = row.captionTracks
  const path = store.scratchPath('.wav')
  try {
    report(0.05, message('Tidying what it listens to'))
    await writeTidied(context, row.takes, path, signal)
    report(0.3, message('Listening'))
    const heard = await recognise(config.recogniser, path, language, signal)
    const length = toSeconds(row.takes.samples)
    const options = { language, lineCharacters: row.lectures.lineCharacters }
    const made = heard
      .map((cue) => ({ ...cue, text: breakLines(plainCueText(cue.text).replaceAll('\n', ' '), options) }))
      .filter((cue) => cue.text.trim() !== '' && cue.start < length && cue.end > cue.start)
      .map(({ text, start, end }) => ({
        id: randomUUID(),
        trackId,
        slideId,
        takeId: row.takes.id,
        start,
        end: Math.min(end, length),
        text,
        settings: '',
        // a model hears wrongly at times: every caption of it wants a look
        needsReview: true,
        manualEdit: 'time' as const,
      }))
    if (made.length === 0) throw new UserFacingError(message('The recogniser heard no words in this recording.'), 422)
    await db.write((tx) => insertCues(tx, made))
    events.tell({ type: 'lecture', lectureId: row.slides.lectureId })
    return { captions: made.length }
  } finally {
    await rm(path, { force: true })
  }
}
