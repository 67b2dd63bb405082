/** What a learner's page tells of what it has shown. */
import { Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { createMiddleware } from 'hono/factory'
import { WatchReport } from '#core/watching/watching.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { validate } from '#server/http/validate.ts'
import { mustBeOpen, openLink } from '#server/watch/links.ts'
import { countWatching } from '#server/watch/watching.ts'
import { type Env, shownBy } from './shown-by.ts'

const MOST_REPORT_BYTES = 50_000
export const reportLimit = bodyLimit({
  maxSize: MOST_REPORT_BYTES,
  onError: () => {
    throw new UserFacingError(message('This is more than a page has to tell.'), 413)
  },
})

/** Nothing of a request is read before it is known that its link opens something. */
export const linkFirst = ({ db }: AppContext) =>
  createMiddleware(async (c, next) => {
    await mustBeOpen(db.read, c.req.param('token')!)
    await next()
  })

export const watchingRoutes = (context: AppContext) =>
  new Hono<Env>().post('/:token/watching/:edition', linkFirst(context), reportLimit, validate('json', WatchReport), async (c) => {
    const { token, edition } = c.req.param()
    const { id } = await openLink(context.db.read, token, shownBy(c), edition)
    // who asks not to be followed is not counted, whatever the page thinks
    if (c.req.header('sec-gpc') !== '1' && c.req.header('dnt') !== '1') await countWatching(context.db, id, c.req.valid('json'))
    return c.json({})
  })
