/** Screen and camera recorded with a take: pieces are kept as they come, and become one file when it ends. */
import { rm } from 'node:fs/promises'
import { crc32 } from 'node:zlib'
import { and, asc, eq, isNotNull } from 'drizzle-orm'
import { z } from 'zod'
import { SHORTEST_FILM_S } from '#core/model/moving/film.ts'
import { FOOTAGE_KINDS, type FootageCut } from '#core/model/moving/footage.ts'
import { unpackPiece } from '#core/recording/footage-pieces.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import type { Tables } from '#server/db/database.ts'
import { footage } from '#server/db/moving-schema.ts'
import { slides, takes } from '#server/db/schema.ts'
import { UNREADABLE } from '#server/domain/lectures/footage.ts'
import { isDiskFull, UserFacingError } from '#server/errors/user-facing-error.ts'
import { writeFootage } from '#server/media/films/write-footage.ts'
import type { JobAdder } from '#server/queue/queue.ts'

const side = z.number().int().min(16).max(8192)
export const NewFootage = z.object({
  kind: z.enum(FOOTAGE_KINDS),
  codec: z.enum(['avc', 'vp8']),
  width: side,
  height: side,
  isPractice: z.boolean().default(false),
})
export const FootageEnding = z.strictObject({ pieces: z.number().int().nonnegative() })

/** A second of a large screen with much going on in it, many times over. */
export const LARGEST_PIECE = 8_000_000
const MOST_PIECES = 6 * 3600

type FootageRow = typeof footage.$inferSelect

/** Begins a footage of a take. Calling again with the same id changes nothing: the answer may have been lost on the way. */
export async function beginFootage(
  { db }: Pick<AppContext, 'db'>,
  takeId: string,
  id: string,
  given: z.infer<typeof NewFootage>,
) {
  await db.write(async (tx) => {
    const [take] = await tx.select().from(takes).innerJoin(slides, eq(slides.id, takes.slideId)).where(eq(takes.id, takeId))
    if (!take) throw new UserFacingError(message('The server does not know this recording.'), 404)
    const row = { id, takeId, lectureId: take.slides.lectureId, ...given, state: 'recording' as const, createdAt: Date.now() }
    await tx.insert(footage).values(row).onConflictDoNothing()
  })
}

async function footageOf(db: Tables, takeId: string, id: string): Promise<FootageRow> {
  const [row] = await db
    .select()
    .from(footage)
    .where(and(eq(footage.id, id), eq(footage.takeId, takeId)))
  if (!row) throw new UserFacingError(message('The server does not know this recording.'), 404)
  return row
}

/**
 * Keeps one piece of pictures.
 *
 * @param piece counted from 0
 * @param checksum CRC-32 of the bytes, computed where they were recorded
 * @returns the piece expected next; a piece below it is on disk
 */
export async function keepPiece(
  { db, footageJournals }: AppContext,
  which: { takeId: string; id: string },
  piece: number,
  checksum: number,
  bytes: Uint8Array,
): Promise<number> {
  if (piece >= MOST_PIECES)
    throw new UserFacingError(message('A recording lasts six hours at most. Stop, and go on with the next slide.'), 413)
  if (crc32(bytes) !== checksum)
    throw new UserFacingError(message('This piece of the picture was damaged on its way; it is sent again.'), 422)
  try {
    unpackPiece(bytes)
  } catch {
    throw new UserFacingError(message('This piece of the picture cannot be read.'), 415)
  }
  const row = await footageOf(db.read, which.takeId, which.id)
  if (row.state === 'sealed') {
    // sealed with all its pieces, or its journal was let go: whatever comes late is already there
    if (!row.recovered || (await footageJournals.idleMs(row.id)) === null) return MOST_PIECES
    await db.write((tx) => tx.update(footage).set({ state: 'recording' }).where(eq(footage.id, row.id)))
  }
  return footageJournals.append(row.id, piece, bytes)
}

/**
 * Makes a footage whole: one file. Its journal stays until that file was read.
 *
 * @param ending what the recorder says; null when it never said it, and the footage is put together from what is there
 */
export async function sealFootage(
  context: AppContext,
  queue: JobAdder,
  which: { takeId: string; id: string },
  ending: (z.infer<typeof FootageEnding> & { recovered?: boolean }) | null,
): Promise<void> {
  const { db, store, footageJournals, events } = context
  const row = await footageOf(db.read, which.takeId, which.id)
  if (row.state === 'sealed' && !row.recovered) return
  const path = store.scratchPath('.mp4')
  try {
    let next = 0
    const written = await writeFootage(path, row, async (take) => {
      const read = await footageJournals.each(row.id, take)
      next = read.next
      if (ending && next < ending.pieces)
        throw new UserFacingError(message('Some of the picture has not arrived yet; it is sent again.'), 409, { next })
      return read
    }).catch((error) => giveUp(context, row, error))
    if (!written || written.end - written.start < toSamples(SHORTEST_FILM_S)) {
      // a key that was pressed twice, or a first picture that never came, has nothing to show, unless it was put together before
      if (row.original === null) await db.write((tx) => tx.delete(footage).where(eq(footage.id, row.id)))
      await footageJournals.remove(row.id)
      return
    }
    const original = (await store.adopt(path)).name
    const recovered = ending === null || ending.recovered === true
    await db.write(async (tx) => {
      const made = {
        state: 'sealed' as const,
        recovered,
        pieces: next,
        samples: written.end - written.start,
        original,
        proxy: null,
        strip: null,
        facts: null,
      }
      await tx
        .update(footage)
        .set({ ...made, problem: null })
        .where(eq(footage.id, row.id))
      await attach(tx, row.takeId, { footageId: row.id, start: written.start, end: written.end, from: 0 })
    })
    await queue.add('footage', row.lectureId, { footageId: row.id })
    events.tell({ type: 'lecture', lectureId: row.lectureId })
  } finally {
    await rm(path, { force: true })
  }
}

/** Pictures of which no file can be made must not stand in the way of the voice. What came of them stays in their journal. */
async function giveUp({ db }: AppContext, row: FootageRow, error: unknown): Promise<never> {
  if (error instanceof UserFacingError || isDiskFull(error)) throw error
  console.error(`Footage ${row.id} cannot be written as a film:`, error)
  await db.write(async (tx) => {
    await tx.update(footage).set({ state: 'sealed', problem: UNREADABLE }).where(eq(footage.id, row.id))
    // where it would be seen is not known; that it is not is told at its slide
    await attach(tx, row.takeId, { footageId: row.id, start: 0, end: 1, from: 0 })
  })
  throw new UserFacingError(UNREADABLE, 415)
}

/** The take it was recorded with shows it from now on. */
async function attach(tx: Tables, takeId: string, cut: FootageCut) {
  const [take] = await tx.select({ footage: takes.footage }).from(takes).where(eq(takes.id, takeId))
  const before = take?.footage ?? []
  const others = before.filter(({ footageId }) => footageId !== cut.footageId)
  // more of it came, and it had been left out: it stays so
  const isLeftOut = before.some((one) => one.footageId === cut.footageId && one.isLeftOut)
  const all = [...others, { ...cut, ...(isLeftOut && { isLeftOut }) }].sort((a, b) => a.start - b.start)
  await tx.update(takes).set({ footage: all }).where(eq(takes.id, takeId))
}

/** Seals what of a take's footage nobody sealed, before the take itself is: its recorder is gone. */
export async function sealOpenFootage(context: AppContext, queue: JobAdder, takeId: string) {
  const open = await context.db.read
    .select({ id: footage.id })
    .from(footage)
    .where(and(eq(footage.takeId, takeId), eq(footage.state, 'recording')))
    .orderBy(asc(footage.createdAt))
  for (const { id } of open)
    await sealFootage(context, queue, { takeId, id }, null).catch((error) => {
      if (!(error instanceof UserFacingError)) throw error
    })
}

/** Seals what came late of takes that are sealed, and whose browser is gone again. @param minimumIdleMs 0 at start */
export async function recoverFootage(context: AppContext, queue: JobAdder, minimumIdleMs: number) {
  const open = await context.db.read
    .select({ id: footage.id, takeId: footage.takeId, createdAt: footage.createdAt })
    .from(footage)
    .innerJoin(takes, eq(takes.id, footage.takeId))
    .where(and(eq(footage.state, 'recording'), eq(takes.state, 'sealed')))
  for (const { id, takeId, createdAt } of open) {
    const idle = (await context.footageJournals.idleMs(id)) ?? Date.now() - createdAt
    if (idle < minimumIdleMs) continue
    await sealFootage(context, queue, { takeId, id }, null).catch((error) =>
      console.error(`Footage ${id} could not be recovered yet:`, error),
    )
  }
}

/** A take of which nothing was heard has no footage either. */
export async function dropFootageOf({ db, footageJournals }: AppContext, takeId: string) {
  const rows = await db.write((tx) => tx.delete(footage).where(eq(footage.takeId, takeId)).returning())
  for (const { id } of rows) await footageJournals.remove(id)
}

/** Lets journals of footage that was put together go, where nothing was added for so long and its file can be shown. */
export async function letOldFootageGo({ db, footageJournals }: Pick<AppContext, 'db' | 'footageJournals'>, keptMs: number) {
  const found = and(eq(footage.state, 'sealed'), eq(footage.recovered, true), isNotNull(footage.proxy))
  for (const { id } of await db.read.select({ id: footage.id }).from(footage).where(found)) {
    const idle = await footageJournals.idleMs(id)
    if (idle !== null && idle >= keptMs) await footageJournals.remove(id)
  }
}
