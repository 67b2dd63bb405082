import { randomUUID } from 'node:crypto'
import { Hono } from 'hono'
import { z } from 'zod'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { BedChange, changeBed, setBedDeleted } from '#server/domain/lectures/beds.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { ONE_FILE, withUpload } from '#server/http/upload.ts'
import { NOTHING_TO_CHANGE, notEmpty, validate } from '#server/http/validate.ts'
import type { JobQueue } from '#server/queue/queue.ts'

export const bedRoutes = (context: AppContext, queue: JobQueue) =>
  new Hono()
    .post('/lectures/:id/beds', async (c) => {
      const lecture = await readLecture(context.db.read, c.req.param('id'))
      const ids = new Set(lecture.slides.map((slide) => slide.id))
      const job = await withUpload(c, context, ONE_FILE, async (upload) => {
        const run = { fromSlideId: upload.field('fromSlideId'), toSlideId: upload.field('toSlideId') }
        if (!ids.has(run.fromSlideId) || !ids.has(run.toSlideId))
          throw new UserFacingError(message('The slides this sound was meant for are not here any more. Choose them again.'), 422)
        return queue.add('bed', lecture.id, { id: randomUUID(), lectureId: lecture.id, ...upload.file(), run })
      })
      return c.json({ job }, 202)
    })
    .patch('/beds/:id', validate('json', BedChange.refine(notEmpty, NOTHING_TO_CHANGE)), async (c) => {
      const lectureId = await changeBed(context.db, c.req.param('id'), c.req.valid('json'))
      context.events.tell({ type: 'lecture', lectureId })
      return c.json({})
    })
    .put('/beds/:id/deleted', validate('json', z.object({ deleted: z.boolean() })), async (c) => {
      const lectureId = await setBedDeleted(context.db, c.req.param('id'), c.req.valid('json').deleted)
      context.events.tell({ type: 'lecture', lectureId })
      return c.json({})
    })
