import { randomUUID } from 'node:crypto'
import { Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { z } from 'zod'
import { Language } from '#core/lecture.ts'
import { summary } from '#core/lecture-summary.ts'
import type { JobQueue } from '#server/jobs/queue.ts'
import { changeLecture, LectureChange, reorderSlides, setLectureDeleted } from '#server/lectures/edit.ts'
import { readLecture, readShelf } from '#server/lectures/read.ts'
import { ReplacementChoice, takeOver } from '#server/lectures/replace.ts'
import { Sentence } from '#server/sentence.ts'
import type { Tools } from '#server/tools.ts'
import { readEditions } from '#server/watch/editions.ts'
import { validate } from './validate.ts'

const LARGEST_DECK = 500 * 1024 * 1024
const tooLarge = bodyLimit({
  maxSize: LARGEST_DECK,
  onError: () => {
    throw new Sentence('These files are larger than 500 MB together. Make the pictures in the deck smaller, or divide it.', 413)
  },
})

export const lectureRoutes = (tools: Tools, queue: JobQueue) => {
  /** @throws Sentence when none arrived */
  async function keepFiles(form: FormData): Promise<{ name: string; file: string }[]> {
    const given = form.getAll('files').filter((entry) => entry instanceof File)
    if (given.length === 0) throw new Sentence('No file arrived. Choose a deck or pictures.', 422)
    const files: { name: string; file: string }[] = []
    for (const file of given)
      files.push({ name: file.name, file: await tools.store.put(new Uint8Array(await file.arrayBuffer())) })
    return files
  }
  return new Hono()
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
      const language = Language.catch('en').parse(form.get('language'))
      const files = await keepFiles(form)
      return c.json({ job: await queue.add('import', null, { lectureId: randomUUID(), language, files }) }, 202)
    })
    .post('/:id/decks', tooLarge, async (c) => {
      const { id } = await readLecture(tools.db.read, c.req.param('id'))
      const files = await keepFiles(await c.req.formData())
      return c.json({ job: await queue.add('replace', id, { lectureId: id, files }) }, 202)
    })
    .post('/replacements/:job', validate('json', ReplacementChoice), async (c) =>
      c.json(await takeOver(tools, c.req.param('job'), c.req.valid('json'))),
    )
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
}
