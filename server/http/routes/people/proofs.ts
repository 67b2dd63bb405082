/** Passwords and one-time codes, changed by who has them. */

import { and, eq } from 'drizzle-orm'
import { type Context, Hono } from 'hono'
import { z } from 'zod'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { accounts } from '#server/db/people-schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { validate } from '#server/http/validate.ts'
import { setPassword } from '#server/people/people.ts'
import { LONGEST_PASSWORD } from '#server/people/sign-in.ts'
import { type Env, headersFor, keepCookies, Password, schoolOf } from './sign-in-parts.ts'

const Given = z.string().max(LONGEST_PASSWORD)
const wrongPassword = () => new UserFacingError(message('This is not your password.'), 422)

export const proofRoutes = (context: AppContext) => {
  const { db } = context
  /** Routes here are for who signed in: there is somebody. */
  const me = (c: Context<Env>) => c.get('person')!

  async function checkPassword(personId: string, password: string) {
    const [own] = await db.read
      .select()
      .from(accounts)
      .where(and(eq(accounts.personId, personId), eq(accounts.providerId, 'credential')))
    const { password: passwords } = await schoolOf(context).library.$context
    if (!own?.password || !(await passwords.verify({ hash: own.password, password }))) throw wrongPassword()
  }

  return new Hono<Env>()
    .post('/me/password', validate('json', z.strictObject({ current: Given, next: Password })), async (c) => {
      const { current, next } = c.req.valid('json')
      const { id, email } = me(c)
      await checkPassword(id, current)
      const school = schoolOf(context)
      await setPassword(school.library, db, id, next)
      const answer = await school.library.api.signInEmail({
        body: { email, password: next },
        headers: headersFor(c),
        asResponse: true,
      })
      keepCookies(c, answer)
      school.forget()
      return c.json({})
    })
    .post('/me/codes', validate('json', z.strictObject({ password: Given })), async (c) => {
      const { password } = c.req.valid('json')
      await checkPassword(me(c).id, password)
      const made = await schoolOf(context).library.api.enableTwoFactor({ body: { password }, headers: headersFor(c) })
      if (!('totpURI' in made)) throw new Error('No secret was made for one-time codes')
      return c.json({ totpUri: made.totpURI, backupCodes: made.backupCodes })
    })
    .post('/me/codes/confirmed', validate('json', z.strictObject({ code: z.string().trim().max(20) })), async (c) => {
      const school = schoolOf(context)
      const answer = await school.library.api
        .verifyTOTP({ body: c.req.valid('json'), headers: headersFor(c), asResponse: true })
        .catch(() => null)
      if (!answer?.ok) throw new UserFacingError(message('This code is wrong, or too old. Type the one that is shown now.'), 422)
      keepCookies(c, answer)
      school.forget()
      return c.json({})
    })
    .post('/me/codes/off', validate('json', z.strictObject({ password: Given })), async (c) => {
      const { password } = c.req.valid('json')
      await checkPassword(me(c).id, password)
      const school = schoolOf(context)
      const answer = await school.library.api.disableTwoFactor({ body: { password }, headers: headersFor(c), asResponse: true })
      keepCookies(c, answer)
      school.forget()
      return c.json({})
    })
}
