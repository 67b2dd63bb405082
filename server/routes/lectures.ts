import { randomUUID } from 'node:crypto'
import { Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { z } from 'zod'
import { Language } from '#core/lecture.ts'
import { summary } from '#core/lecture-summary.ts'
import type { JobQueue } from '#server/jobs/queue.ts'
import { changeLecture, LectureChange, reorderSlides, setLectureDeleted } from '#server/lectures/edit.ts'
import { readLecture, readShelf } from '#server/lectures/read.ts'
import { Sentence } from '#server/sentence.ts'
import type { Tools } from '#server/tools.ts'
import { readEditions } from '#server/watch/links.ts'
import { validate } from './validate.ts'

const LARGEST_DECK = 500 * 1024 * 1024
const tooLarge = bodyLimit({
  maxSize: LARGEST_DECK,
  onError: () => {
    throw new Sentence('These files are larger than 500 MB together. Make the pictures in the deck smaller, or divide it.', 413)
  },
})

export const lectureRoutes = (tools: Tools, queue: JobQueue) =>
  new Hono()
    .get('/', async (c) => {
      const shelf = await readShelf(tools.db.read)
      const lectures = await Promise.all(
        shelf.map(async ({ id, updatedAt }) => ({
          ...summary(await readLecture(tools.db.read, id)),
          updatedAt,
          editions: (await readEditions(tools.db.read, id)).length,
        })),
      )
      return c.json({ lectures })
    })
    .post('/', tooLarge, async (c) => {
      const form = await c.req.formData()
      const given = form.getAll('files').filter((entry) => entry instanceof File)
      if (given.length === 0) throw new Sentence('No file arrived. Choose a PDF or pictures.', 422)
      const language = Language.catch('en').parse(form.get('language'))
      const files: { name: string; file: string }[] = []
      for (const file of given)
        files.push({ name: file.name, file: await tools.store.put(new Uint8Array(await file.arrayBuffer())) })
      return c.json({ job: await queue.add('import', null, { lectureId: randomUUID(), language, files }) }, 202)
    })
    .get('/:id', async (c) => c.json(await readLecture(tools.db.read, c.req.param('id'))))
    .patch('/:id', validate('json', LectureChange), async (c) => {
      await changeLecture(tools.db, c.req.param('id'), c.req.valid('json'))
      tools.events.tell({ type: 'lecture', lectureId: c.req.param('id') })
      return c.json({})
    })
    .put('/:id/deleted', validate('json', z.object({ deleted: z.boolean() })), async (c) => {
      await setLectureDeleted(tools.db, c.req.param('id'), c.req.valid('json').deleted)
      tools.events.tell({ type: 'lecture', lectureId: c.req.param('id') })
      return c.json({})
    })
    .put('/:id/order', validate('json', z.object({ order: z.array(z.string()) })), async (c) => {
      await reorderSlides(tools.db, c.req.param('id'), c.req.valid('json').order)
      tools.events.tell({ type: 'lecture', lectureId: c.req.param('id') })
      return c.json({})
    })
