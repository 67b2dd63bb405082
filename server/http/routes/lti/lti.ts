/** What learning platforms ask: a launch is begun and taken, a teacher chooses, and the app's public key is told. */
import { createHmac } from 'node:crypto'
import { type Context, Hono } from 'hono'
import { getCookie, setCookie } from 'hono/cookie'
import { z } from 'zod'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { asUserFacing, UserFacingError } from '#server/errors/user-facing-error.ts'
import type { Framed } from '#server/http/guard.ts'
import { languageOf } from '#server/http/language-of.ts'
import type { WhoAsks } from '#server/http/permissions/who-may.ts'
import { validate } from '#server/http/validate.ts'
import { answerPicking, originsOf, pickable, readPicking, signPicking } from '#server/lti/deep-linking.ts'
import { beginLogin, type Launch, LoginRequest, takeLaunch } from '#server/lti/launch.ts'
import { keepLaunch, shareOf } from '#server/lti/launches.ts'
import { ownKey } from '#server/lti/platforms.ts'
import { findVoiceLink, mustBeOpen } from '#server/voices/links.ts'
import { joinAsSubject } from '#server/voices/voices.ts'
import { mustBeOpen as mustOpenLecture } from '#server/watch/links.ts'
import { answerPage, boothPage, pickingPage, problemPage } from './pages.ts'

type Env = { Variables: WhoAsks & Framed }

const STATE = 'lectern-lti-state'
const LOGIN_S = 600

const originOf = (c: Context<Env>) => `${c.get('asker').isSecure ? 'https' : 'http'}://${c.get('asker').host}`
const launchAddress = (c: Context<Env>) => `${originOf(c)}/lti/launch`

const Choice = z.object({
  picking: z.string().max(60_000),
  choice: z.string().regex(/^(lecture|class) [\w-]+$/),
  share: z.coerce.number().min(0.1).max(1),
})

const nobody = () =>
  new UserFacingError(message('The learning platform does not say who opens this. Open it as yourself, not as a visitor.'), 403)

/** Where somebody goes who was sent to a class's link. */
async function toBooth(c: Context<Env>, { db }: AppContext, launch: Launch, token: string) {
  const link = await findVoiceLink(db.read, token)
  mustBeOpen(link)
  if (launch.subject === null) throw nobody()
  const subject = `${launch.platform.id} ${launch.subject}`
  const secret = createHmac('sha256', (await ownKey(db)).secret)
    .update(`${token} ${subject}`)
    .digest('base64url')
  const name = launch.name?.trim().slice(0, 80) || launch.subject.slice(0, 80)
  const key = await joinAsSubject(db, token, name, subject, secret)
  // after the #, so that no server and no forwarder writes it down
  return c.html(boothPage(languageOf(c), `${originOf(c)}/record/${token}#${key}`))
}

async function toLecture(c: Context<Env>, { db }: AppContext, launch: Launch, token: string) {
  await mustOpenLecture(db.read, token)
  const id = launch.subject === null ? null : await keepLaunch(db, launch, launch.subject, token)
  return c.redirect(`/watch/${token}${id === null ? '' : `?launch=${id}`}`, 303)
}

export const ltiRoutes = (context: AppContext) => {
  const { db } = context
  const login = async (c: Context<Env>, given: unknown) => {
    const { success, data } = LoginRequest.safeParse(given)
    if (!success) throw new UserFacingError(message('The learning platform’s message lacks what LTI 1.3 asks for.'), 422)
    const { address, state } = await beginLogin(db, data, launchAddress(c))
    const secure = c.get('asker').isSecure
    setCookie(c, STATE, state, { path: '/lti', httpOnly: true, sameSite: secure ? 'None' : 'Lax', secure, maxAge: LOGIN_S })
    return c.redirect(address, 302)
  }
  return new Hono<Env>()
    .onError((error, c) => {
      const { said, status } = asUserFacing(error)
      if (status === 500) console.error('A launch failed:', error)
      c.set('frameAncestors', ['*'])
      return c.html(problemPage(languageOf(c), said), status)
    })
    .get('/keys', async (c) => c.json({ keys: [(await ownKey(db)).publicKey] }))
    .get('/login', (c) => login(c, c.req.query()))
    .post('/login', async (c) => login(c, await c.req.parseBody()))
    .post('/launch', async (c) => {
      const given = await c.req.parseBody()
      if (typeof given.error === 'string')
        throw new UserFacingError(
          message('The learning platform did not open it: {why}', {
            why: String(given.error_description ?? given.error).slice(0, 300),
          }),
          403,
        )
      const { success, data } = z.object({ state: z.string(), id_token: z.string() }).safeParse(given)
      if (!success) throw new UserFacingError(message('The learning platform’s message lacks what LTI 1.3 asks for.'), 422)
      const launch = await takeLaunch(context, data, getCookie(c, STATE))
      c.set('frameAncestors', originsOf(launch.platform))
      if (launch.kind === 'LtiDeepLinkingRequest')
        return c.html(pickingPage(languageOf(c), await signPicking(db, launch), await pickable(context, launch.email)))
      const { link, record } = launch.custom
      if (typeof record === 'string') return toBooth(c, context, launch, record)
      if (typeof link === 'string') return toLecture(c, context, launch, link)
      throw new UserFacingError(
        message('The platform does not say which lecture this is. Put it into the course by choosing it there, as a teacher.'),
        422,
      )
    })
    .post('/choice', validate('form', Choice), async (c) => {
      const { picking, choice, share } = c.req.valid('form')
      const [kind, id] = choice.split(' ') as ['lecture' | 'class', string]
      const read = await readPicking(db, picking)
      const { returnUrl, jwt, platform } = await answerPicking(context, read, { kind, id }, launchAddress(c), shareOf({ share }))
      c.set('frameAncestors', originsOf(platform))
      c.set('formAction', new URL(returnUrl).origin)
      return c.html(answerPage(languageOf(c), { returnUrl, jwt, name: platform.name }))
    })
}
