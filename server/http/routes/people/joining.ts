/** Becoming one of the people: the first by a code, the others by an invitation. */

import { Hono } from 'hono'
import { z } from 'zod'
import type { AppContext } from '#server/context/context.ts'
import { validate } from '#server/http/validate.ts'
import { accept, readInvitation } from '#server/people/invitations.ts'
import { type Env, Joining, refuseIfTooMany, schoolOf, signIn } from './sign-in-parts.ts'

export const joiningRoutes = (context: AppContext) => {
  const { db } = context
  return new Hono<Env>()
    .post('/set-up', validate('json', Joining.extend({ code: z.string().max(100) })), async (c) => {
      const { code, ...given } = c.req.valid('json')
      const school = schoolOf(context)
      const { address } = c.get('asker')
      refuseIfTooMany(school.tries.wait('set-up', address, false))
      await school.setUp(code, given).catch((error) => {
        school.tries.failed('set-up', address, false)
        throw error
      })
      await signIn(context, c, given.email, given.password)
      return c.json({})
    })
    .get('/invitations/:token', async (c) => {
      schoolOf(context)
      const { kind, role, email } = await readInvitation(db.read, c.req.param('token'))
      return c.json({ kind, role, email })
    })
    .post(
      '/invitations/:token',
      validate('json', Joining.extend({ name: z.string().trim().max(100), email: z.string().max(200) })),
      async (c) => {
        const school = schoolOf(context)
        const given = c.req.valid('json')
        const { kind, email } = await readInvitation(db.read, c.req.param('token'))
        if (kind === 'join') Joining.pick({ name: true, email: true }).parse({ name: given.name, email: email || given.email })
        const address = await accept(school.library, db, c.req.param('token'), given)
        return c.json({ needsSecondProof: await signIn(context, c, address, given.password) })
      },
    )
}
