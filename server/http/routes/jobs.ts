import { and, desc, inArray, ne, sql } from 'drizzle-orm'
import { Hono } from 'hono'
import { streamSSE } from 'hono/streaming'
import { z } from 'zod'
import { Language } from '#core/language-tag.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { jobs } from '#server/db/schema.ts'
import { chooseLanguage } from '#server/domain/lectures/import-language.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { viewOf } from '#server/events/job-view.ts'
import type { WhoAsks } from '#server/http/permissions/who-may.ts'
import { validate } from '#server/http/validate.ts'
import { audience, rightsOf } from '#server/people/visible.ts'
import type { JobQueue } from '#server/queue/queue.ts'

const SHOWN = 50
const PULSE_MS = 15_000
/** The lecture a job is about, or the one it makes. */
const aboutLecture = sql`coalesce(${jobs.lectureId}, json_extract(${jobs.payload}, '$.lectureId'))`

export const jobRoutes = (context: AppContext, queue: JobQueue) => {
  const { db } = context
  const listen = audience(context)
  return new Hono<{ Variables: WhoAsks }>()
    .get('/jobs', async (c) => {
      const rights = await rightsOf(context, c.get('person'))
      // what nobody asked for is not told of
      const asked = ne(jobs.kind, 'pre-encode')
      const rows = await db.read
        .select()
        .from(jobs)
        .where(rights ? and(asked, inArray(aboutLecture, [...rights.keys()])) : asked)
        .orderBy(desc(jobs.createdAt))
        .limit(SHOWN)
      return c.json({ jobs: rows.map(viewOf) })
    })
    .post('/jobs/:id/cancel', async (c) => {
      const job = await queue.cancel(c.req.param('id'))
      if (!job) throw new UserFacingError(message('This has ended already.'), 409)
      return c.json({ job })
    })
    .put('/jobs/:id/language', validate('json', z.object({ language: Language.nullable() })), async (c) =>
      c.json({ job: await chooseLanguage(context, c.req.param('id'), c.req.valid('json').language) }),
    )
    .get('/events', (c) =>
      streamSSE(c, async (stream) => {
        const end = listen(c.get('person'), (event) => void stream.writeSSE({ data: JSON.stringify(event) }))
        stream.onAbort(end)
        // headers go out with the first words, and with them the browser knows that the line stands
        await stream.writeSSE({ event: 'pulse', data: '' })
        while (!stream.aborted && !stream.closed) {
          await stream.sleep(PULSE_MS)
          // whose session has ended hears nothing more
          if (context.school && !(await context.school.whoSent(c.req.raw.headers)).person) break
          await stream.writeSSE({ event: 'pulse', data: '' })
        }
        end()
      }),
    )
}
