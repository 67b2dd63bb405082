/** Spaces, in which lectures are shared as a whole. */

import { type Context, Hono } from 'hono'
import { z } from 'zod'
import { SPACE_RIGHTS } from '#core/people/rights.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import type { WhoAsks } from '#server/http/permissions/who-may.ts'
import { NOTHING_TO_CHANGE, notEmpty, validate } from '#server/http/validate.ts'
import { someoneHere } from '#server/people/people.ts'
import { changeSpace, makeSpace, readSpaces, setSpaceMember } from '#server/people/spaces.ts'

type Env = { Variables: WhoAsks }
const Name = z.string().trim().min(1, message('A space needs a name.').id).max(100)

export const spaceRoutes = (context: AppContext) => {
  const { db } = context
  const by = (c: Context<Env>) => c.get('person')!
  return new Hono<Env>()
    .get('/spaces', async (c) => c.json({ spaces: await readSpaces(db.read, by(c)) }))
    .post('/spaces', validate('json', z.strictObject({ name: Name })), async (c) =>
      c.json({ id: await makeSpace(db, by(c), c.req.valid('json').name) }),
    )
    .patch(
      '/spaces/:id',
      validate('json', z.strictObject({ name: Name, deleted: z.boolean() }).partial().refine(notEmpty, NOTHING_TO_CHANGE)),
      async (c) => {
        await changeSpace(db, by(c), c.req.param('id'), c.req.valid('json'))
        return c.json({})
      },
    )
    .put(
      '/spaces/:id/members/:personId',
      validate('json', z.strictObject({ right: z.enum(SPACE_RIGHTS).nullable() })),
      async (c) => {
        const { id, personId } = c.req.param()
        const { right } = c.req.valid('json')
        if (right !== null) await someoneHere(db.read, personId)
        await setSpaceMember(db, by(c), id, personId, right)
        return c.json({})
      },
    )
}
