/** What a learner's browser shows to be let in. */
import type { Context } from 'hono'
import { getCookie } from 'hono/cookie'
import type { WhoAsks } from '#server/http/permissions/who-may.ts'
import type { Shown } from '#server/watch/links.ts'

export const ADMITTED = 'lectern-admitted'

export type Env = { Variables: WhoAsks }

export const shownBy = (c: Context<Env>): Shown => ({ admitted: getCookie(c, ADMITTED), isSignedIn: c.get('person') !== null })
