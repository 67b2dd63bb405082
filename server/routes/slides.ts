import { Hono } from 'hono'
import { z } from 'zod'
import { changeSlide, SlideChange, setSlideDeleted } from '#server/lectures/edit.ts'
import type { Tools } from '#server/tools.ts'
import { validate } from './validate.ts'

export const slideRoutes = ({ db, events }: Tools) =>
  new Hono()
    .patch('/:id', validate('json', SlideChange), async (c) => {
      const lectureId = await changeSlide(db, c.req.param('id'), c.req.valid('json'))
      events.tell({ type: 'lecture', lectureId })
      return c.json({})
    })
    .put('/:id/deleted', validate('json', z.object({ deleted: z.boolean() })), async (c) => {
      const lectureId = await setSlideDeleted(db, c.req.param('id'), c.req.valid('json').deleted)
      events.tell({ type: 'lecture', lectureId })
      return c.json({})
    })
