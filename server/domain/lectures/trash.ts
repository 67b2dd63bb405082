/** What was deleted and can be brought back: lectures, and the parts of one. Nothing is taken out of the database; it is shown for a month. */
import { and, desc, eq, gt, inArray, isNull, or } from 'drizzle-orm'
import { type Message, message } from '#core/words/say.ts'
import type { Tables } from '#server/db/database.ts'
import { films } from '#server/db/moving-schema.ts'
import { beds, captionTracks, editions, lectures, slides, steps, takes } from '#server/db/schema.ts'

const SHOWN_MS = 30 * 24 * 3600_000

export interface Trashed {
  kind: 'lecture' | 'slide' | 'take' | 'film' | 'bed' | 'captions' | 'edition'
  id: string
  lectureId: string
  /** As people know it: "Take 2 of “High clouds”". */
  name: Message
  /** Milliseconds since 1970. */
  deletedAt: number
}

const newestFirst = (found: Trashed[]) => found.sort((a, b) => b.deletedAt - a.deletedAt)

export async function readTrashedLectures(db: Tables, now = Date.now()): Promise<Trashed[]> {
  const rows = await db
    .select()
    .from(lectures)
    .where(gt(lectures.deletedAt, now - SHOWN_MS))
    .orderBy(desc(lectures.deletedAt))
  return rows.map(({ id, title, deletedAt }) => ({
    kind: 'lecture',
    id,
    lectureId: id,
    name: message('“{title}”', { title }),
    deletedAt: deletedAt!,
  }))
}

/** Parts of a lecture; what is on a deleted slide comes back with its slide. */
export async function readTrash(db: Tables, lectureId: string, now = Date.now()): Promise<Trashed[]> {
  const since = now - SHOWN_MS
  const found: Trashed[] = []
  const add = (kind: Trashed['kind'], id: string, name: Message, deletedAt: number | null) =>
    found.push({ kind, id, lectureId, name, deletedAt: deletedAt! })
  const slideRows = await db.select().from(slides).where(eq(slides.lectureId, lectureId))
  for (const slide of slideRows)
    if (slide.isPlaced && slide.deletedAt !== null && slide.deletedAt > since)
      add(
        'slide',
        slide.id,
        slide.title === '' ? message('A slide without a title') : message('Slide “{title}”', { title: slide.title }),
        slide.deletedAt,
      )
  const shown = new Map(
    slideRows.filter((slide) => slide.isPlaced && slide.deletedAt === null).map((slide) => [slide.id, slide.title]),
  )
  // what others took back is theirs, and answers stand on a page of their own
  const isOfLecture = and(eq(takes.isAnswer, false), or(isNull(takes.voiceState), eq(takes.voiceState, 'sent')))
  const ofSlides = and(inArray(takes.slideId, [...shown.keys()]), gt(takes.deletedAt, since), isOfLecture)
  for (const take of await db.select().from(takes).where(ofSlides)) {
    const { number } = take
    const title = shown.get(take.slideId)
    const name = title
      ? message('Take {number} of “{title}”', { number, title })
      : message('Take {number} of a slide without a title', { number })
    add('take', take.id, name, take.deletedAt)
  }
  const filmRows = await db
    .select({ film: films })
    .from(films)
    .innerJoin(steps, eq(steps.id, films.stepId))
    .where(and(inArray(steps.slideId, [...shown.keys()]), gt(films.deletedAt, since)))
  for (const { film } of filmRows) add('film', film.id, message('Film “{name}”', { name: film.name }), film.deletedAt)
  for (const bed of await db
    .select()
    .from(beds)
    .where(and(eq(beds.lectureId, lectureId), gt(beds.deletedAt, since))))
    add('bed', bed.id, message('Music “{name}”', { name: bed.name }), bed.deletedAt)
  const ofLecture = and(eq(captionTracks.lectureId, lectureId), gt(captionTracks.deletedAt, since))
  for (const track of await db.select().from(captionTracks).where(ofLecture))
    add(
      'captions',
      track.id,
      message('Captions “{label}” ({language})', { label: track.label, language: track.language }),
      track.deletedAt,
    )
  for (const edition of await db
    .select({ id: editions.id, number: editions.number, deletedAt: editions.deletedAt })
    .from(editions)
    .where(and(eq(editions.lectureId, lectureId), gt(editions.deletedAt, since))))
    add('edition', edition.id, message('Edition {number}', { number: edition.number }), edition.deletedAt)
  return newestFirst(found)
}
