import { randomUUID } from 'node:crypto'
import { Hono } from 'hono'
import { z } from 'zod'
import { Division } from '#core/jobs/job.ts'
import type { AppContext } from '#server/context/context.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { readDivision, readRecordings, setRecordingDeleted } from '#server/domain/takes/recordings.ts'
import { ONE_FILE, withUpload } from '#server/http/upload.ts'
import { validate } from '#server/http/validate.ts'
import { mustHaveRoom } from '#server/people/quotas.ts'
import type { JobQueue } from '#server/queue/queue.ts'

export const recordingRoutes = (context: AppContext, queue: JobQueue) =>
  new Hono()
    .get('/lectures/:id/recordings', async (c) =>
      c.json({ recordings: await readRecordings(context.db.read, c.req.param('id')) }),
    )
    .post('/lectures/:id/recordings', async (c) => {
      const { id: lectureId } = await readLecture(context.db.read, c.req.param('id'))
      await mustHaveRoom(context, lectureId, 'recorded')
      const job = await withUpload(c, context, ONE_FILE, async (upload) =>
        queue.add('recording', lectureId, { id: randomUUID(), lectureId, ...upload.file() }),
      )
      return c.json({ job }, 202)
    })
    .post('/recordings/:id/division', validate('json', Division), async (c) => {
      const division = c.req.valid('json')
      const { recording } = await readDivision(context.db.read, c.req.param('id'), division)
      const takeIds = division.slideIds.map(() => randomUUID())
      const payload = { recordingId: recording.id, takeIds, ...division }
      return c.json({ job: await queue.add('split-recording', recording.lectureId, payload) }, 202)
    })
    .put('/recordings/:id/deleted', validate('json', z.object({ deleted: z.boolean() })), async (c) => {
      const lectureId = await setRecordingDeleted(context.db, c.req.param('id'), c.req.valid('json').deleted)
      context.events.tell({ type: 'lecture', lectureId })
      return c.json({})
    })
