/** Films on slides: read, put in, changed, and kept when they have been made ready. */
import { randomUUID } from 'node:crypto'
import { and, asc, eq, isNotNull, isNull, type SQL } from 'drizzle-orm'
import type { NewDeckFilm } from '#core/deck/match/replace.ts'
import type { GivenFile } from '#core/jobs/job.ts'
import { DEFAULT_FILM, type Film, FilmSettings, filmSeconds, type ShownFilm } from '#core/model/moving/film.ts'
import { type Message, message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { films } from '#server/db/moving-schema.ts'
import { slides, steps } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { gone, touch } from './edit.ts'

/** What one request may change. */
export const FilmChange = FilmSettings.partial()

type FilmRow = typeof films.$inferSelect

const shownOf = ({ proxy, sound, strip, facts }: FilmRow): ShownFilm | null =>
  proxy !== null && strip !== null && facts !== null ? { ...facts, proxy, sound, strip } : null

const asFilm = (row: FilmRow): Film => ({
  id: row.id,
  name: row.name,
  original: row.original,
  hasPoster: row.hasPoster,
  isOfDeck: row.isOfDeck,
  ...FilmSettings.parse({ ...DEFAULT_FILM, ...row.settings }),
  shown: shownOf(row),
  problem: row.problem,
})

/** @param ofSteps which steps @returns films by their steps, in order; deleted ones are left out */
export async function readFilms(db: Tables, ofSteps: SQL): Promise<Map<string, Film[]>> {
  const rows = await db
    .select()
    .from(films)
    .where(and(ofSteps, isNull(films.deletedAt)))
    .orderBy(asc(films.position), asc(films.createdAt))
  const byStep = new Map<string, Film[]>()
  for (const row of rows) byStep.set(row.stepId, [...(byStep.get(row.stepId) ?? []), asFilm(row)])
  return byStep
}

/** Films that came with a deck. */
export async function insertFilms(tx: Tables, stepId: string, given: readonly NewDeckFilm[]) {
  for (const [position, { name, file: original, hasPoster, settings }] of given.entries()) {
    const row = { id: randomUUID(), stepId, position, name, original, hasPoster, isOfDeck: true, settings, createdAt: Date.now() }
    await tx.insert(films).values(row)
  }
}

const filmsOfStep = (tx: Tables, stepId: string): Promise<FilmRow[]> =>
  tx
    .select()
    .from(films)
    .where(and(eq(films.stepId, stepId), isNull(films.deletedAt)))
    .orderBy(asc(films.position), asc(films.createdAt))

/** A copy of a step has the same films. */
export async function copyFilms(tx: Tables, fromStepId: string, toStepId: string) {
  for (const row of await filmsOfStep(tx, fromStepId))
    await tx.insert(films).values({ ...row, id: randomUUID(), stepId: toStepId })
}

/**
 * The page of a new deck comes for a picture: what was put on that by hand stays, and a film that the deck still has keeps all that was set for it
 * but its place, which is the new page's.
 */
export async function takeFilmsAlong(tx: Tables, fromStepId: string, toStepId: string) {
  const coming = await filmsOfStep(tx, toStepId)
  for (const row of await filmsOfStep(tx, fromStepId)) {
    const same = coming.find((film) => film.original === row.original)
    if (same) {
      const settings = { ...row.settings, place: same.settings.place ?? null }
      await tx.update(films).set({ settings }).where(eq(films.id, same.id))
    } else if (!row.isOfDeck)
      await tx.insert(films).values({ ...row, id: randomUUID(), stepId: toStepId, position: coming.length + row.position })
  }
}

/** Puts a film on a step of a slide: over what is there. Doing it again with the same id changes nothing. */
export async function addFilm(db: Database, stepId: string, id: string, { name, file }: GivenFile) {
  await db.write(async (tx) => {
    const [owner] = await tx.select().from(steps).innerJoin(slides, eq(slides.id, steps.slideId)).where(eq(steps.id, stepId))
    if (!owner) throw gone('picture')
    const there = await tx.select({ id: films.id }).from(films).where(eq(films.stepId, stepId))
    const row = { id, stepId, position: there.length, name, original: file, settings: {}, createdAt: Date.now() }
    await tx.insert(films).values(row).onConflictDoNothing()
    await touch(tx, owner.slides.lectureId)
  })
}

/** @returns the lecture a film belongs to @throws UserFacingError (404) */
export async function filmWithLecture(db: Tables, id: string): Promise<{ film: FilmRow; lectureId: string }> {
  const [row] = await db
    .select({ film: films, lectureId: slides.lectureId })
    .from(films)
    .innerJoin(steps, eq(steps.id, films.stepId))
    .innerJoin(slides, eq(slides.id, steps.slideId))
    .where(eq(films.id, id))
  if (!row) throw gone('film')
  return row
}

/** @returns id of the lecture */
export async function changeFilm(db: Database, id: string, change: Partial<FilmSettings>): Promise<string> {
  return db.write(async (tx) => {
    const { film, lectureId } = await filmWithLecture(tx, id)
    const settings = { ...film.settings, ...change }
    const { fromSeconds, toSeconds } = { ...DEFAULT_FILM, ...settings }
    if (toSeconds !== null && toSeconds <= fromSeconds)
      throw new UserFacingError(message('A film must end after it begins. Choose a later end, or an earlier beginning.'), 422)
    await tx.update(films).set({ settings }).where(eq(films.id, id))
    await touch(tx, lectureId)
    return lectureId
  })
}

/** Marks a film as deleted, or brings it back. @returns id of the lecture */
export async function setFilmDeleted(db: Database, id: string, deleted: boolean): Promise<string> {
  return db.write(async (tx) => {
    const { lectureId } = await filmWithLecture(tx, id)
    await tx
      .update(films)
      .set({ deletedAt: deleted ? Date.now() : null })
      .where(eq(films.id, id))
    await touch(tx, lectureId)
    return lectureId
  })
}

/** What came of the same file before, on whatever slide. */
export async function knownFilm(db: Tables, original: string): Promise<ShownFilm | null> {
  const [row] = await db
    .select()
    .from(films)
    .where(and(eq(films.original, original), isNotNull(films.proxy)))
    .limit(1)
  return row ? shownOf(row) : null
}

/** Keeps what came of a film, or why nothing did. */
export async function keepShown(db: Database, id: string, made: ShownFilm | Message) {
  await db.write(async (tx) => {
    const { film, lectureId } = await filmWithLecture(tx, id)
    if ('proxy' in made) {
      const { proxy, sound, strip, ...facts } = made
      const { endTrimSeconds = 0, ...settings } = film.settings
      const end = filmSeconds(made) - endTrimSeconds
      if (endTrimSeconds > 0 && end > (settings.fromSeconds ?? 0)) settings.toSeconds = end
      await tx.update(films).set({ proxy, sound, strip, facts, settings, problem: null }).where(eq(films.id, id))
    } else await tx.update(films).set({ problem: made }).where(eq(films.id, id))
    await touch(tx, lectureId)
  })
}

/** Films of a lecture, of what waits to be put in as well, that are not ready nor known to be unreadable. */
export async function unreadyFilms(db: Tables, lectureId: string): Promise<string[]> {
  const rows = await db
    .select({ id: films.id })
    .from(films)
    .innerJoin(steps, eq(steps.id, films.stepId))
    .innerJoin(slides, eq(slides.id, steps.slideId))
    .where(and(eq(slides.lectureId, lectureId), isNull(films.proxy), isNull(films.problem), isNull(films.deletedAt)))
  return rows.map((row) => row.id)
}

/** Lets a film be tried once more. @returns id of the lecture */
export async function forgetProblem(db: Database, id: string): Promise<string> {
  return db.write(async (tx) => {
    const { lectureId } = await filmWithLecture(tx, id)
    await tx.update(films).set({ problem: null }).where(eq(films.id, id))
    await touch(tx, lectureId)
    return lectureId
  })
}
