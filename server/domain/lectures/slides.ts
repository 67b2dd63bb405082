/** Slides that are added, copied, drawn again, and put together from pictures. */

import { randomUUID } from 'node:crypto'
import { and, asc, eq, gt, inArray, sql } from 'drizzle-orm'
import { z } from 'zod'
import type { NewDeckFilm } from '#core/deck/match/replace.ts'
import type { GivenFile } from '#core/jobs/job.ts'
import type { Bookmark } from '#core/model/marks.ts'
import { Card } from '#core/model/slide.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { films } from '#server/db/moving-schema.ts'
import { lectures, slides, steps, takes } from '#server/db/schema.ts'
import { isShownStep, isShownTake } from '#server/db/shown.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { cardWarnings, drawCard } from '#server/import/card.ts'
import { noPicture } from '#server/import/kinds/no-picture.ts'
import { isPicture, sniffFile } from '#server/import/kinds/sniff.ts'
import { type KeptPicture, keepPicture } from '#server/import/picture.ts'
import { withFilesHere } from '#server/storage/file-store.ts'
import { gone, touch } from './edit.ts'
import { copyFilms, insertFilms, takeFilmsAlong } from './films.ts'

/** @param afterSlideId null puts it first */
export const NewCard = z.object({ afterSlideId: z.string().nullable(), card: Card })
/** A picture that a slide gets, with what its deck says of it. */
export type NewStep = KeptPicture & { text?: string; afterSeconds?: number | null; films?: NewDeckFilm[] }

/** Which steps each of some slides has, in order; a slide may be taken away as all its steps go to another. */
export const Arrangement = z.object({
  slides: z
    .array(z.object({ id: z.string(), steps: z.array(z.string()).max(200), deleted: z.boolean() }))
    .min(1)
    .max(200),
})
export type Arrangement = z.infer<typeof Arrangement>

/** @returns ids of a slide's steps, in order */
async function placedSteps(tx: Tables, slideId: string): Promise<string[]> {
  const rows = await tx
    .select({ id: steps.id })
    .from(steps)
    .where(and(eq(steps.slideId, slideId), isShownStep))
    .orderBy(asc(steps.position))
  return rows.map((row) => row.id)
}

const altTextOf = (card: Card) => [card.heading, card.line].filter(Boolean).join('. ')

/** Makes room after a slide. @returns the free position */
async function positionAfter(tx: Tables, lectureId: string, slideId: string | null): Promise<number> {
  const [before] = slideId
    ? await tx
        .select()
        .from(slides)
        .where(and(eq(slides.id, slideId), eq(slides.lectureId, lectureId)))
    : []
  if (slideId && !before) throw gone('slide')
  const position = before ? before.position + 1 : 0
  const later = and(eq(slides.lectureId, lectureId), gt(slides.position, position - 1))
  await tx
    .update(slides)
    .set({ position: sql`${slides.position} + 1` })
    .where(later)
  return position
}

async function insertSlide(
  tx: Tables,
  lectureId: string,
  afterSlideId: string | null,
  slide: Pick<
    typeof slides.$inferInsert,
    | 'title'
    | 'altText'
    | 'isAltTextDraft'
    | 'script'
    | 'language'
    | 'timing'
    | 'transition'
    | 'card'
    | 'hidden'
    | 'warnings'
    | 'section'
    | 'questions'
    | 'isPlaced'
  >,
  pictures: readonly NewStep[],
): Promise<string> {
  const id = randomUUID()
  const position = await positionAfter(tx, lectureId, afterSlideId)
  await tx.insert(slides).values({ id, lectureId, position, ...slide })
  for (const [i, picture] of pictures.entries()) await insertStep(tx, { slideId: id, position: i }, picture)
  await touch(tx, lectureId)
  return id
}

/** @returns its id */
async function insertStep(
  tx: Tables,
  place: { slideId: string; position: number; isPlaced?: boolean },
  { films = [], ...picture }: NewStep,
): Promise<string> {
  const id = randomUUID()
  await tx.insert(steps).values({ id, ...place, ...picture })
  await insertFilms(tx, id, films)
  return id
}

/** Adds a text slide. @returns its id */
export async function addCard({ db, store }: AppContext, lectureId: string, { afterSlideId, card }: z.infer<typeof NewCard>) {
  const picture = await keepPicture(store, drawCard(card))
  return db.write(async (tx) => {
    const [lecture] = await tx.select().from(lectures).where(eq(lectures.id, lectureId))
    if (!lecture) throw gone('lecture')
    const slide = { title: card.heading, altText: altTextOf(card), script: '', timing: {}, card, warnings: cardWarnings(card) }
    return insertSlide(tx, lectureId, afterSlideId, slide, [picture])
  })
}

/** Adds a slide that is not shown until `arrangeSteps` puts it in. @returns its id */
export async function insertHiddenSlide(
  db: Database,
  lectureId: string,
  afterSlideId: string | null,
  slide: Parameters<typeof insertSlide>[3],
  pictures: readonly NewStep[],
): Promise<string> {
  return db.write((tx) => insertSlide(tx, lectureId, afterSlideId, { ...slide, isPlaced: false }, pictures))
}

/** Adds a copy after a slide: pictures, script, timing; its recordings stay with the original. @returns the copy's id and lecture */
export async function duplicateSlide(db: Database, id: string): Promise<{ lectureId: string; slideId: string }> {
  return db.write(async (tx) => {
    const [slide] = await tx.select().from(slides).where(eq(slides.id, id))
    if (!slide) throw gone('slide')
    const { lectureId, title, altText, isAltTextDraft, script, language, timing, transition, card, hidden } = slide
    const questions = slide.questions?.map((question) => ({ ...question, id: randomUUID() })) ?? null
    const pictures = await tx
      .select({
        id: steps.id,
        picture: steps.picture,
        thumbnail: steps.thumbnail,
        width: steps.width,
        height: steps.height,
        text: steps.text,
        afterSeconds: steps.afterSeconds,
      })
      .from(steps)
      .where(and(eq(steps.slideId, id), isShownStep))
      .orderBy(asc(steps.position))
    const copy = { title, altText, isAltTextDraft, script, language, timing, transition, card, hidden, questions }
    const slideId = await insertSlide(
      tx,
      lectureId,
      id,
      copy,
      pictures.map(({ id: _, ...picture }) => picture),
    )
    const copies = await tx.select({ id: steps.id }).from(steps).where(eq(steps.slideId, slideId)).orderBy(asc(steps.position))
    for (const [i, { id: from }] of pictures.entries()) await copyFilms(tx, from, copies[i]!.id)
    return { lectureId, slideId }
  })
}

/**
 * Says which pictures make up some slides. The same request with what was before takes it back.
 *
 * @returns id of their lecture
 */
export async function arrangeSteps(db: Database, arrangement: Arrangement): Promise<string> {
  return db.write(async (tx) => {
    const ids = arrangement.slides.map((s) => s.id)
    const rows = await tx.select().from(slides).where(inArray(slides.id, ids))
    const lectureId = rows[0]?.lectureId
    if (!lectureId || rows.length !== new Set(ids).size || rows.some((row) => row.lectureId !== lectureId)) throw gone('slide')
    const known = new Set(
      (
        await tx
          .select({ id: steps.id })
          .from(steps)
          .innerJoin(slides, eq(slides.id, steps.slideId))
          .where(eq(slides.lectureId, lectureId))
      ).map((row) => row.id),
    )
    const named = arrangement.slides.flatMap((s) => s.steps)
    if (named.some((step) => !known.has(step)) || new Set(named).size !== named.length) throw gone('picture')
    for (const s of arrangement.slides) {
      if (!s.deleted && s.steps.length === 0)
        throw new UserFacingError(message('A slide needs a picture. Delete the slide instead.'), 422)
      const [recorded] = await tx
        .select()
        .from(takes)
        .where(and(eq(takes.slideId, s.id), isShownTake))
        .limit(1)
      if (s.deleted && recorded)
        throw new UserFacingError(
          message(
            'A slide with recordings cannot become a step of another one. Delete its takes first; they can be brought back.',
          ),
          409,
        )
    }
    const now = Date.now()
    const staying = new Set(named)
    for (const s of arrangement.slides) {
      const there = await tx.select().from(steps).where(eq(steps.slideId, s.id))
      const leaving = there.map((step) => step.id).filter((step) => !staying.has(step))
      for (const { id } of there.filter((step) => step.offered && !step.isPlaced && staying.has(step.id))) {
        // a page that is chosen for a picture: what moves on that goes along
        const before = there.find((step) => step.isPlaced && step.position === s.steps.indexOf(id))
        const isFirstTime = (await tx.$count(films, eq(films.stepId, id))) === 0
        if (before && isFirstTime && leaving.includes(before.id)) await copyFilms(tx, before.id, id)
      }
      if (leaving.length > 0) await tx.update(steps).set({ isPlaced: false }).where(inArray(steps.id, leaving))
    }
    for (const s of arrangement.slides) {
      for (const [position, step] of s.steps.entries())
        await tx.update(steps).set({ slideId: s.id, position, isPlaced: true }).where(eq(steps.id, step))
      await tx
        .update(slides)
        .set(s.deleted ? { deletedAt: now } : { deletedAt: null, isPlaced: true })
        .where(eq(slides.id, s.id))
    }
    await touch(tx, lectureId)
    return lectureId
  })
}

/**
 * Keeps a picture as a step that is not shown yet: `arrangeSteps` puts it in. The films of the step whose place it takes go along.
 *
 * @param insteadOf a step of the slide; null: its first one
 * @returns the step's id
 */
async function insertInstead(db: Database, slideId: string, picture: NewStep, insteadOf: string | null): Promise<string> {
  return db.write(async (tx) => {
    const placed = await placedSteps(tx, slideId)
    const before = insteadOf === null ? placed[0] : placed.find((step) => step === insteadOf)
    if (!before) throw gone('picture')
    const id = await insertStep(tx, { slideId, position: 0, isPlaced: false }, picture)
    await copyFilms(tx, before, id)
    return id
  })
}

/** The pictures of a new deck's page as steps that are not shown yet. @returns their ids, in order */
export async function insertPage(db: Database, slideId: string, pictures: readonly NewStep[]): Promise<string[]> {
  return db.write(async (tx) => {
    const placed = await placedSteps(tx, slideId)
    if (placed.length === 0) throw gone('slide')
    const ids: string[] = []
    for (const picture of pictures) ids.push(await insertStep(tx, { slideId, position: 0, isPlaced: false }, picture))
    for (const [i, step] of placed.entries()) await takeFilmsAlong(tx, step, ids[Math.min(i, ids.length - 1)]!)
    return ids
  })
}

/** @param insteadOf the step whose place it takes; null: the first @returns id of a step with the given picture, not shown yet */
export async function givePicture(
  context: AppContext,
  slideId: string,
  { name, file }: GivenFile,
  insteadOf: string | null,
): Promise<string> {
  const { store, workers, config, db } = context
  const kind = await store.withLocalFile(file, sniffFile)
  if (!isPicture(kind)) throw new UserFacingError(noPicture(name, kind), 415)
  const input = { given: [{ name, file }], dataFolder: config.dataFolder }
  const [kept] = await withFilesHere(store, [file], () => workers.importer.run('pictures', input, { name }))
  return insertInstead(db, slideId, kept!, insteadOf)
}

/** Draws a text slide anew, as a step that is not shown yet, for its first one. @returns the step's id */
export async function drawAgain({ db, store }: AppContext, slideId: string, card: Card): Promise<string> {
  return insertInstead(db, slideId, await keepPicture(store, drawCard(card)), null)
}

/** Says when the further steps of a slide appear in its kept take. @returns id of the lecture */
export async function setStepMoments(db: Database, takeId: string, moments: Record<string, number>): Promise<string> {
  return db.write(async (tx) => {
    const [row] = await tx.select().from(takes).innerJoin(slides, eq(slides.id, takes.slideId)).where(eq(takes.id, takeId))
    if (!row) throw gone('take')
    await tx.update(takes).set({ stepMoments: moments }).where(eq(takes.id, takeId))
    await touch(tx, row.slides.lectureId)
    return row.slides.lectureId
  })
}

/** Says which places of a take learners can go to. @returns id of the lecture */
export async function setBookmarks(db: Database, takeId: string, bookmarks: Bookmark[]): Promise<string> {
  return db.write(async (tx) => {
    const [row] = await tx.select().from(takes).innerJoin(slides, eq(slides.id, takes.slideId)).where(eq(takes.id, takeId))
    if (!row) throw gone('take')
    await tx.update(takes).set({ bookmarks }).where(eq(takes.id, takeId))
    await touch(tx, row.slides.lectureId)
    return row.slides.lectureId
  })
}
