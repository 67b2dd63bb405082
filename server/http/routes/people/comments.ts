/** Comments on moments of a lecture. */

import { eq } from 'drizzle-orm'
import { type Context, Hono } from 'hono'
import { z } from 'zod'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { comments } from '#server/db/people-schema.ts'
import { validate } from '#server/http/validate.ts'
import { addComment, readComments, setCommentDeleted, setSettled } from '#server/people/comments.ts'
import type { Env } from './sign-in-parts.ts'

const NewComment = z.strictObject({
  slideId: z.string(),
  takeId: z.string().nullable(),
  at: z.number().min(0).max(86_400).nullable(),
  text: z
    .string()
    .trim()
    .min(1, message('A comment needs words.').id)
    .max(5000, message('A comment has at most 5,000 characters.').id),
  answerTo: z.string().nullable(),
})

export const commentRoutes = (context: AppContext) => {
  const { db, events } = context
  async function told(c: Context<Env>) {
    const [row] = await db.read
      .select()
      .from(comments)
      .where(eq(comments.id, c.req.param('id') ?? ''))
    if (row) events.tell({ type: 'lecture', lectureId: row.lectureId })
  }
  return new Hono<Env>()
    .get('/lectures/:id/comments', async (c) => c.json({ comments: await readComments(db.read, c.req.param('id')) }))
    .post('/lectures/:id/comments', validate('json', NewComment), async (c) => {
      const lectureId = c.req.param('id')
      const id = await addComment(db, c.get('person'), lectureId, c.req.valid('json'))
      events.tell({ type: 'lecture', lectureId })
      return c.json({ id })
    })
    .put('/comments/:id/settled', validate('json', z.strictObject({ settled: z.boolean() })), async (c) => {
      await setSettled(db, c.req.param('id'), c.req.valid('json').settled)
      await told(c)
      return c.json({})
    })
    .put('/comments/:id/deleted', validate('json', z.strictObject({ deleted: z.boolean() })), async (c) => {
      await setCommentDeleted(db, c.get('person'), c.req.param('id'), c.req.valid('json').deleted)
      await told(c)
      return c.json({})
    })
}
