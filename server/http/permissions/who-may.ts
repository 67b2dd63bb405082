/** Lets a request through, where people sign in, only when who asks may do what its route does. */

import type { Context } from 'hono'
import { createMiddleware } from 'hono/factory'
import type { Person } from '#core/people/person.ts'
import { holds, SPACE_RIGHTS } from '#core/people/rights.ts'
import { message } from '#core/words/say.ts'
import { type Asker, isLoopback } from '#server/config/asker.ts'
import type { AppContext } from '#server/context/context.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { routeOf } from '#server/http/route-of.ts'
import { rightTo } from '#server/people/lecture-rights.ts'
import { rightInSpace } from '#server/people/spaces.ts'
import { NEEDS, type Need } from './needs.ts'
import type { Asked } from './things.ts'

/** What routes know of who asks. `person` is null where there are no people, and where nobody signed in. */
export interface WhoAsks {
  asker: Asker
  requestId: string
  person: Person | null
}
type Env = { Variables: WhoAsks }

/** So that a program, and the tests, can tell a refusal from a thing that is not there. */
const REFUSED = { refused: true }
const signInFirst = () => new UserFacingError(message('Sign in first.'), 401, REFUSED)
const notThere = () => new UserFacingError(message('This is not here, or it was not shared with you.'), 404, REFUSED)

/** As the router reads a part of an address: what cannot be read stays as it is, and names nothing. */
function decoded(part: string): string {
  try {
    return decodeURIComponent(part)
  } catch {
    return part
  }
}

/** Parts of an address by their names; the route is known before it is asked. */
function askedOf(c: Context, route: string): Asked {
  const names = route.split(' ')[1]!.split('/')
  const given = c.req.path.split('/')
  return {
    param: (name) => decoded(given[names.indexOf(`:${name}`)] ?? ''),
    json: () =>
      c.req.json().catch(() => {
        throw new UserFacingError(message('This request cannot be read. Load the page again.'), 400)
      }),
  }
}

async function mayNot({ db }: AppContext, person: Person, need: Need, asked: Asked): Promise<UserFacingError | null> {
  const { role } = person
  if (need === 'person') return null
  if (need === 'administrator')
    return role === 'administrator' ? null : new UserFacingError(message('Only an administrator may do this.'), 403, REFUSED)
  if (need === 'teacher')
    return role === 'reviewer' ? new UserFacingError(message('Only teachers may do this.'), 403, REFUSED) : null
  if (typeof need === 'string') return notThere()
  if ('inSpace' in need) {
    const right = await rightInSpace(db.read, person, asked.param('id'))
    if (right === null) return notThere()
    return SPACE_RIGHTS.indexOf(right) >= SPACE_RIGHTS.indexOf(need.inSpace)
      ? null
      : new UserFacingError(message('Only who manages this space may do this.'), 403, REFUSED)
  }
  const lectureIds = [...new Set(await need.of(asked, db.read))]
  const rights = await Promise.all(lectureIds.map((id) => rightTo(db.read, person, id)))
  const seen = rights.filter((right) => right !== null)
  const isEnough = need.any ? rights.some((right) => holds(right, need.right)) : rights.every((right) => holds(right, need.right))
  if (rights.length > 0 && isEnough) return null
  if (rights.length === 0 || seen.length < rights.length) return notThere()
  return new UserFacingError(
    need.right === 'own'
      ? message('Only who owns this lecture may do this.')
      : message('You may watch this lecture, but not change it. Ask who owns it.'),
    403,
    REFUSED,
  )
}

/** @returns whether the asker is a program on this very machine */
const isMachine = ({ address, isForwarded }: Asker) => isLoopback(address) && !isForwarded

export const whoMay = (context: AppContext) =>
  createMiddleware<Env>(async (c, next) => {
    const { school } = context
    c.set('person', null)
    if (!school) return next()
    const answering = routeOf(c)
    const route = answering && `${answering.method} ${answering.path}`
    // pages and what they are built of: what is in them is asked for by the routes below
    const isPage = /^\/(?!api\/)/.test(c.req.path)
    const need = route === null ? undefined : NEEDS[route]
    if (need === 'machine') {
      if (!isMachine(c.get('asker'))) throw notThere()
      return next()
    }
    const { person, keep } = await school.whoSent(c.req.raw.headers)
    c.set('person', person)
    if (need === undefined) {
      if (isPage || route === null) return next()
      throw person ? notThere() : signInFirst()
    }
    if (need !== 'anyone') {
      if (!person) throw signInFirst()
      const refusal = await mayNot(context, person, need, askedOf(c, route!))
      if (refusal) throw refusal
    }
    await next()
    for (const cookie of keep) c.res.headers.append('set-cookie', cookie)
  })
