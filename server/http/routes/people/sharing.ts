/** Who may do what to a lecture. */

import { eq } from 'drizzle-orm'
import { type Context, Hono } from 'hono'
import { z } from 'zod'
import { RIGHTS } from '#core/people/rights.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { lectures } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { WhoAsks } from '#server/http/permissions/who-may.ts'
import { validate } from '#server/http/validate.ts'
import { noteDown } from '#server/people/audit.ts'
import { changeRights, giveRight, handOver, readMembers, rightTo } from '#server/people/lecture-rights.ts'
import { someoneHere } from '#server/people/people.ts'
import { layIntoSpace } from '#server/people/spaces.ts'

type Env = { Variables: WhoAsks }
const SHARED = RIGHTS.filter((right) => right !== 'own')

export const sharingRoutes = (context: AppContext) => {
  const { db, events } = context
  const by = (c: Context<Env>) => c.get('person')!
  const told = (lectureId: string) => events.tell({ type: 'lecture', lectureId })

  return new Hono<Env>()
    .get('/lectures/:id/members', async (c) => {
      const id = c.req.param('id')
      const person = c.get('person')
      const [lecture] = await db.read.select({ spaceId: lectures.spaceId }).from(lectures).where(eq(lectures.id, id))
      return c.json({
        right: person ? await rightTo(db.read, person, id) : ('own' as const),
        members: await readMembers(db.read, id),
        spaceId: lecture?.spaceId ?? null,
      })
    })
    .put(
      '/lectures/:id/members/:personId',
      validate('json', z.strictObject({ right: z.enum(SHARED as ['see', 'comment', 'edit']).nullable() })),
      async (c) => {
        const { id, personId } = c.req.param()
        const { right } = c.req.valid('json')
        const members = await readMembers(db.read, id)
        if (members.some((one) => one.personId === personId && one.right === 'own'))
          throw new UserFacingError(message('Who owns the lecture keeps it. Hand it over first.'), 409)
        if (right !== null) await someoneHere(db.read, personId)
        await changeRights(db, async (tx) => {
          await giveRight(tx, id, personId, right)
          await noteDown(tx, by(c).id, 'shared', id)
        })
        told(id)
        return c.json({})
      },
    )
    .put('/lectures/:id/owner', validate('json', z.strictObject({ personId: z.string() })), async (c) => {
      const { personId } = c.req.valid('json')
      const id = c.req.param('id')
      if ((await someoneHere(db.read, personId)).role === 'reviewer')
        throw new UserFacingError(message('Lectures can be handed over only to a teacher who is here.'), 422)
      await changeRights(db, async (tx) => {
        await handOver(tx, id, personId)
        await noteDown(tx, by(c).id, 'handed-over', id)
      })
      told(id)
      return c.json({})
    })
    .put('/lectures/:id/space', validate('json', z.strictObject({ spaceId: z.string().nullable() })), async (c) => {
      await layIntoSpace(db, by(c), c.req.param('id'), c.req.valid('json').spaceId)
      told(c.req.param('id'))
      return c.json({})
    })
}
