import { Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { z } from 'zod'
import { cuesOnLecture } from '#core/captions/place-cues.ts'
import { writeWebVtt } from '#core/captions/webvtt/write.ts'
import { Language } from '#core/lecture.ts'
import { attachCaptions, setTrackDeleted } from '#server/lectures/captions.ts'
import { readLecture } from '#server/lectures/read.ts'
import { Sentence } from '#server/sentence.ts'
import type { Tools } from '#server/tools.ts'
import { validate } from './validate.ts'

const tooLarge = bodyLimit({
  maxSize: 6_000_000,
  onError: () => {
    throw new Sentence('This file is larger than 5 MB, which no caption file is. Choose another file.', 413)
  },
})

export const captionRoutes = ({ db, events }: Tools) =>
  new Hono()
    .post('/lectures/:id/captions', tooLarge, async (c) => {
      const form = await c.req.formData()
      const file = form.get('file')
      if (!(file instanceof File)) throw new Sentence('No file arrived. Choose a .vtt file.', 422)
      const language = Language.catch('en').parse(form.get('language'))
      const lectureId = c.req.param('id')
      const attached = await attachCaptions(db, lectureId, file.name, new Uint8Array(await file.arrayBuffer()), language)
      events.tell({ type: 'lecture', lectureId })
      return c.json(attached)
    })
    .get('/lectures/:id/captions/:trackId', async (c) => {
      const lecture = await readLecture(db.read, c.req.param('id'))
      const track = lecture.captionTracks.find((t) => t.id === c.req.param('trackId').replace(/\.vtt$/, ''))
      if (!track) throw new Sentence('These captions are not here any more.', 404)
      const name = encodeURIComponent(`${lecture.title}.${track.language}.vtt`)
      return c.body(writeWebVtt(cuesOnLecture(lecture, track.cues)), 200, {
        'content-type': 'text/vtt; charset=utf-8',
        'content-disposition': `attachment; filename*=UTF-8''${name}`,
      })
    })
    .put('/captions/:id/deleted', validate('json', z.object({ deleted: z.boolean() })), async (c) => {
      const lectureId = await setTrackDeleted(db, c.req.param('id'), c.req.valid('json').deleted)
      events.tell({ type: 'lecture', lectureId })
      return c.json({})
    })
