import { randomUUID } from 'node:crypto'
import { Hono } from 'hono'
import { z } from 'zod'
import { Card } from '#core/lecture.ts'
import type { JobQueue } from '#server/jobs/queue.ts'
import { changeSlide, lectureOfSlide, SlideChange, setSlideDeleted } from '#server/lectures/edit.ts'
import { Arrangement, addCard, arrangeSteps, drawAgain, duplicateSlide, givePicture, NewCard } from '#server/lectures/slides.ts'
import { Sentence } from '#server/sentence.ts'
import type { Tools } from '#server/tools.ts'
import { givenFile, largeFile } from './given-file.ts'
import { validate } from './validate.ts'

export const slideRoutes = (tools: Tools, queue: JobQueue) => {
  const { db, events } = tools
  const told = (lectureId: string) => events.tell({ type: 'lecture', lectureId })
  return (
    new Hono()
      .post('/lectures/:id/cards', validate('json', NewCard), async (c) => {
        const slideId = await addCard(tools, c.req.param('id'), c.req.valid('json'))
        told(c.req.param('id'))
        return c.json({ slideId })
      })
      .put('/slides/steps', validate('json', Arrangement), async (c) => {
        told(await arrangeSteps(db, c.req.valid('json')))
        return c.json({})
      })
      .patch('/slides/:id', validate('json', SlideChange), async (c) => {
        const change = c.req.valid('json')
        const slideId = c.req.param('id')
        const lectureId = await changeSlide(db, slideId, change)
        // before the answer, so that whoever waits for the captions finds the job that makes them
        if (change.script !== undefined || change.keptTakeId) await queue.add('align', lectureId, { slideId })
        told(lectureId)
        return c.json({})
      })
      .put('/slides/:id/deleted', validate('json', z.object({ deleted: z.boolean() })), async (c) => {
        told(await setSlideDeleted(db, c.req.param('id'), c.req.valid('json').deleted))
        return c.json({})
      })
      .post('/slides/:id/copy', async (c) => {
        const { lectureId, slideId } = await duplicateSlide(db, c.req.param('id'))
        told(lectureId)
        return c.json({ slideId })
      })
      // a picture that is not shown yet: `/slides/steps` puts it in, so that it can be undone
      .post('/slides/:id/pictures', largeFile, async (c) => {
        const file = (await c.req.formData()).get('file')
        if (!(file instanceof File)) throw new Sentence('No picture arrived. Choose a PNG, JPEG or WebP file.', 422)
        return c.json({
          stepId: await givePicture(tools, c.req.param('id'), file.name, new Uint8Array(await file.arrayBuffer())),
        })
      })
      .post('/slides/:id/cards', validate('json', Card), async (c) =>
        c.json({ stepId: await drawAgain(tools, c.req.param('id'), c.req.valid('json')) }),
      )
      .post('/slides/:id/sounds', largeFile, async (c) => {
        const slideId = c.req.param('id')
        const lectureId = await lectureOfSlide(db.read, slideId)
        const given = await givenFile(tools, await c.req.formData())
        return c.json({ job: await queue.add('sound', lectureId, { id: randomUUID(), slideId, ...given }) }, 202)
      })
  )
}
