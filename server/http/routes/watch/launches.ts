/** Somebody whom a learning platform sent to a lecture: where they were, and how far they come. */
import { Hono } from 'hono'
import { LaunchProgress } from '#core/packages/lti.ts'
import type { AppContext } from '#server/context/context.ts'
import { validate } from '#server/http/validate.ts'
import { sendGrades } from '#server/lti/grades.ts'
import { keepProgress, launchRow } from '#server/lti/launches.ts'
import { openLink } from '#server/watch/links.ts'
import { type Env, shownBy } from './shown-by.ts'
import { reportLimit } from './watching.ts'

export const launchRoutes = (context: AppContext) => {
  const { db } = context
  return new Hono<Env>()
    .get('/:token/launches/:launch', async (c) => {
      const { token, launch } = c.req.param()
      await openLink(db.read, token, shownBy(c))
      const { heard, share, isCompleted } = await launchRow(db.read, token, launch)
      return c.json({ heard, share, isCompleted }, 200, { 'cache-control': 'no-store' })
    })
    .put('/:token/launches/:launch', reportLimit, validate('json', LaunchProgress), async (c) => {
      const { token, launch } = c.req.param()
      await keepProgress(db, await launchRow(db.read, token, launch), c.req.valid('json'))
      // nobody waits for the platform
      void sendGrades(context)
      return c.json({})
    })
}
