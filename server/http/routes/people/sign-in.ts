/** Signing in and out. */

import { and, eq, isNull } from 'drizzle-orm'
import { type Context, Hono } from 'hono'
import { z } from 'zod'
import type { Language } from '#core/words/languages.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { people } from '#server/db/people-schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { languageOf } from '#server/http/language-of.ts'
import { validate } from '#server/http/validate.ts'
import { inviteToReset } from '#server/people/invitations.ts'
import { type Mail, passwordLetter } from '#server/people/sign-in/mail.ts'
import { LONGEST_PASSWORD, PROVIDER_ID } from '#server/people/sign-in.ts'
import { Email, type Env, headersFor, joinLink, keepCookies, schoolOf, signIn, tried } from './sign-in-parts.ts'

/** Sees to it that somebody who forgot a password has a letter; who asks does not wait for it. @throws UserFacingError where no mail is set up */
async function sendPasswordLink(context: AppContext, email: string, address: string, language: Language) {
  const { mail, letters } = schoolOf(context)
  if (!mail)
    throw new UserFacingError(message('No mail is set up here. An administrator can give you a link for a new password.'), 404)
  if (await letters.mayAsk(email, address)) void sendPasswordLetter(context, mail, email, language)
}

/** To whoever has the address and is here; nobody is told whether there is one. */
async function sendPasswordLetter(context: AppContext, mail: Mail, email: string, language: Language) {
  try {
    const { db } = context
    const isHere = and(eq(people.email, email.toLowerCase()), isNull(people.leftAt))
    const [person] = await db.read.select({ id: people.id, email: people.email }).from(people).where(isHere)
    if (!person) return
    const { token } = await inviteToReset(db, null, person.id)
    await mail.send(passwordLetter(person.email, joinLink(context, token), language))
  } catch (error) {
    console.error('A letter for a new password could not be made:', error)
  }
}

export const signInRoutes = (context: AppContext) => {
  const { config } = context
  return (
    new Hono<Env>()
      .get('/me', async (c) =>
        c.json({
          mode: config.mode,
          person: c.get('person'),
          needsSetUp: (await context.school?.needsSetUp()) ?? false,
          provider: config.identityProvider?.name ?? null,
          hasMail: config.mail !== null,
        }),
      )
      .post(
        '/sign-in',
        validate('json', z.strictObject({ email: Email, password: z.string().max(LONGEST_PASSWORD) })),
        async (c) => {
          const { email, password } = c.req.valid('json')
          return c.json({ needsSecondProof: await signIn(context, c, email, password) })
        },
      )
      .post(
        '/sign-in/second-proof',
        validate('json', z.strictObject({ code: z.string().trim().max(40), isBackup: z.boolean().default(false) })),
        async (c) => {
          const school = schoolOf(context)
          const { code, isBackup } = c.req.valid('json')
          const { address } = c.get('asker')
          const wrong = new UserFacingError(message('This code is wrong, or too old. Type the one that is shown now.'), 401)
          const answer = await tried(school, ['second-proof', address, true], wrong, async () => {
            const given = { body: { code }, headers: headersFor(c), asResponse: true as const }
            const { api } = school.library
            const said = await (isBackup ? api.verifyBackupCode(given) : api.verifyTOTP(given)).catch(() => null)
            return said?.ok ? said : null
          })
          keepCookies(c, answer)
          school.forget()
          return c.json({})
        },
      )
      // answered alike whether anybody has this address, and before it is looked up
      .post('/sign-in/forgotten', validate('json', z.strictObject({ email: Email })), async (c) => {
        await sendPasswordLink(context, c.req.valid('json').email, c.get('asker').address, languageOf(c))
        return c.json({})
      })
      .post('/sign-in/school', async (c) => {
        const school = schoolOf(context)
        if (!config.identityProvider) throw new UserFacingError(message('No sign-in of the school is set up here.'), 404)
        const answer = await school.library.api
          .signInSocial({
            body: { provider: PROVIDER_ID, callbackURL: '/', errorCallbackURL: '/?sign-in=failed' },
            headers: headersFor(c),
            asResponse: true,
          })
          .catch(() => null)
        const { url } = ((await answer?.json().catch(() => null)) ?? {}) as { url?: string }
        if (!answer?.ok || !url)
          throw new UserFacingError(
            message('{name} does not answer as it should. Try again later, or sign in by password.', {
              name: config.identityProvider.name,
            }),
            500,
          )
        keepCookies(c, answer)
        return c.json({ url })
      })
      .post('/sign-out', async (c) => {
        const school = schoolOf(context)
        const answer = await school.library.api.signOut({ headers: headersFor(c), asResponse: true }).catch(() => null)
        if (answer) keepCookies(c, answer)
        school.forget()
        return c.json({})
      })
  )
}

/** What the library answers by itself: the way back from the school's sign-in, and passkeys. */
export const libraryRoutes = (context: AppContext) => {
  const pass = async (c: Context<Env>) => {
    const school = schoolOf(context)
    const headers = new Headers(c.req.raw.headers)
    headers.set('x-forwarded-for', c.get('asker').address)
    const body = c.req.method === 'GET' ? null : await c.req.text()
    const answer = await school.library.handler(new Request(c.req.url, { method: c.req.method, headers, body }))
    school.forget()
    return answer
  }
  return new Hono<Env>()
    .get('/sign-in/callback/:provider', pass)
    .get('/sign-in/passkey/generate-authenticate-options', pass)
    .post('/sign-in/passkey/verify-authentication', pass)
    .get('/sign-in/passkey/generate-register-options', pass)
    .post('/sign-in/passkey/verify-registration', pass)
}
