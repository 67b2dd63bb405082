/** A lecture out as one open bundle, and in again, on this machine or another. */
import { randomUUID } from 'node:crypto'
import { rm, writeFile } from 'node:fs/promises'
import { and, asc, eq, inArray, isNull } from 'drizzle-orm'
import { peaksOf } from '#core/audio/peaks.ts'
import { BUNDLE_VERSION, Bundle, filesNamed, renamed } from '#core/bundle.ts'
import { chaptersOnLecture } from '#core/captions/chapter-tracks.ts'
import { cuesOnLecture } from '#core/captions/place-cues.ts'
import { writeWebVtt } from '#core/captions/webvtt/write.ts'
import { readZip } from '#core/deck/zip.ts'
import { Making } from '#core/edition/making.ts'
import { TimingDefaults } from '#core/lecture.ts'
import type { Tables } from '#server/db/database.ts'
import {
  beds,
  captionTracks,
  cues,
  type KeptAlignment,
  lectures,
  slides,
  steps,
  takes,
  tidyUps,
  translations,
} from '#server/db/schema.ts'
import { keepGivenPicture } from '#server/import/picture.ts'
import type { JobQueue } from '#server/jobs/queue.ts'
import { lectureRows, readLecture } from '#server/lectures/read.ts'
import { bytesOf, decodeFlac } from '#server/media/sound-files.ts'
import { Sentence } from '#server/sentence.ts'
import type { Tools } from '#server/tools.ts'
import type { ZippedFile } from './zip-stream.ts'

const path = (folder: 'pictures' | 'takes' | 'beds', name: string) =>
  `${folder}/${name}.${folder === 'pictures' ? 'png' : 'flac'}`
const nameIn = (file: string) => file.split('/')[1]!.split('.')[0]!

/** What a lecture's bundle says. @throws Sentence (404) when there is none */
export async function describeBundle(db: Tables, lectureId: string): Promise<Bundle> {
  const { lecture, slideRows, ids, stepRows, offeredRows } = await lectureRows(db, lectureId)
  const pictures = (rows: typeof stepRows, slideId: string) =>
    rows.filter((step) => step.slideId === slideId).map((step) => ({ id: step.id, picture: path('pictures', step.picture) }))
  const takeRows = await db
    .select()
    .from(takes)
    .leftJoin(tidyUps, eq(tidyUps.takeId, takes.id))
    .where(and(inArray(takes.slideId, ids), isNull(takes.deletedAt), eq(takes.state, 'sealed'), eq(takes.through, false)))
    .orderBy(asc(takes.slideId), asc(takes.number))
  const sealed = takeRows.filter((row) => row.takes.sound !== null)
  const known = new Set(sealed.map((row) => row.takes.id))
  const trackRows = await db
    .select()
    .from(captionTracks)
    .where(and(eq(captionTracks.lectureId, lectureId), isNull(captionTracks.deletedAt)))
    .orderBy(asc(captionTracks.id))
  const trackIds = trackRows.map((row) => row.id)
  const cueRows = await db.select().from(cues).where(inArray(cues.trackId, trackIds)).orderBy(asc(cues.start), asc(cues.id))
  const translated = await db
    .select()
    .from(translations)
    .where(inArray(translations.trackId, trackIds))
    .orderBy(asc(translations.cueId))
  const bedRows = await db
    .select()
    .from(beds)
    .where(and(eq(beds.lectureId, lectureId), isNull(beds.deletedAt)))
    .orderBy(asc(beds.createdAt), asc(beds.id))
  const { title, language, timing, transition, making, lineCharacters } = lecture
  const { crest: _, ...plainMaking } = Making.parse(making ?? {})
  return Bundle.parse({
    bundle: 'tidy-lectern',
    version: BUNDLE_VERSION,
    // the crest is the school's and not the lecture's: it stays where it is
    lecture: {
      title,
      language,
      timing: TimingDefaults.parse(timing),
      transition,
      making: making ? plainMaking : null,
      lineCharacters,
    },
    slides: slideRows.map(({ lectureId: _, position: __, deletedAt: ___, ...row }) => ({
      ...row,
      keptTakeId: row.keptTakeId && known.has(row.keptTakeId) ? row.keptTakeId : null,
      findings: row.findings ?? [],
      steps: pictures(stepRows, row.id),
      offered: pictures(offeredRows, row.id),
    })),
    takes: sealed.map(({ takes: row, tidyUps: recipe }) => ({
      ...row,
      sound: path('takes', row.sound!),
      tidyUp: recipe?.recipe ?? null,
      alignment: row.alignment ?? null,
      stepMoments: row.stepMoments ?? {},
      marks: row.marks ?? [],
      bookmarks: row.bookmarks ?? [],
    })),
    captionTracks: trackRows.map((row) => ({
      ...row,
      // those of takes that were deleted are heard nowhere
      cues: cueRows.filter(
        (cue) => cue.trackId === row.id && (cue.takeId === null || known.has(cue.takeId)) && ids.includes(cue.slideId),
      ),
      translations: translated.filter((t) => t.trackId === row.id),
    })),
    beds: bedRows.map((row) => ({ ...row, sound: path('beds', row.sound) })),
  })
}

/** The files of a bundle: its description, pictures, recordings as they were made, beds, and the captions for other programs. */
export async function bundleFiles({ db, store }: Tools, lectureId: string): Promise<ZippedFile[]> {
  const bundle = await describeBundle(db.read, lectureId)
  const lecture = await readLecture(db.read, lectureId)
  return [
    { path: 'bundle.json', content: `${JSON.stringify(bundle, null, 1)}\n` },
    ...filesNamed(bundle).map((name) => ({ path: name, content: { file: store.path(nameIn(name)) } })),
    ...lecture.captionTracks.map((track, i) => ({
      path: `captions/${i + 1}.${track.language}.vtt`,
      content: writeWebVtt(cuesOnLecture(lecture, track.cues)),
    })),
    ...lecture.chapterTracks.map((track, i) => ({
      path: `chapters/${i + 1}.${track.language}.vtt`,
      content: writeWebVtt(chaptersOnLecture(lecture, track.cues)),
    })),
  ]
}

function parsed(zip: Uint8Array, name: string): { bundle: Bundle; files: Map<string, Uint8Array> } {
  const files = readZip(zip, name)
  const text = files.get('bundle.json')
  if (!text) throw new Sentence(`“${name}” is no bundle of a lecture: it holds no bundle.json. Choose another file.`, 415)
  let said: unknown
  try {
    said = JSON.parse(new TextDecoder().decode(text))
  } catch {
    throw new Sentence(`“${name}” is damaged: its description cannot be read. Export the bundle again.`, 422)
  }
  const version = (said as { version?: unknown } | null)?.version
  if (typeof version === 'number' && version > BUNDLE_VERSION)
    throw new Sentence(`“${name}” was made by a newer Tidy Lectern. Bring this one up to date, then open it.`, 422)
  const result = Bundle.safeParse(said)
  if (!result.success) {
    const [issue] = result.error.issues
    throw new Sentence(
      `“${name}” is damaged: ${issue!.path.join('.') || 'its description'} is not as it should be. Export it again.`,
      422,
    )
  }
  const bundle = result.data
  const missing = filesNamed(bundle).find((file) => !files.has(file))
  if (missing) throw new Sentence(`“${name}” is damaged: “${missing}” is not in it. Export the bundle again.`, 422)
  return { bundle, files }
}

/** A sound of a bundle in the store, with its samples. */
async function keepSound(tools: Tools, bytes: Uint8Array, name: string): Promise<{ sound: string; pcm: Int16Array }> {
  const scratch = tools.store.scratchPath('.flac')
  try {
    await writeFile(scratch, bytes)
    const pcm = await decodeFlac(tools.media, scratch).catch(() => null)
    if (!pcm || pcm.length === 0)
      throw new Sentence(`“${name}” is damaged: a recording in it cannot be read. Export the bundle again.`, 422)
    return { sound: await tools.store.put(bytes), pcm }
  } finally {
    await rm(scratch, { force: true })
  }
}

/**
 * Brings a bundle in as a new lecture; jobs are added that render its clips again.
 *
 * @param report is told how much of it is kept, 0 to 1
 */
export async function readBundle(
  tools: Tools,
  add: JobQueue['add'],
  lectureId: string,
  file: { name: string; bytes: Uint8Array },
  report: (part: number) => void,
  signal: AbortSignal,
) {
  const { db, store } = tools
  const read = parsed(file.bytes, file.name)
  const bundle = renamed(read.bundle, randomUUID)
  const parts = bundle.slides.length + bundle.takes.length + bundle.beds.length
  let done = 0
  const step = () => {
    signal.throwIfAborted()
    report(++done / parts)
  }
  const pictures = new Map<string, Awaited<ReturnType<typeof keepGivenPicture>>>()
  for (const slide of bundle.slides) {
    for (const { picture } of [...slide.steps, ...slide.offered])
      if (!pictures.has(picture)) pictures.set(picture, await keepGivenPicture(store, file.name, read.files.get(picture)!))
    step()
  }
  const sounds = new Map<string, { sound: string; peaks: string; samples: number }>()
  for (const { sound } of [...bundle.takes, ...bundle.beds]) {
    if (!sounds.has(sound)) {
      const kept = await keepSound(tools, read.files.get(sound)!, file.name)
      const peaks = await store.put(bytesOf(peaksOf(kept.pcm)))
      sounds.set(sound, { sound: kept.sound, peaks, samples: kept.pcm.length })
    }
    step()
  }
  await db.write(async (tx) => {
    const now = Date.now()
    const { making, ...lecture } = bundle.lecture
    await tx.insert(lectures).values({ id: lectureId, ...lecture, making: making ?? null, createdAt: now, updatedAt: now })
    for (const [position, { steps: own, offered, ...slide }] of bundle.slides.entries()) {
      await tx.insert(slides).values({ ...slide, lectureId, position })
      const row = ({ id, picture }: { id: string; picture: string }, i: number) => ({
        id,
        slideId: slide.id,
        position: i,
        ...pictures.get(picture)!,
      })
      await tx.insert(steps).values(own.map(row))
      for (const [i, step] of offered.entries())
        await tx.insert(steps).values({ ...row(step, own.length + i), offered: true, deletedAt: now })
    }
    for (const { tidyUp, alignment, ...take } of bundle.takes) {
      const { sound, peaks, samples } = sounds.get(take.sound)!
      await tx
        .insert(takes)
        .values({ ...take, sound, peaks, samples, state: 'sealed', alignment: alignment as KeptAlignment | null })
      if (tidyUp) await tx.insert(tidyUps).values({ takeId: take.id, recipe: tidyUp })
    }
    for (const { cues: own, translations: said, ...track } of bundle.captionTracks) {
      await tx.insert(captionTracks).values({ ...track, lectureId })
      for (const cue of own) await tx.insert(cues).values({ ...cue, trackId: track.id })
      for (const translation of said) await tx.insert(translations).values({ ...translation, trackId: track.id })
    }
    for (const bed of bundle.beds) {
      const { sound, peaks } = sounds.get(bed.sound)!
      await tx.insert(beds).values({ ...bed, sound, peaks, lectureId, createdAt: now })
    }
  })
  for (const take of bundle.takes) await add('tidy', lectureId, { takeId: take.id })
}
