/** Becoming one of the people: the first by a code, the others by an invitation. */

import { Hono } from 'hono'
import { z } from 'zod'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { validate } from '#server/http/validate.ts'
import { accept, readInvitation } from '#server/people/invitations.ts'
import { type Env, Joining, schoolOf, signIn, tried } from './sign-in-parts.ts'

/** Who chooses a new password is asked for neither. @throws UserFacingError */
function mustBeSome(given: { name: string; email: string }) {
  const { error } = Joining.pick({ name: true, email: true }).safeParse(given)
  const [issue] = error?.issues ?? []
  if (issue) throw new UserFacingError({ id: issue.message }, 422)
}

export const joiningRoutes = (context: AppContext) => {
  const { db } = context
  return new Hono<Env>()
    .post('/set-up', validate('json', Joining.extend({ code: z.string().max(100) })), async (c) => {
      const { code, ...given } = c.req.valid('json')
      const school = schoolOf(context)
      const { address } = c.get('asker')
      const wrong = new UserFacingError(message('This is not the code. It stands where the server was started.'), 422)
      await tried(school, ['set-up', address, false], wrong, () => school.setUp(code, given))
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
        if (kind === 'join') mustBeSome({ name: given.name, email: email || given.email })
        const address = await accept(school.library, db, c.req.param('token'), given)
        return c.json({ needsSecondProof: await signIn(context, c, address, given.password) })
      },
    )
}
