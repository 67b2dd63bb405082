/** Takes on their way from the microphone to a sealed recording. */

import { rm } from 'node:fs/promises'
import { crc32 } from 'node:zlib'
import { and, eq, isNotNull, max } from 'drizzle-orm'
import { z } from 'zod'
import { peaksOfPieces } from '#core/audio/signal/waveform.ts'
import type { Bookmark, Mark } from '#core/model/marks.ts'
import type { FootageCut } from '#core/model/moving/footage.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { slides, takes, tidyUps } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { bytesLater, LONG, type Pcm, pieceOf, piecesOf, withDecoded } from '#server/media/pcm.ts'
import { bytesOf, decodeFlacStretch, encodeFlac, type SoundTags } from '#server/media/sound-files.ts'
import { tagsOfPart, tagsOfTake } from '#server/media/sound-tags.ts'
import type { JobAdder } from '#server/queue/queue.ts'
import type { TakeJournal } from '#server/recording/take-journal.ts'
import { dropFootageOf, letOldFootageGo, recoverFootage, sealOpenFootage } from './footage.ts'

// strict: a page of another version says things in other words, and must not be half understood
export const NewTake = z.strictObject({
  slideId: z.string(),
  microphone: z.string().max(300),
  startedAt: z.number().int(),
  /** Recorded straight through, from this slide on. */
  isContinuous: z.boolean().default(false),
})
export const Ending = z.strictObject({
  chunks: z.number().int().nonnegative(),
  dropoutCount: z.number().int().nonnegative(),
  dropoutMs: z.number().int().nonnegative().default(0),
  /** True when the recorder died and another page brought what it had kept. */
  recovered: z.boolean().default(false),
})

/** 48 kHz mono 16-bit: two seconds are the most a chunk may hold. */
const LARGEST_CHUNK = 2 * 48_000 * 2
const MOST_CHUNKS = 6 * 3600

export type NewTake = z.input<typeof NewTake>

/** Somebody else's voice, which came by a link. */
interface Speaker {
  voiceId: string
  speaker: string
  isAnswer: boolean
}

/** Begins a take. Calling again with the same id changes nothing: the answer may have been lost on the way. @param by whose it is; null for the lecture's own */
export async function beginTake({ db }: Pick<AppContext, 'db'>, id: string, input: NewTake, by: Speaker | null = null) {
  await db.write(async (tx) => {
    const [known] = await tx.select().from(takes).where(eq(takes.id, id))
    if (known) return
    const [slide] = await tx.select().from(slides).where(eq(slides.id, input.slideId))
    if (!slide)
      throw new UserFacingError(
        message('The slide this recording is for is not here any more. The recording is kept in this browser.'),
        404,
      )
    const [numbers] = await tx
      .select({ last: max(takes.number) })
      .from(takes)
      .where(eq(takes.slideId, input.slideId))
    const number = input.isContinuous || by?.isAnswer ? 0 : (numbers?.last ?? 0) + 1
    await tx.insert(takes).values({ id, ...input, ...(by && { ...by, voiceState: 'unsent' }), number, state: 'recording' })
  })
}

/** Keeps what was told by keys so far. @throws UserFacingError (404) when the recording has not begun */
export async function keepMarks({ db }: Pick<AppContext, 'db'>, takeId: string, marks: Mark[]) {
  const [row] = await db.write((tx) => tx.update(takes).set({ marks }).where(eq(takes.id, takeId)).returning())
  if (!row) throw new UserFacingError(message('The server does not know this recording.'), 404)
}

/** When the further pictures of a slide appear, by marks of its take. Seconds. */
export function stepMomentsOf(marks: readonly Mark[]): Record<string, number> {
  return Object.fromEntries(marks.flatMap((mark) => (mark.kind === 'step' ? [[mark.stepId, toSeconds(mark.at)]] : [])))
}

/** Bookmarks of a take by its marks, to be named later. */
export function bookmarksOf(marks: readonly Mark[]): Bookmark[] {
  return marks
    .filter((mark) => mark.kind === 'bookmark')
    .map((mark, i) => ({ at: toSeconds(mark.at), title: `Bookmark ${i + 1}` }))
}

/**
 * Keeps one chunk of sound.
 *
 * @param chunk counted from 0
 * @param checksum CRC-32 of the bytes, computed where they were recorded
 * @returns the chunk expected next; a chunk below it is on disk
 */
export async function keepChunk(
  context: AppContext,
  takeId: string,
  chunk: number,
  checksum: number,
  pcm: Uint8Array,
): Promise<number> {
  const { db, journals, ahead, flacs } = context
  if (pcm.length === 0 || pcm.length % 2 !== 0 || pcm.length > LARGEST_CHUNK)
    throw new UserFacingError(message('This piece of sound has an impossible size.'), 413)
  if (chunk >= MOST_CHUNKS)
    throw new UserFacingError(message('A recording lasts six hours at most. Stop, and go on with the next slide.'), 413)
  if (crc32(pcm) !== checksum)
    throw new UserFacingError(message('This piece of sound was damaged on its way; it is sent again.'), 422)
  const [take] = await db.read.select().from(takes).where(eq(takes.id, takeId))
  if (!take) throw new UserFacingError(message('The server does not know this recording.'), 404)
  if (take.state === 'sealed') {
    // sealed with all its chunks: whatever comes late is already there
    if (!take.recovered) return MOST_CHUNKS
    if ((await journals.idleMs(takeId)) === null) {
      if (take.chunks === null || !take.sound) return MOST_CHUNKS
      if (chunk < take.chunks) return take.chunks
      // its journal was let go long ago: it goes on from the file
      const { chunks } = take
      await withDecoded(context, take.sound, take.samples, (samples) => journals.restore(takeId, piecesOfEqual(samples, chunks)))
    }
    await db.write((tx) => tx.update(takes).set({ state: 'recording' }).where(eq(takes.id, takeId)))
  }
  const next = await journals.append(takeId, chunk, pcm)
  if (chunk < next) flacs.grow(takeId, chunk, pcm)
  if (!take.isContinuous) ahead.grow(takeId, next)
  return next
}

/** A take in so many pieces, as many as there were chunks of it. */
function* piecesOfEqual(samples: Pcm, count: number): Generator<Uint8Array> {
  for (let i = 0; i < count; i++) {
    const [from, to] = [i, i + 1].map((n) => Math.floor((samples.length * n) / count)) as [number, number]
    yield bytesOf(pieceOf(samples, from, to))
  }
}

const isEqual = (a: Int16Array, b: Int16Array) => Buffer.from(bytesOf(a)).equals(Buffer.from(bytesOf(b)))

function isSame(one: Pcm, other: Pcm): boolean {
  let at = 0
  for (const piece of piecesOf(one)) {
    if (!isEqual(piece, pieceOf(other, at, at + piece.length))) return false
    at += piece.length
  }
  return at === other.length
}

/** What a journal holds, for as long as it is used: spilled to disk where it is long. */
async function withJournal<T>({ journals, store }: AppContext, takeId: string, use: (journal: TakeJournal<Pcm>) => Promise<T>) {
  if ((await journals.size(takeId)) / 2 <= LONG) return use(await journals.read(takeId))
  const path = store.scratchPath('.journal')
  try {
    return await use(await journals.readToDisk(takeId, path))
  } finally {
    await rm(path, { force: true })
  }
}

/**
 * Lets the journal of a sealed take go, now that its FLAC was read back and found equal; one that differs is made again. A recovered take
 * keeps its journal: its browser may still come back with the rest.
 *
 * @param read what the FLAC holds
 * @returns false when it was made again, and whatever was made by its name has to be made again, too
 */
export async function verifyAndDeleteJournal(context: AppContext, takeId: string, read: Pcm): Promise<boolean> {
  const { db, store, media, journals } = context
  return withJournal(context, takeId, async ({ samples }) => {
    const [take] = await db.read.select().from(takes).where(eq(takes.id, takeId))
    // none is left, or it goes on growing
    if (samples.length === 0 || take?.state !== 'sealed' || samples.length !== take.samples) return true
    const same = isSame(read, samples)
    if (!same) {
      const sound = await encodeFlac(media, store, bytesLater(samples), { tags: await tagsOfTake(db.read, take) })
      if (!(await withDecoded(context, sound, samples.length, async (again) => isSame(again, samples))))
        throw new Error(`FLAC ${sound} differs from its journal`)
      await db.write((tx) => tx.update(takes).set({ sound }).where(eq(takes.id, takeId)))
    }
    if (!take.recovered) await journals.remove(takeId)
    return same
  })
}

/**
 * Makes a take whole: FLAC, peaks, length. The journal stays until the FLAC was read back, which the job does that works on it next.
 *
 * @param ending what the recorder says; null when it never said it, and the take is put together from what is there
 * @returns the id of the lecture
 */
export async function sealTake(
  context: AppContext,
  queue: JobAdder,
  takeId: string,
  ending: z.infer<typeof Ending> | null,
): Promise<string> {
  const [row] = await context.db.read
    .select()
    .from(takes)
    .innerJoin(slides, eq(slides.id, takes.slideId))
    .where(eq(takes.id, takeId))
  if (!row) throw new UserFacingError(message('The server does not know this recording.'), 404)
  const { lectureId } = row.slides
  if (row.takes.state === 'sealed' && !row.takes.recovered) return lectureId
  await sealOpenFootage(context, queue, takeId)
  await withJournal(context, takeId, (journal) => sealWith(context, queue, row.takes, lectureId, journal, ending))
  return lectureId
}

async function sealWith(
  context: AppContext,
  queue: JobAdder,
  take: typeof takes.$inferSelect,
  lectureId: string,
  journal: TakeJournal<Pcm>,
  ending: z.infer<typeof Ending> | null,
): Promise<void> {
  const { db, store, media, journals, ahead, flacs } = context
  const takeId = take.id
  if (ending && journal.next < ending.chunks) {
    throw new UserFacingError(message('Some of the recording has not arrived yet; it is sent again.'), 409, {
      next: journal.next,
    })
  }
  if (journal.samples.length === 0) {
    if (take.sound) {
      await db.write((tx) => tx.update(takes).set({ state: 'sealed' }).where(eq(takes.id, takeId)))
      return
    }
    if (ending)
      throw new UserFacingError(
        message('Nothing was recorded: the microphone gave no sound. Check that it is connected, then record again.'),
        422,
      )
    await dropFootageOf(context, takeId)
    await db.write((tx) => tx.delete(takes).where(eq(takes.id, takeId)))
    await journals.remove(takeId)
    return
  }
  const marks = take.marks ?? []
  // what is spilled to disk is tidied by the job alone
  if (!take.isContinuous && journal.samples instanceof Int16Array) ahead.begin(takeId, journal.samples, marks)
  else ahead.drop(takeId)
  const grown = await flacs.finish(takeId, journal.next)
  const sound =
    grown ??
    (await encodeFlac(media, store, bytesLater(journal.samples), { tags: await tagsOfTake(db.read, take) }).catch((error) => {
      ahead.drop(takeId)
      throw error
    }))
  const peaks = await store.put(bytesOf(peaksOfPieces(piecesOf(journal.samples), journal.samples.length)))
  const recovered = ending === null || ending.recovered
  await db.write(async (tx) => {
    // a recipe made for a shorter, recovered version would cut the rest off
    await tx.delete(tidyUps).where(eq(tidyUps.takeId, takeId))
    await tx
      .update(takes)
      .set({
        state: 'sealed',
        recovered,
        samples: journal.samples.length,
        chunks: journal.next,
        sound,
        peaks,
        dropoutCount: ending?.dropoutCount ?? 0,
        dropoutMs: ending?.dropoutMs ?? 0,
        stepMoments: stepMomentsOf(marks),
        bookmarks: bookmarksOf(marks),
        analysis: null,
        spectrogram: null,
      })
      .where(eq(takes.id, takeId))
  })
  await (take.isContinuous ? queue.add('split-session', lectureId, { takeId }) : queue.add('tidy', lectureId, { takeId }))
  context.events.tell({ type: 'lecture', lectureId })
}

/** A sealed recording that becomes a take as it is. */
export interface WholeTake {
  id: string
  slideId: string
  pcm: Pcm
  microphone: string
  marks?: Mark[]
  dropoutCount?: number
  dropoutMs?: number
  /** Put together after something failed: offered, not kept by itself. */
  recovered?: boolean
  /** Screen and camera that belong to it. */
  footage?: FootageCut[]
  /** The recording straight through that it is a part of. */
  sourceRecordingId?: string
  /** When it was recorded, milliseconds since 1970; null where it is not known. */
  recordedAt?: number | null
  /** Whose voice is in it, where it was made of a take that came by a link: what becomes of those becomes of it. */
  voice?: Pick<typeof takes.$inferSelect, 'voiceId' | 'speaker'>
  /** How it is tidied; suggested when absent. */
  tidyUp?: TidyUp
  /** What is written into its file; what is known of its slide when absent. */
  tags?: SoundTags
}

/** Keeps a whole recording that came from elsewhere as a sealed take of a slide, to be tidied next. */
export async function keepWholeTake(
  context: AppContext,
  queue: JobAdder,
  {
    id,
    slideId,
    pcm,
    microphone,
    marks = [],
    dropoutCount = 0,
    dropoutMs = 0,
    recovered = false,
    footage = [],
    sourceRecordingId,
    recordedAt = null,
    tags: given,
    tidyUp,
    voice,
  }: WholeTake,
): Promise<{ takeId: string }> {
  const { db, store, media } = context
  const [known] = await db.read.select().from(takes).where(eq(takes.id, id))
  if (known) return { takeId: id }
  const startedAt = Date.now()
  const tags = given ?? (await tagsOfPart(db.read, slideId, microphone, recordedAt))
  const sound = await encodeFlac(media, store, bytesLater(pcm), { tags })
  const peaks = await store.put(bytesOf(peaksOfPieces(piecesOf(pcm), pcm.length)))
  const lectureId = await db.write(async (tx) => {
    const [slide] = await tx.select().from(slides).where(eq(slides.id, slideId))
    if (!slide) throw new UserFacingError(message('The slide this sound is for is not here any more. Choose another slide.'), 404)
    const [last] = await tx
      .select({ number: max(takes.number) })
      .from(takes)
      .where(eq(takes.slideId, slideId))
    const number = (last?.number ?? 0) + 1
    const made = {
      id,
      slideId,
      number,
      state: 'sealed' as const,
      startedAt,
      microphone,
      dropoutCount,
      dropoutMs,
      recovered,
      marks,
      footage,
      sourceRecordingId,
    }
    const told = { stepMoments: stepMomentsOf(marks), bookmarks: bookmarksOf(marks) }
    const speaker = voice && {
      voiceId: voice.voiceId,
      speaker: voice.speaker,
      voiceState: voice.voiceId === null ? null : ('sent' as const),
    }
    await tx.insert(takes).values({ ...made, ...told, ...speaker, samples: pcm.length, sound, peaks })
    if (tidyUp) await tx.insert(tidyUps).values({ takeId: id, tidyUp })
    return slide.lectureId
  })
  await queue.add('tidy', lectureId, { takeId: id })
  context.events.tell({ type: 'lecture', lectureId })
  return { takeId: id }
}

/** A stretch of a sealed take as it was recorded. @param start, end in samples */
export async function readTakeSamples(
  { db, store, media }: AppContext,
  takeId: string,
  start: number,
  end: number,
): Promise<Int16Array> {
  const [take] = await db.read.select().from(takes).where(eq(takes.id, takeId))
  if (!take?.sound)
    throw new UserFacingError(message('This take is not here any more. It may have been deleted in another window.'), 404)
  return store.withLocalFile(take.sound, (path) => decodeFlacStretch(media, path, start, end))
}

/** A recording that was not heard of for so long has ended without its stop. */
const IDLE_MS = 60_000

/** Seals what was left unsealed. @param minimumIdleMs 0 at start, when no recording can be going on */
export async function recoverTakes(context: AppContext, queue: JobAdder, minimumIdleMs = IDLE_MS) {
  const open = await context.db.read.select().from(takes).where(eq(takes.state, 'recording'))
  for (const take of open) {
    const idle = (await context.journals.idleMs(take.id)) ?? Date.now() - take.startedAt
    if (idle < minimumIdleMs) continue
    await sealTake(context, queue, take.id, null).catch((error) =>
      console.error(`Take ${take.id} could not be recovered yet:`, error),
    )
  }
  await recoverFootage(context, queue, minimumIdleMs)
}

/** A browser that has kept the rest of a recovered take comes back within so long, or starts the take again from its file. */
const JOURNAL_KEPT_MS = 30 * 24 * 3600_000

/** Lets journals of recovered takes go that nothing was added to for a month, each after its file was read back and found equal. */
export async function letOldJournalsGo(context: AppContext, keptMs = JOURNAL_KEPT_MS) {
  const { db, journals } = context
  const recovered = await db.read
    .select()
    .from(takes)
    .where(and(eq(takes.state, 'sealed'), eq(takes.recovered, true), isNotNull(takes.sound), isNotNull(takes.chunks)))
  for (const take of recovered) {
    const idle = await journals.idleMs(take.id)
    if (idle === null || idle < keptMs) continue
    const isWhole = await withDecoded(context, take.sound!, take.samples, (read) =>
      withJournal(context, take.id, async ({ samples }) => isSame(read, samples)),
    )
    if (isWhole) await journals.remove(take.id)
  }
  await letOldFootageGo(context, keptMs)
}
