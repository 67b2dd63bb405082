/** What people say of moments of a lecture. */

import { randomUUID } from 'node:crypto'
import { and, asc, eq, isNull, or } from 'drizzle-orm'
import type { Comment } from '#core/people/comment.ts'
import type { Person } from '#core/people/person.ts'
import { message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { comments, people } from '#server/db/people-schema.ts'
import { slides, takes } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

const noComment = () => new UserFacingError(message('This comment is not here any more.'), 404)

/** @returns comments that were not deleted, the oldest first */
export async function readComments(read: Tables, lectureId: string): Promise<Comment[]> {
  const rows = await read
    .select({ comment: comments, name: people.name })
    .from(comments)
    .leftJoin(people, eq(people.id, comments.personId))
    .where(and(eq(comments.lectureId, lectureId), isNull(comments.deletedAt)))
    .orderBy(asc(comments.createdAt))
  return rows.map(({ comment: { lectureId: _, deletedAt: __, ...comment }, name }) => ({ ...comment, name }))
}

export interface NewComment {
  slideId: string
  takeId: string | null
  at: number | null
  text: string
  answerTo: string | null
}

/** @throws UserFacingError when slide, take or what is answered are not of this lecture */
export async function addComment(db: Database, person: Person | null, lectureId: string, given: NewComment): Promise<string> {
  const id = randomUUID()
  const { slideId, takeId, answerTo } = given
  await db.write(async (tx) => {
    const [slide] = await tx
      .select()
      .from(slides)
      .where(and(eq(slides.id, slideId), eq(slides.lectureId, lectureId)))
    if (!slide) throw new UserFacingError(message('This slide is not here any more.'), 404)
    if (takeId && (await tx.$count(takes, and(eq(takes.id, takeId), eq(takes.slideId, slideId)))) === 0)
      throw new UserFacingError(message('This take is not here any more. It may have been deleted in another window.'), 404)
    const answered = and(eq(comments.id, answerTo ?? ''), eq(comments.lectureId, lectureId), isNull(comments.answerTo))
    if (answerTo && (await tx.$count(comments, answered)) === 0) throw noComment()
    await tx.insert(comments).values({ ...given, id, lectureId, personId: person?.id ?? null, createdAt: Date.now() })
    // who answers has more to say of it
    if (answerTo) await tx.update(comments).set({ settledAt: null }).where(eq(comments.id, answerTo))
  })
  return id
}

/** A talk is settled with its answers, or opened again. */
export async function setSettled(db: Database, id: string, settled: boolean) {
  const [row] = await db.write((tx) =>
    tx
      .update(comments)
      .set({ settledAt: settled ? Date.now() : null })
      .where(or(eq(comments.id, id), eq(comments.answerTo, id)))
      .returning(),
  )
  if (!row) throw noComment()
}

/** Only who made it takes it away, or brings it back. */
export async function setCommentDeleted(db: Database, person: Person | null, id: string, deleted: boolean) {
  await db.write(async (tx) => {
    const [row] = await tx.select().from(comments).where(eq(comments.id, id))
    if (!row) throw noComment()
    if (row.personId !== (person?.id ?? null))
      throw new UserFacingError(message('Only who wrote a comment takes it away. You may settle it.'), 403)
    await tx
      .update(comments)
      .set({ deletedAt: deleted ? Date.now() : null })
      .where(eq(comments.id, id))
  })
}
