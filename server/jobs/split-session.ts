/** What was recorded straight through: kept whole, divided at the key presses moved to real pauses, one take a part. */

import { createHash } from 'node:crypto'
import { and, eq, notInArray } from 'drizzle-orm'
import { footageWithin } from '#core/model/moving/footage.ts'
import { boundariesOf, splitSession as partsOfSession, visitsOf } from '#core/timing/division/split-session.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { slides, takes } from '#server/db/schema.ts'
import { keepRecording, markDivided } from '#server/domain/takes/recordings.ts'
import { keepWholeTake, verifyAndDeleteJournal } from '#server/domain/takes/takes.ts'
import { partOf, withDecoded } from '#server/media/pcm.ts'
import type { JobDefinition } from '#server/queue/queue.ts'

/** The same part of the same sound has the same name: a job taken up again after a restart makes nothing twice. */
function nameOf(takeId: string, samples: number, part: number): string {
  const hex = createHash('sha256').update(`${takeId} ${samples} ${part}`).digest('hex')
  return [hex.slice(0, 8), hex.slice(8, 12), `4${hex.slice(13, 16)}`, `8${hex.slice(17, 20)}`, hex.slice(20, 32)].join('-')
}

/** What was put together before more of the session came is in the longer parts, to the sample. */
async function letGoOfEarlier(db: AppContext['db'], sourceRecordingId: string, names: string[]) {
  const earlier = and(eq(takes.sourceRecordingId, sourceRecordingId), eq(takes.recovered, true), notInArray(takes.id, names))
  await db.write((tx) => tx.update(takes).set({ deletedAt: Date.now() }).where(earlier))
}

export const splitSession: JobDefinition<'split-session'>['run'] = async ({ takeId }, context, report, signal) => {
  const { db, workers, events } = context
  const [row] = await db.read.select().from(takes).innerJoin(slides, eq(slides.id, takes.slideId)).where(eq(takes.id, takeId))
  if (!row?.takes.sound || !row.takes.peaks) return
  const { sound, peaks, samples, marks, footage, slideId, microphone, recovered, dropoutCount, dropoutMs, startedAt } = row.takes
  const { lectureId } = row.slides
  report(0.05, message('Reading the recording'))
  return withDecoded(context, sound, samples, async (pcm) => {
    if (!(await verifyAndDeleteJournal(context, takeId, pcm))) return splitSession({ takeId }, context, report, signal)
    const { speech } = await workers.listen(
      { samples: pcm },
      (part) => report(0.1 + 0.5 * part, message('Listening for pauses')),
      signal,
    )
    const pressed = marks ?? []
    const name = `Straight through, ${new Date(startedAt).toISOString().slice(0, 16).replace('T', ' ')}`
    await keepRecording(db, {
      id: takeId,
      lectureId,
      name,
      sound,
      peaks,
      samples,
      speech,
      marks: pressed,
      firstSlideId: slideId,
    })
    const boundaries = boundariesOf(visitsOf(slideId, pressed), speech)
    const parts = partsOfSession(
      slideId,
      pressed,
      boundaries.map((b) => b.at),
      speech,
      samples,
    )
    for (const [i, part] of parts.entries()) {
      signal.throwIfAborted()
      report(0.6 + (0.4 * i) / parts.length, message('Slide {number} of {slides}', { number: i + 1, slides: parts.length }))
      await keepWholeTake(context, context.queue, {
        id: nameOf(takeId, samples, i),
        slideId: part.slideId,
        pcm: partOf(pcm, part),
        microphone,
        marks: part.marks,
        footage: footageWithin(footage ?? [], part),
        // which part a gap fell into is not known: it is told on the first
        dropoutCount: i === 0 ? dropoutCount : 0,
        dropoutMs: i === 0 ? dropoutMs : 0,
        recovered,
        sourceRecordingId: takeId,
        recordedAt: startedAt,
      })
    }
    await letGoOfEarlier(
      db,
      takeId,
      parts.map((_, i) => nameOf(takeId, samples, i)),
    )
    await markDivided(db, takeId)
    events.tell({ type: 'lecture', lectureId })
    const moved = boundaries.filter(
      (b, i) => b.pause && Math.abs(b.at - visitsOf(slideId, pressed)[i + 1]!.pressed) > 4800,
    ).length
    return { recordingId: takeId, lectureId, takes: parts.length, moved, outside: boundaries.filter((b) => !b.pause).length }
  })
}
