/** Sound files that come from elsewhere: as a take of one slide, as a long recording over many, or as a bed. */

import { createReadStream } from 'node:fs'
import { eq } from 'drizzle-orm'
import { footageWithin } from '#core/model/moving/footage.ts'
import { message } from '#core/words/say.ts'
import { takes } from '#server/db/schema.ts'
import { keepBed } from '#server/domain/lectures/beds.ts'
import { keepRecording, markDivided, readDivision } from '#server/domain/takes/recordings.ts'
import { keepWholeTake } from '#server/domain/takes/takes.ts'
import { bytesLater, partOf, withDecoded } from '#server/media/pcm.ts'
import { withMono, withStereo } from '#server/media/read-sound.ts'
import { bytesOf, encodeFlac } from '#server/media/sound-files.ts'
import { tagsOfFile, tagsOfRecording } from '#server/media/sound-tags.ts'
import type { JobDefinition } from '#server/queue/queue.ts'

/** A sound file as a take of a slide; it is tidied like one that was recorded here. */
export const importSound: JobDefinition<'import-sound'>['run'] = async ({ id, slideId, name, file }, context, report, signal) => {
  report(0.1, message('Reading {name}', { name }))
  return context.store.withLocalFile(file, (path) =>
    withMono(context, path, { name, signal }, async ({ samples: pcm, note, missing }) => {
      signal.throwIfAborted()
      report(0.6, message('Keeping'))
      // the take goes on saying so: a sentence that is shown once may be overlooked
      const dropouts = missing ? { dropoutCount: 1, dropoutMs: Math.round((missing.missingSeconds ?? 0) * 1000) } : {}
      return {
        ...(await keepWholeTake(context, context.queue, {
          id,
          slideId,
          pcm,
          microphone: name,
          tags: tagsOfFile(name),
          ...dropouts,
        })),
        note,
      }
    }),
  )
}

/** A long recording: its sound, and where somebody speaks in it. */
export const importRecording: JobDefinition<'recording'>['run'] = async (
  { id, lectureId, name, file },
  context,
  report,
  signal,
) => {
  report(0.05, message('Reading {name}', { name }))
  return context.store.withLocalFile(file, (path) =>
    withMono(context, path, { name, signal }, async ({ samples: pcm, note }) => {
      report(0.2, message('Listening for pauses'))
      const { speech, peaks } = await context.workers.listen(
        { samples: pcm },
        (part) => report(0.2 + 0.6 * part, message('Listening for pauses')),
        signal,
      )
      signal.throwIfAborted()
      report(0.8, message('Keeping'))
      const sound = await encodeFlac(context.media, context.store, bytesLater(pcm), {
        tags: await tagsOfRecording(context.db.read, lectureId, name),
      })
      await keepRecording(context.db, {
        id,
        lectureId,
        name,
        sound,
        peaks: await context.store.put(bytesOf(peaks)),
        samples: pcm.length,
        speech,
      })
      context.events.tell({ type: 'lecture', lectureId })
      return { recordingId: id, lectureId, note }
    }),
  )
}

/** Divides a recording: one take a slide. */
export const splitRecording: JobDefinition<'split-recording'>['run'] = async (
  { recordingId, takeIds, ...division },
  context,
  report,
  signal,
) => {
  const { recording, stretches } = await readDivision(context.db.read, recordingId, division)
  // one that was recorded here has its footage with the take that it was
  const [whole] = await context.db.read.select({ footage: takes.footage }).from(takes).where(eq(takes.id, recordingId))
  report(0.05, message('Reading the recording'))
  await withDecoded(context, recording.sound, recording.samples, async (pcm) => {
    for (const [i, { slideId, start, end }] of stretches.entries()) {
      signal.throwIfAborted()
      report(
        0.1 + (0.9 * i) / stretches.length,
        message('Slide {number} of {slides}', { number: i + 1, slides: stretches.length }),
      )
      const part = partOf(pcm, { start, end })
      await keepWholeTake(context, context.queue, {
        id: takeIds[i]!,
        slideId,
        pcm: part,
        microphone: recording.name,
        footage: footageWithin(whole?.footage ?? [], { start, end }),
        recordedAt: recording.createdAt,
      })
    }
  })
  await markDivided(context.db, recordingId)
  return { takes: stretches.length }
}

const LONGEST_BED_S = 30 * 60

/** Music or room sound: both channels kept, its loudness measured. */
export const importBed: JobDefinition<'bed'>['run'] = async ({ id, lectureId, name, file, run }, context, report, signal) => {
  report(0.1, message('Reading {name}', { name }))
  const reading = { name, signal, longestSeconds: LONGEST_BED_S }
  return context.store.withLocalFile(file, (given) =>
    withStereo(context, given, reading, async ({ path, length, note }) => {
      report(0.5, message('Measuring'))
      const { peaks, loudnessLufs } = await context.workers.bed({ path, length }, signal)
      report(0.8, message('Keeping'))
      await keepBed(context.db, run, {
        id,
        lectureId,
        name,
        sound: await encodeFlac(context.media, context.store, createReadStream(path), { channels: 2, tags: { TITLE: name } }),
        peaks: await context.store.put(bytesOf(peaks)),
        samples: length,
        loudnessLufs,
      })
      context.events.tell({ type: 'lecture', lectureId })
      return { bedId: id, note }
    }),
  )
}
