/** What all routes of signing in share. */

import type { Context } from 'hono'
import { getCookie, setCookie } from 'hono/cookie'
import { z } from 'zod'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { WhoAsks } from '#server/http/permissions/who-may.ts'
import type { School } from '#server/people/school.ts'
import { deviceSign, isKnownDevice } from '#server/people/sign-in/sign-in-tries.ts'
import { LONGEST_PASSWORD, SHORTEST_PASSWORD } from '#server/people/sign-in.ts'

export const Password = z
  .string()
  .min(SHORTEST_PASSWORD, message('A password needs ten characters at least.').id)
  .max(LONGEST_PASSWORD)
export const Email = z.email(message('This is no e-mail address.').id).max(200)
const Name = z.string().trim().min(1, message('Say your name.').id).max(100)
export const Joining = z.strictObject({ name: Name, email: Email, password: Password })

const DEVICE = 'lectern-device'
const DEVICE_SECONDS = 365 * 24 * 3600

export type Env = { Variables: WhoAsks }

/** @throws UserFacingError where nobody signs in */
export function schoolOf({ school }: AppContext): School {
  if (!school) throw new UserFacingError(message('Nobody signs in here: this server is one person’s.'), 404)
  return school
}

/** Where an invitation is opened. */
export const joinLink = ({ config }: AppContext, token: string) => `${config.publicUrl ?? ''}/join/${token}`

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

/** A try that is looked at unless there were too many. @param wrong what to say of one that is wrong @throws UserFacingError */
export async function tried<T>(
  school: School,
  [email, address, isKnown]: [email: string, address: string, isKnown: boolean],
  wrong: UserFacingError,
  check: () => Promise<T | null>,
): Promise<T> {
  const result = await school.tries.attempt(email, address, isKnown, check)
  if ('wait' in result)
    throw new UserFacingError(
      message('Too many tries. Wait {minutes, plural, one {a minute} other {# minutes}}, then try again.', {
        minutes: Math.ceil(result.wait / 60_000),
      }),
      429,
      { waitMs: result.wait },
    )
  if ('wrong' in result) throw wrong
  return result.right
}

/** Signs somebody in by address and password. @returns whether a second proof is asked for now */
export async function signIn(context: AppContext, c: Context<Env>, email: string, password: string): Promise<boolean> {
  const school = schoolOf(context)
  const { address, isSecure } = c.get('asker')
  const isKnown = isKnownDevice(school.secret, email, getCookie(c, DEVICE))
  const answer = await tried(school, [email, address, isKnown], wrong(), async () => {
    const given = { body: { email, password }, headers: headersFor(c), asResponse: true as const }
    const said = await school.library.api.signInEmail(given).catch(() => null)
    return said?.ok ? said : null
  })
  keepCookies(c, answer)
  const sign = deviceSign(school.secret, email)
  setCookie(c, DEVICE, sign, { httpOnly: true, sameSite: 'Lax', secure: isSecure, path: '/api', maxAge: DEVICE_SECONDS })
  school.forget()
  return ((await answer.json()) as { twoFactorRedirect?: boolean }).twoFactorRedirect === true
}
