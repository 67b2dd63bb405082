import { Hono } from 'hono'
import { z } from 'zod'
import type { JobQueue } from '#server/jobs/queue.ts'
import { readLecture } from '#server/lectures/read.ts'
import { Sentence } from '#server/sentence.ts'
import { serveFile } from '#server/store/serve.ts'
import type { Tools } from '#server/tools.ts'
import { editionFile, makeLink, readEditions, readLinks, setLinkRevoked } from '#server/watch/links.ts'
import { validate } from './validate.ts'

export const editionRoutes = ({ db, store, events }: Tools, queue: JobQueue) =>
  new Hono()
    .get('/lectures/:id/editions', async (c) => {
      const id = c.req.param('id')
      return c.json({ editions: await readEditions(db.read, id), links: await readLinks(db.read, id) })
    })
    .post('/lectures/:id/editions', async (c) => {
      const { id, slides } = await readLecture(db.read, c.req.param('id'))
      if (slides.every((slide) => slide.hidden))
        throw new Sentence('There is no slide to show. Show a hidden slide, then publish.', 422)
      return c.json({ job: await queue.add('publish', id, { lectureId: id }) }, 202)
    })
    .post('/lectures/:id/links', validate('json', z.object({ name: z.string().trim().min(1).max(100) })), async (c) => {
      const { id } = await readLecture(db.read, c.req.param('id'))
      const token = await makeLink(db, id, c.req.valid('json').name)
      events.tell({ type: 'lecture', lectureId: id })
      return c.json({ token })
    })
    .put('/links/:token/revoked', validate('json', z.object({ revoked: z.boolean() })), async (c) => {
      await setLinkRevoked(db, c.req.param('token'), c.req.valid('json').revoked)
      return c.json({})
    })
    .get('/editions/:id/files/:name', async (c) => {
      const row = await editionFile(db.read, c.req.param('id'), c.req.param('name'))
      return serveFile((h) => c.req.header(h), c.req.method, {
        path: store.path(row.file),
        name: row.file,
        contentType: row.contentType,
        cacheControl: 'private, no-cache',
        download: row.name,
      })
    })
