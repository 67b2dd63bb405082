/** Has the recogniser write the captions of a slide that has no script. */
import { randomUUID } from 'node:crypto'
import { rm, writeFile } from 'node:fs/promises'
import { and, eq, isNull } from 'drizzle-orm'
import { writeWav } from '#core/audio/wav.ts'
import { breakLines } from '#core/captions/break-lines.ts'
import { plainCueText } from '#core/captions/webvtt/cue-text.ts'
import { SAMPLE_RATE, toSeconds } from '#core/timing/clocks.ts'
import { captionTracks, cues, lectures, slides, takes } from '#server/db/schema.ts'
import { decodeFlac } from '#server/media/sound-files.ts'
import { Sentence } from '#server/sentence.ts'
import { recognise } from '#server/speech/recogniser.ts'
import type { Tools } from '#server/tools.ts'
import type { Report } from './queue.ts'

export async function recogniseTake({ slideId }: { slideId: string }, tools: Tools, report: Report, signal: AbortSignal) {
  const { db, store, media, config, events } = tools
  if (!config.recogniser) throw new Sentence('There is no recogniser here. Type the captions by ear.', 409)
  const [row] = await db.read
    .select()
    .from(slides)
    .innerJoin(lectures, eq(lectures.id, slides.lectureId))
    .innerJoin(takes, eq(takes.id, slides.keptTakeId))
    .innerJoin(captionTracks, and(eq(captionTracks.lectureId, slides.lectureId), eq(captionTracks.origin, 'script')))
    .where(and(eq(slides.id, slideId), isNull(slides.deletedAt)))
  if (!row?.takes.sound) throw new Sentence('This slide has no recording to listen to.', 409)
  const { language, id: trackId } = row.captionTracks
  const path = store.scratchPath('.wav')
  try {
    report(0.05, 'Listening')
    await writeFile(path, writeWav(await decodeFlac(media, store.path(row.takes.sound)), SAMPLE_RATE))
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
        doubtful: true,
        hand: 'time' as const,
      }))
    if (made.length === 0) throw new Sentence('The recogniser heard no words in this recording.', 422)
    await db.write((tx) => tx.insert(cues).values(made))
    events.tell({ type: 'lecture', lectureId: row.slides.lectureId })
    return { captions: made.length }
  } finally {
    await rm(path, { force: true })
  }
}
