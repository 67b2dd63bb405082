import { randomUUID } from 'node:crypto'
import { Hono } from 'hono'
import { z } from 'zod'
import type { JobQueue } from '#server/jobs/queue.ts'
import { BedChange, changeBed, setBedDeleted } from '#server/lectures/beds.ts'
import { readLecture } from '#server/lectures/read.ts'
import { Sentence } from '#server/sentence.ts'
import type { Tools } from '#server/tools.ts'
import { givenFile, largeFile } from './given-file.ts'
import { validate } from './validate.ts'

export const bedRoutes = (tools: Tools, queue: JobQueue) =>
  new Hono()
    .post('/lectures/:id/beds', largeFile, async (c) => {
      const lecture = await readLecture(tools.db.read, c.req.param('id'))
      const form = await c.req.formData()
      const given = await givenFile(tools, form)
      const ids = new Set(lecture.slides.map((slide) => slide.id))
      const [fromSlideId, toSlideId] = [String(form.get('fromSlideId')), String(form.get('toSlideId'))]
      if (!ids.has(fromSlideId) || !ids.has(toSlideId))
        throw new Sentence('The slides this sound was meant for are not here any more. Choose them again.', 422)
      const run = { fromSlideId, toSlideId }
      return c.json({ job: await queue.add('bed', lecture.id, { id: randomUUID(), lectureId: lecture.id, ...given, run }) }, 202)
    })
    .patch('/beds/:id', validate('json', BedChange), async (c) => {
      const lectureId = await changeBed(tools.db, c.req.param('id'), c.req.valid('json'))
      tools.events.tell({ type: 'lecture', lectureId })
      return c.json({})
    })
    .put('/beds/:id/deleted', validate('json', z.object({ deleted: z.boolean() })), async (c) => {
      const lectureId = await setBedDeleted(tools.db, c.req.param('id'), c.req.valid('json').deleted)
      tools.events.tell({ type: 'lecture', lectureId })
      return c.json({})
    })
