/** Screen and camera of a lecture's takes: read, described, left out, and kept when they have been made ready. */
import { and, eq, isNotNull, isNull, type SQL } from 'drizzle-orm'
import type { ShownFilm } from '#core/model/moving/film.ts'
import type { Footage, FootageCut } from '#core/model/moving/footage.ts'
import { type Message, message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { footage } from '#server/db/moving-schema.ts'
import { slides, takes } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { gone, touch } from './edit.ts'

/** Whatever is wrong with its file: nobody gave it a name. */
export const UNREADABLE = message('What was filmed cannot be read.')

type FootageRow = typeof footage.$inferSelect

const shownOf = ({ proxy, strip, facts }: FootageRow): ShownFilm | null =>
  proxy !== null && strip !== null && facts !== null ? { ...facts, proxy, strip, sound: null } : null

const asFootage = (row: FootageRow): Footage => ({
  id: row.id,
  kind: row.kind,
  isPractice: row.isPractice,
  original: row.original,
  description: row.description,
  shown: shownOf(row),
  problem: row.problem,
})

/** @returns all footage of some lectures, by its id */
export async function readFootage(db: Tables, ofLectures: SQL): Promise<Map<string, Footage>> {
  const rows = await db.select().from(footage).where(ofLectures)
  return new Map(rows.map((row) => [row.id, asFootage(row)]))
}

/** @throws UserFacingError (404) */
export async function footageById(db: Tables, id: string): Promise<FootageRow> {
  const [row] = await db.select().from(footage).where(eq(footage.id, id))
  if (!row) throw gone('recording')
  return row
}

/** Keeps what came of a footage's file, or why nothing did. Where more of the footage has come meanwhile, its file is another one: nothing is kept. */
export async function keepShownFootage(db: Database, id: string, file: string, made: ShownFilm | Message) {
  await db.write(async (tx) => {
    const { lectureId, original } = await footageById(tx, id)
    if (original !== file) return
    if ('proxy' in made) {
      const { proxy, sound: _, strip, ...facts } = made
      await tx.update(footage).set({ proxy, strip, facts, problem: null }).where(eq(footage.id, id))
    } else await tx.update(footage).set({ problem: made }).where(eq(footage.id, id))
    await touch(tx, lectureId)
  })
}

/** Says what it shows. @returns id of the lecture */
export async function describeFootage(db: Database, id: string, description: string): Promise<string> {
  return db.write(async (tx) => {
    const { lectureId } = await footageById(tx, id)
    await tx.update(footage).set({ description }).where(eq(footage.id, id))
    await touch(tx, lectureId)
    return lectureId
  })
}

/** Lets it be tried once more. @returns id of the lecture @throws UserFacingError where there is no file to try it with */
export async function forgetFootageProblem(db: Database, id: string): Promise<string> {
  return db.write(async (tx) => {
    const { lectureId, original } = await footageById(tx, id)
    if (original === null) throw new UserFacingError(UNREADABLE, 422)
    await tx.update(footage).set({ problem: null }).where(eq(footage.id, id))
    await touch(tx, lectureId)
    return lectureId
  })
}

/** Leaves a part of a footage out of its take's slide, or brings it back. @returns id of the lecture */
export async function setFootageShown(db: Database, takeId: string, footageId: string, isShown: boolean): Promise<string> {
  return db.write(async (tx) => {
    const [row] = await tx.select().from(takes).innerJoin(slides, eq(slides.id, takes.slideId)).where(eq(takes.id, takeId))
    if (!row?.takes.footage?.some((cut) => cut.footageId === footageId)) throw gone('take')
    const cuts = row.takes.footage.map(({ isLeftOut, ...cut }): FootageCut => {
      const left = cut.footageId === footageId ? !isShown : isLeftOut === true
      return left ? { ...cut, isLeftOut: true } : cut
    })
    await tx.update(takes).set({ footage: cuts }).where(eq(takes.id, takeId))
    await touch(tx, row.slides.lectureId)
    return row.slides.lectureId
  })
}

/** Footage of a lecture that is whole, not ready, and not known to be unreadable. */
export async function unreadyFootage(db: Tables, lectureId: string): Promise<string[]> {
  const rows = await db
    .select({ id: footage.id })
    .from(footage)
    .where(and(eq(footage.lectureId, lectureId), isNotNull(footage.original), isNull(footage.proxy), isNull(footage.problem)))
  return rows.map((row) => row.id)
}
