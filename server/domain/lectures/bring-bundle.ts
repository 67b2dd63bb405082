/** A lecture in from its open bundle: judged in the import process, then taken from the zip file by file, nothing of it held whole. */

import { randomUUID } from 'node:crypto'
import { rm } from 'node:fs/promises'
import { peaksOfPieces } from '#core/audio/signal/waveform.ts'
import { type Bundle, filesNamed, renamed } from '#core/bundle/bundle.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { insertCues } from '#server/db/insert-cues.ts'
import { films, footage } from '#server/db/moving-schema.ts'
import { beds, captionTracks, lectures, slides, steps, takes, tidyUps, translations } from '#server/db/schema.ts'
import { isDiskFull } from '#server/errors/user-facing-error.ts'
import { damaged, MOST_UNPACKED } from '#server/import/bundle-description.ts'
import type { KeptPicture } from '#server/import/picture.ts'
import { type OpenZip, openZip } from '#server/import/zip.ts'
import { decodeStoredToDisk, piecesOf } from '#server/media/pcm.ts'
import { bytesOf } from '#server/media/sound-files.ts'
import type { JobAdder } from '#server/queue/queue.ts'
import { withFilesHere } from '#server/storage/file-store.ts'
import { unreadyFilms } from './films.ts'
import { unreadyFootage } from './footage.ts'

/** A file of a bundle in the store. Its name in the bundle is the hash of its content, so bytes that were changed are found. */
async function keepFile({ store }: AppContext, zip: OpenZip, entry: string, bundleName: string): Promise<string> {
  const kept = await store.receive(await zip.stream(entry)).catch((error) => {
    throw isDiskFull(error) ? error : damaged(bundleName, message('“{file}” cannot be unpacked', { file: entry }))
  })
  if (kept.name !== entry.split('/')[1]!.split('.')[0]) {
    if (kept.isNew) store.remove(kept.name)
    throw damaged(bundleName, message('“{file}” is not what it was when the bundle was made', { file: entry }))
  }
  return kept.name
}

/** @returns name of its peaks @throws UserFacingError when it is no FLAC file of so many samples */
async function keepPeaks(context: AppContext, sound: string, samples: number, entry: string, bundleName: string) {
  const { store } = context
  const spillPath = store.scratchPath('.pcm')
  try {
    const pcm = await decodeStoredToDisk(context, sound, spillPath, samples + 1).catch((error) => {
      if (isDiskFull(error)) throw error
      return null
    })
    if (pcm?.length !== samples) throw damaged(bundleName, message('the sound “{file}” is not whole', { file: entry }))
    return await store.put(bytesOf(peaksOfPieces(piecesOf(pcm), samples)))
  } finally {
    await rm(spillPath, { force: true })
  }
}

/** Keeps all files of a bundle. @returns them by their names in it */
async function keepFiles(
  context: AppContext,
  bundle: Bundle,
  file: { name: string; path: string },
  report: (part: number) => void,
  signal: AbortSignal,
) {
  const { store, workers, config } = context
  const entries = filesNamed(bundle)
  let done = 0
  const step = () => {
    signal.throwIfAborted()
    report(++done / (entries.length + 1))
  }
  const zip = await openZip(file.path, file.name, MOST_UNPACKED)
  const pictures = new Map<string, KeptPicture>()
  const sounds = new Map<string, { sound: string; peaks: string }>()
  const originals = new Map<string, string>()
  try {
    const given: { entry: string; name: string; file: string }[] = []
    for (const entry of entries.filter((e) => e.startsWith('pictures/'))) {
      given.push({ entry, name: file.name, file: await keepFile(context, zip, entry, file.name) })
      step()
    }
    const pictureFiles = given.map(({ name, file: stored }) => ({ name, file: stored }))
    const kept = await withFilesHere(
      store,
      pictureFiles.map((picture) => picture.file),
      () => workers.importer.run('pictures', { given: pictureFiles, dataFolder: config.dataFolder }, { name: file.name, signal }),
    )
    for (const [i, { entry }] of given.entries()) pictures.set(entry, kept[i]!)
    for (const entry of entries.filter((e) => /^(films|footage)\//.test(e))) {
      originals.set(entry, await keepFile(context, zip, entry, file.name))
      step()
    }
    for (const { sound: entry, samples } of [...bundle.takes, ...bundle.beds]) {
      if (sounds.has(entry)) continue
      const sound = await keepFile(context, zip, entry, file.name)
      sounds.set(entry, { sound, peaks: await keepPeaks(context, sound, samples, entry, file.name) })
      step()
    }
  } finally {
    zip.close()
  }
  return { pictures, sounds, originals }
}

/**
 * Brings a bundle in as a new lecture; jobs are added that render its clips again.
 *
 * @param file the name as the person knows it, and where it lies
 * @param report is told how much of it is kept, 0 to 1
 */
export async function readBundle(
  context: AppContext,
  add: JobAdder['add'],
  lectureId: string,
  file: { name: string; path: string },
  report: (part: number) => void,
  signal: AbortSignal,
) {
  const { db, workers } = context
  const described = await workers.importer.run('bundle', file, { name: file.name, signal })
  const bundle = renamed(described, randomUUID)
  const { pictures, sounds, originals } = await keepFiles(context, bundle, file, report, signal)
  await db.write(async (tx) => {
    const now = Date.now()
    const { exportSettings, smallPicture, ...lecture } = bundle.lecture
    await tx.insert(lectures).values({ id: lectureId, ...lecture, exportSettings, smallPicture, createdAt: now, updatedAt: now })
    for (const [position, { steps: own, offered, ...slide }] of bundle.slides.entries()) {
      await tx.insert(slides).values({ ...slide, lectureId, position })
      const row = ({ picture, films: _, ...step }: (typeof own)[number], i: number) => ({
        ...step,
        slideId: slide.id,
        position: i,
        ...pictures.get(picture)!,
      })
      await tx.insert(steps).values(own.map(row))
      for (const step of own)
        for (const [i, { original, ...film }] of step.films.entries())
          await tx
            .insert(films)
            .values({ ...film, original: originals.get(original)!, stepId: step.id, position: i, createdAt: now })
      for (const [i, offer] of offered.entries())
        await tx.insert(steps).values({ ...row(offer, own.length + i), offered: true, isPlaced: false })
    }
    for (const { original, ...one } of bundle.footage) {
      // which codec is in it its file says
      const row = { ...one, lectureId, codec: 'avc' as const, state: 'sealed' as const, createdAt: now }
      await tx.insert(footage).values({ ...row, original: originals.get(original)! })
    }
    for (const { tidyUp, ...take } of bundle.takes) {
      await tx.insert(takes).values({ ...take, ...sounds.get(take.sound)!, state: 'sealed' })
      if (tidyUp) await tx.insert(tidyUps).values({ takeId: take.id, tidyUp })
    }
    for (const { cues: own, translations: said, ...track } of bundle.captionTracks) {
      await tx.insert(captionTracks).values({ ...track, lectureId })
      await insertCues(
        tx,
        own.map((cue) => ({ ...cue, trackId: track.id })),
      )
      for (const translation of said) await tx.insert(translations).values({ ...translation, trackId: track.id })
    }
    for (const bed of bundle.beds) await tx.insert(beds).values({ ...bed, ...sounds.get(bed.sound)!, lectureId, createdAt: now })
  })
  for (const take of bundle.takes) await add('tidy', lectureId, { takeId: take.id })
  for (const footageId of await unreadyFootage(db.read, lectureId)) await add('footage', lectureId, { footageId })
  for (const filmId of await unreadyFilms(db.read, lectureId)) await add('film', lectureId, { filmId })
}
