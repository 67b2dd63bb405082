import { randomUUID } from 'node:crypto'
import { Hono } from 'hono'
import { z } from 'zod'
import { Card } from '#core/model/slide.ts'
import type { AppContext } from '#server/context/context.ts'
import { changeSlide, isSpoken, lectureOfSlide, SlideChange, setSlideDeleted } from '#server/domain/lectures/edit.ts'
import {
  Arrangement,
  addCard,
  arrangeSteps,
  drawAgain,
  duplicateSlide,
  givePicture,
  NewCard,
} from '#server/domain/lectures/slides.ts'
import { ONE_FILE, withUpload } from '#server/http/upload.ts'
import { NOTHING_TO_CHANGE, notEmpty, validate } from '#server/http/validate.ts'
import { mustHaveRoom } from '#server/people/quotas.ts'
import type { JobQueue } from '#server/queue/queue.ts'

export const slideRoutes = (context: AppContext, queue: JobQueue) => {
  const { db, events } = context
  const told = (lectureId: string) => events.tell({ type: 'lecture', lectureId })
  return (
    new Hono()
      .post('/lectures/:id/cards', validate('json', NewCard), async (c) => {
        const slideId = await addCard(context, c.req.param('id'), c.req.valid('json'))
        told(c.req.param('id'))
        return c.json({ slideId })
      })
      .put('/slides/steps', validate('json', Arrangement), async (c) => {
        told(await arrangeSteps(db, c.req.valid('json')))
        return c.json({})
      })
      .patch('/slides/:id', validate('json', SlideChange.refine(notEmpty, NOTHING_TO_CHANGE)), async (c) => {
        const change = c.req.valid('json')
        const slideId = c.req.param('id')
        const lectureId = await changeSlide(db, slideId, change)
        // before the answer, so that whoever waits for the captions finds the job that makes them
        const isSaidOtherwise = change.script !== undefined || change.language !== undefined || change.keptTakeId
        if (isSaidOtherwise && (await isSpoken(db.read, slideId))) await queue.add('align', lectureId, { slideId })
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
      .post('/slides/:id/pictures', async (c) => {
        const slideId = c.req.param('id')
        await lectureOfSlide(db.read, slideId)
        const stepId = await withUpload(c, context, ONE_FILE, async (upload) =>
          givePicture(context, slideId, upload.file(), upload.field('insteadOf') || null),
        )
        return c.json({ stepId })
      })
      .post('/slides/:id/cards', validate('json', Card), async (c) =>
        c.json({ stepId: await drawAgain(context, c.req.param('id'), c.req.valid('json')) }),
      )
      .post('/slides/:id/sounds', async (c) => {
        const slideId = c.req.param('id')
        const lectureId = await lectureOfSlide(db.read, slideId)
        await mustHaveRoom(context, lectureId, 'recorded')
        const job = await withUpload(c, context, ONE_FILE, async (upload) =>
          queue.add('import-sound', lectureId, { id: randomUUID(), slideId, ...upload.file() }),
        )
        return c.json({ job }, 202)
      })
  )
}
