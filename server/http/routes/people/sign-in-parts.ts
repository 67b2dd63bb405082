/** What all routes of signing in share. */

import type { Context } from 'hono'
import { getCookie, setCookie } from 'hono/cookie'
import { z } from 'zod'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { WhoAsks } from '#server/http/permissions/who-may.ts'
import type { School } from '#server/people/school.ts'
import { LONGEST_PASSWORD, SHORTEST_PASSWORD } from '#server/people/sign-in.ts'
import { deviceSign, isKnownDevice } from '#server/people/sign-in-tries.ts'

export const Password = z
  .string()
  .min(SHORTEST_PASSWORD, message('A password needs ten characters at least.').id)
  .max(LONGEST_PASSWORD)
export const Email = z.email(message('This is no e-mail address.').id).max(200)
const Name = z.string().trim().min(1, message('Say your name.').id).max(100)
export const Joining = z.strictObject({ name: Name, email: Email, password: Password })

export const DEVICE = 'lectern-device'
const DEVICE_SECONDS = 365 * 24 * 3600

export type Env = { Variables: WhoAsks }

/** @throws UserFacingError where nobody signs in */
export function schoolOf({ school }: AppContext): School {
  if (!school) throw new UserFacingError(message('Nobody signs in here: this server is one person’s.'), 404)
  return school
}

/** What the library answered, as far as browsers keep it. */
export function keepCookies(c: Context, answer: Response) {
  for (const cookie of answer.headers.getSetCookie()) c.header('set-cookie', cookie, { append: true })
}

/** Who asks, in the words of the library. */
export function headersFor(c: Context<Env>): Headers {
  const headers = new Headers()
  for (const name of ['cookie', 'user-agent']) {
    const value = c.req.header(name)
    if (value) headers.set(name, value)
  }
  headers.set('x-forwarded-for', c.get('asker').address)
  return headers
}

const wrong = () => new UserFacingError(message('Address or password is wrong.'), 401)

export function refuseIfTooMany(wait: number) {
  if (wait > 0)
    throw new UserFacingError(
      message('Too many tries. Wait {minutes, plural, one {a minute} other {# minutes}}, then try again.', {
        minutes: Math.ceil(wait / 60_000),
      }),
      429,
      { waitMs: wait },
    )
}

/** Signs somebody in by address and password. @returns whether a second proof is asked for now */
export async function signIn(context: AppContext, c: Context<Env>, email: string, password: string): Promise<boolean> {
  const school = schoolOf(context)
  const { address, isSecure } = c.get('asker')
  const isKnown = isKnownDevice(school.secret, email, getCookie(c, DEVICE))
  refuseIfTooMany(school.tries.wait(email, address, isKnown))
  const answer = await school.library.api
    .signInEmail({ body: { email, password }, headers: headersFor(c), asResponse: true })
    .catch(() => null)
  if (!answer?.ok) {
    school.tries.failed(email, address, isKnown)
    throw wrong()
  }
  keepCookies(c, answer)
  const sign = deviceSign(school.secret, email)
  setCookie(c, DEVICE, sign, { httpOnly: true, sameSite: 'Lax', secure: isSecure, path: '/api', maxAge: DEVICE_SECONDS })
  school.forget()
  return ((await answer.json()) as { twoFactorRedirect?: boolean }).twoFactorRedirect === true
}
