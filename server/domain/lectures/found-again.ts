/** Recordings that the database does not know: found by what their files say of themselves, and brought back as a lecture. */
import { randomUUID } from 'node:crypto'
import { open, rm } from 'node:fs/promises'
import { FilePathSource, FLAC, Input } from 'mediabunny'
import { peaksOfPieces } from '#core/audio/signal/waveform.ts'
import { DEFAULT_TIMING } from '#core/model/timing.ts'
import { toSamples } from '#core/timing/clocks.ts'
import type { AppContext } from '#server/context/context.ts'
import { footage } from '#server/db/moving-schema.ts'
import { captionTracks, lectures, slides, steps, takes } from '#server/db/schema.ts'
import { drawCard } from '#server/import/card.ts'
import { type KeptPicture, keepPicture } from '#server/import/picture.ts'
import { usedFiles } from '#server/maintenance/used-files.ts'
import { type FootageTags, footageTagsOf } from '#server/media/films/footage-tags.ts'
import { bytesLater, decodeStoredToDisk, piecesOf } from '#server/media/pcm.ts'
import { bytesOf, encodeFlac, type SoundTags } from '#server/media/sound-files.ts'
import { TAG } from '#server/media/sound-tags.ts'
import type { JobAdder } from '#server/queue/queue.ts'

export interface LostRecording {
  /** Name of its file; null for one that was broken off and lies in its journal. */
  file: string | null
  takeId: string
  lecture: string
  slide: string
  /** Its place in the lecture, counted from 1; 0 where it is not known. */
  place: number
  recordedAt: number
  microphone: string
  /** What screen and camera recorded with it, by the names of their files. */
  footage: LostFootage[]
}
type LostFootage = FootageTags & { file: string; samples: number }

/** By its first bytes. */
async function kindOf(path: string): Promise<'sound' | 'film' | null> {
  const file = await open(path, 'r').catch(() => null)
  if (!file) return null
  try {
    const { buffer } = await file.read(Buffer.alloc(8), 0, 8, 0)
    const text = buffer.toString('latin1')
    return text.startsWith('fLaC') ? 'sound' : text.endsWith('ftyp') ? 'film' : null
  } finally {
    await file.close()
  }
}

/** What a FLAC file says of itself; nothing for one that cannot be read. */
async function tagsOf(path: string): Promise<SoundTags> {
  const input = new Input({ source: new FilePathSource(path), formats: [FLAC] })
  try {
    const { raw = {} } = await input.getMetadataTags()
    return Object.fromEntries(
      Object.entries(raw).flatMap(([name, value]) => (typeof value === 'string' ? [[name.toUpperCase(), value]] : [])),
    )
  } catch {
    return {}
  } finally {
    input.dispose()
  }
}

function recordingOf(file: string, tags: SoundTags): LostRecording | null {
  // one that came as a file, or lies under many slides, has its name by its content
  const named = `${file.slice(0, 8)}-${file.slice(8, 12)}-4${file.slice(13, 16)}-8${file.slice(17, 20)}-${file.slice(20, 32)}`
  const takeId = tags[TAG.take] ?? (tags[TAG.recording] ? named : null)
  if (!takeId) return null
  return {
    file,
    takeId,
    lecture: tags.ALBUM ?? '',
    slide: tags.TITLE ?? '',
    place: Number(tags.TRACKNUMBER) || 0,
    recordedAt: Date.parse(tags.DATE ?? '') || 0,
    microphone: tags.DESCRIPTION ?? '',
    footage: [],
  }
}

async function footageOf(file: string, path: string): Promise<LostFootage | null> {
  const found = await footageTagsOf(path)
  if (!found) return null
  const { seconds, ...tags } = found
  return { ...tags, file, samples: toSamples(seconds) }
}

/** Recordings in the folder or its trash that belong to no lecture, the oldest first. */
export async function lostRecordings({
  db,
  store,
  journals,
}: Pick<AppContext, 'db' | 'store' | 'journals'>): Promise<LostRecording[]> {
  const used = await usedFiles(db.read)
  const known = new Set((await db.read.select({ id: takes.id }).from(takes)).map((row) => row.id))
  const laid = await store.trash.all()
  const present = new Set(await store.all())
  const found = new Map<string, LostRecording>()
  const footage = new Map<string, LostFootage>()
  for (const name of new Set([...laid, ...present])) {
    if (used.has(name)) continue
    const read = async (path: string) => {
      const kind = await kindOf(path)
      return {
        recording: kind === 'sound' ? recordingOf(name, await tagsOf(path)) : null,
        filmed: kind === 'film' ? await footageOf(name, path) : null,
      }
    }
    const { recording, filmed } = await (present.has(name) ? store : store.trash).withLocalFile(name, read)
    // a take that was put together twice has two files; its row says which counts
    if (recording && !known.has(recording.takeId)) found.set(recording.takeId, recording)
    // and of a footage that was, the longest
    if (filmed && filmed.samples > (footage.get(filmed.id)?.samples ?? 0)) footage.set(filmed.id, filmed)
  }
  for (const takeId of await journals.all())
    if (!known.has(takeId) && !found.has(takeId))
      found.set(takeId, { file: null, takeId, lecture: '', slide: '', place: 0, recordedAt: 0, microphone: '', footage: [] })
  for (const one of footage.values()) found.get(one.takeId)?.footage.push(one)
  return [...found.values()].sort((a, b) => a.recordedAt - b.recordedAt)
}

/** The sound of a lost recording in the store. */
async function soundOf(context: AppContext, recording: LostRecording) {
  const { store, media, journals } = context
  const spillPath = store.scratchPath('.pcm')
  try {
    if (recording.file === null) {
      const { samples } = await journals.readToDisk(recording.takeId, spillPath)
      if (samples.length === 0) return null
      const sound = await encodeFlac(media, store, bytesLater(samples), { tags: { [TAG.take]: recording.takeId } })
      return { sound, samples: samples.length, peaks: await store.put(bytesOf(peaksOfPieces(piecesOf(samples), samples.length))) }
    }
    if (!(await store.has(recording.file))) await store.trash.bringBack(recording.file)
    const samples = await decodeStoredToDisk(context, recording.file, spillPath)
    return {
      sound: recording.file,
      samples: samples.length,
      peaks: await store.put(bytesOf(peaksOfPieces(piecesOf(samples), samples.length))),
    }
  } finally {
    await rm(spillPath, { force: true })
  }
}

/** Brings lost recordings back: a lecture with a text slide for each slide they were spoken to. @returns its id */
export async function bringBack(context: AppContext, add: JobAdder['add'], lost: readonly LostRecording[]): Promise<string> {
  const { db, store, journals } = context
  const lectureId = randomUUID()
  const groups = new Map<string, LostRecording[]>()
  for (const recording of lost.toSorted((a, b) => a.lecture.localeCompare(b.lecture) || a.place - b.place)) {
    const key = recording.file === null ? recording.takeId : `${recording.lecture} ${recording.place} ${recording.slide}`
    groups.set(key, [...(groups.get(key) ?? []), recording])
  }
  const found: {
    recordings: (LostRecording & { sound: string; samples: number; peaks: string })[]
    heading: string
    line: string
  }[] = []
  for (const recordings of groups.values()) {
    const [first] = recordings as [LostRecording]
    const read = []
    for (const recording of recordings.toSorted((a, b) => a.recordedAt - b.recordedAt)) {
      const sound = await soundOf(context, recording)
      if (sound) read.push({ ...recording, ...sound })
    }
    const line = [first.lecture, first.place > 0 ? `slide ${first.place}` : ''].filter(Boolean).join(', ')
    if (read.length > 0) found.push({ recordings: read, heading: first.slide || 'A recording', line })
  }
  for (const { file } of lost.flatMap((one) => one.footage)) if (!(await store.has(file))) await store.trash.bringBack(file)
  const cards: KeptPicture[] = []
  for (const { heading, line } of found)
    cards.push(await keepPicture(store, drawCard({ heading: heading.slice(0, 160), line: line.slice(0, 400), colours: 'paper' })))
  const jobs: string[] = []
  await db.write(async (tx) => {
    const now = Date.now()
    await tx
      .insert(lectures)
      .values({ id: lectureId, title: 'Found again', language: 'en', timing: DEFAULT_TIMING, createdAt: now, updatedAt: now })
    await tx
      .insert(captionTracks)
      .values({ id: randomUUID(), lectureId, language: 'en', label: 'From the scripts', origin: 'script' })
    for (const [position, { recordings, heading, line }] of found.entries()) {
      const slideId = randomUUID()
      const card = { heading: heading.slice(0, 160), line: line.slice(0, 400), colours: 'paper' as const }
      const title = heading.slice(0, 300)
      await tx.insert(slides).values({ id: slideId, lectureId, position, title, altText: '', script: '', timing: {}, card })
      await tx.insert(steps).values({ id: randomUUID(), slideId, position: 0, ...cards[position]! })
      for (const [
        i,
        { takeId: id, sound, samples, peaks, microphone, recordedAt: startedAt, footage: filmed },
      ] of recordings.entries()) {
        const cuts = filmed.map((one) => ({ footageId: one.id, start: one.start, end: one.start + one.samples, from: 0 }))
        const seen = { footage: cuts.toSorted((a, b) => a.start - b.start) }
        const take = {
          id,
          slideId,
          number: i + 1,
          state: 'sealed' as const,
          microphone,
          startedAt,
          sound,
          samples,
          peaks,
          ...seen,
        }
        await tx.insert(takes).values(take)
        for (const { file, start: _, ...one } of filmed)
          await tx
            .insert(footage)
            .values({ ...one, lectureId, state: 'sealed', original: file, createdAt: now })
            .onConflictDoNothing()
        jobs.push(id)
      }
    }
  })
  for (const takeId of jobs) await add('tidy', lectureId, { takeId })
  for (const { id } of lost.flatMap((one) => one.footage)) await add('footage', lectureId, { footageId: id })
  for (const { file, takeId } of lost) if (file === null) await journals.remove(takeId)
  return lectureId
}
