/** A lecture made of pages. */
import { randomUUID } from 'node:crypto'
import { and, asc, eq } from 'drizzle-orm'
import { DEFAULT_TIMING } from '#core/model/timing.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { captionTracks, lectures, slides, steps } from '#server/db/schema.ts'
import { isShownStep } from '#server/db/shown.ts'
import type { ImportedPage } from '#server/import/tasks.ts'
import { insertFilms } from './films.ts'

/** Makes a lecture of pages, in one transaction: either all of it is there or nothing. @returns ids of its slides, in order */
export async function createLecture(
  db: Database,
  id: string,
  title: string,
  language: string,
  pages: readonly ImportedPage[],
): Promise<string[]> {
  return db.write(async (tx) => {
    const slideIds: string[] = []
    const now = Date.now()
    await tx.insert(lectures).values({ id, title, language, timing: DEFAULT_TIMING, createdAt: now, updatedAt: now })
    await tx
      .insert(captionTracks)
      .values({ id: randomUUID(), lectureId: id, language, label: 'From the scripts', origin: 'script' })
    for (const [position, page] of pages.entries()) {
      const slideId = randomUUID()
      const {
        picture,
        thumbnail,
        width,
        height,
        title: slideTitle,
        altText,
        isAltTextDraft = false,
        script = '',
        hidden = false,
        warnings = [],
        buildsOn = false,
        section = '',
      } = page
      const timing = page.holdSeconds == null ? {} : { holdSeconds: page.holdSeconds }
      const said = { title: slideTitle, altText, isAltTextDraft, script, hidden, warnings, buildsOn, section }
      const row = { id: slideId, lectureId: id, position, ...said, timing, transition: page.transition ?? null }
      await tx.insert(slides).values(row)
      const shown = [{ picture, thumbnail, width, height, films: page.films ?? [] }, ...(page.steps ?? [])]
      for (const [i, { films = [], ...step }] of shown.entries()) {
        const id = randomUUID()
        await tx.insert(steps).values({ id, slideId, position: i, ...step })
        await insertFilms(tx, id, films)
      }
      for (const [i, offered] of (page.offered ?? []).entries())
        await tx
          .insert(steps)
          .values({ id: randomUUID(), slideId, position: shown.length + i, ...offered, offered: true, isPlaced: false })
      slideIds.push(slideId)
    }
    return slideIds
  })
}

/** @returns ids of a lecture's slides in order; null when there is no such lecture */
export async function slidesOfLecture(db: Tables, lectureId: string): Promise<string[] | null> {
  const [row] = await db.select({ id: lectures.id }).from(lectures).where(eq(lectures.id, lectureId))
  if (!row) return null
  const rows = await db
    .select({ id: slides.id })
    .from(slides)
    .where(eq(slides.lectureId, lectureId))
    .orderBy(asc(slides.position))
  return rows.map((slide) => slide.id)
}

/** @returns ids of a slide's pictures that are shown, in order */
export async function stepsOfSlide(db: Tables, slideId: string): Promise<string[]> {
  const rows = await db
    .select({ id: steps.id })
    .from(steps)
    .where(and(eq(steps.slideId, slideId), isShownStep))
    .orderBy(asc(steps.position))
  return rows.map((step) => step.id)
}
