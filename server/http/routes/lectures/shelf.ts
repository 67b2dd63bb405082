/** The shelf: lectures for who asks, the one worked on last first, so many at a time, or those that hold certain words. */

import { z } from 'zod'
import type { Lecture } from '#core/model/lecture.ts'
import type { Person } from '#core/people/person.ts'
import { summary } from '#core/reports/lecture-summary.ts'
import { type Message, message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { slidesWithWords, termsOf, titlesHold } from '#server/domain/lectures/find.ts'
import { readLecture, readLectures, readShelf } from '#server/domain/lectures/read.ts'
import { lecturesWithWords } from '#server/domain/lectures/word-index.ts'
import { hasDemo } from '#server/jobs/make-demo.ts'
import { readOwners } from '#server/people/lecture-rights.ts'
import { isFor, rightsOf } from '#server/people/visible.ts'
import { countEditions } from '#server/watch/editions.ts'

/** Lectures that are answered at a time, and fewer where words are sought: each letter that is typed asks anew. */
const SHELF_PAGE = 20
const FOUND_PAGE = 10

const UNREADABLE = message(
  'This lecture cannot be read: something in the database is not as it should be. Its recordings are untouched in the data folder.',
)

export const ShelfAsked = z.object({
  /** Words that the title, or a slide of the lecture, holds. */
  words: z.string().max(200).default(''),
  /** How many were answered before. */
  from: z.coerce.number().int().min(0).default(0),
  /** Of one space by its id, or those that who asks owns. */
  of: z.string().max(100).optional(),
})
export type ShelfWanted = z.infer<typeof ShelfAsked>

/** @returns those that hold the words in their title or on a slide, all of them where none are sought; and whether all slides were looked at */
async function holding(context: AppContext, shelf: Awaited<ReturnType<typeof readShelf>>, terms: readonly string[]) {
  if (terms.length === 0) return { wanted: shelf, isAll: true }
  const { ids, isAll } = await lecturesWithWords(context.db, terms)
  const titleHolds = titlesHold(terms)
  return { wanted: shelf.filter((one) => ids.has(one.id) || titleHolds(one.title)), isAll }
}

/** Lectures for who asks; one that is damaged is told of and does not take the others with it. */
export async function shelfFor(context: AppContext, person: Person | null, asked: ShelfWanted) {
  const { read } = context.db
  const rights = await rightsOf(context, person)
  const isWanted = ({ id, spaceId }: { id: string; spaceId: string | null }) =>
    asked.of === undefined || (asked.of === 'own' ? isFor(rights, id, 'own') : spaceId === asked.of)
  const visible = (await readShelf(read)).filter((one) => isFor(rights, one.id))
  const terms = termsOf(asked.words)
  const { wanted, isAll } = await holding(context, visible.filter(isWanted), terms)
  const page = wanted.slice(asked.from, asked.from + (terms.length > 0 ? FOUND_PAGE : SHELF_PAGE))
  const ids = page.map(({ id }) => id)
  const owners = rights && (await readOwners(read, ids))
  const editions = await countEditions(read, ids)
  const entry = ({ lecture, updatedAt }: { lecture: Lecture; updatedAt: number }) => ({
    ...summary(lecture),
    updatedAt,
    editions: editions.get(lecture.id) ?? 0,
    /** Who asks may do so much with it, and whose it is; null where one person is alone. */
    right: rights?.get(lecture.id) ?? null,
    owner: owners?.get(lecture.id) ?? null,
    /** The first slides that hold the words; none where nothing was sought, or its title holds them. */
    found: slidesWithWords(lecture, terms),
  })
  const unreadable: { id: string; title: string; problem: Message }[] = []
  const oneByOne = async () => {
    const lectures: ReturnType<typeof entry>[] = []
    for (const { id, title, updatedAt } of page)
      await readLecture(read, id).then(
        (lecture) => lectures.push(entry({ lecture, updatedAt })),
        (error) => {
          console.error(`Lecture ${id} cannot be read:`, error)
          unreadable.push({ id, title, problem: UNREADABLE })
        },
      )
    return lectures
  }
  const lectures = await readLectures(read, ids).then((all) => all.map(entry), oneByOne)
  return {
    lectures,
    unreadable,
    /** Of all that are wanted, on this page and others. */
    total: wanted.length,
    /** False after a newer version was begun, until it has read the words of all slides: more is found a moment later. */
    isAll,
    /** Of all that who asks may see. */
    onShelf: visible.length,
    hasDemo: hasDemo(context.config.demoFolder),
  }
}
