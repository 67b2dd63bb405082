import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { z } from 'zod'
import { SaidAgain } from '#core/jobs/job.ts'
import { Bookmarks, Marks } from '#core/model/marks.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { slides, takes } from '#server/db/schema.ts'
import { changeTidyUp, gone, setTakeDeleted } from '#server/domain/lectures/edit.ts'
import { setBookmarks, setStepMoments } from '#server/domain/lectures/slides.ts'
import { beginTake, Ending, keepChunk, keepMarks, NewTake, readTakeSamples, sealTake } from '#server/domain/takes/takes.ts'
import { Checksum, TakeChunk, TakeId } from '#server/http/take-parts.ts'
import { validate } from '#server/http/validate.ts'
import { bytesOf } from '#server/media/sound-files.ts'
import type { JobQueue } from '#server/queue/queue.ts'

/** Half a minute: what is heard while a strength is chosen. */
const MOST_SAMPLES = 30 * 48_000
const LAST_SAMPLE = 24 * 3600 * 48_000
const Samples = z
  .object({
    start: z.coerce.number().int().nonnegative().max(LAST_SAMPLE),
    end: z.coerce.number().int().positive().max(LAST_SAMPLE),
  })
  .refine(({ start, end }) => end > start, message('A stretch must end after it begins.').id)
/** Seconds of the take, by step. */
const StepMoments = z.record(
  z.uuid(),
  z
    .number()
    .nonnegative()
    .max(24 * 3600),
)

export const takeRoutes = (context: AppContext, queue: JobQueue) =>
  new Hono()
    .put('/:id', validate('param', TakeId), validate('json', NewTake), async (c) => {
      await beginTake(context, c.req.valid('param').id, c.req.valid('json'))
      return c.json({})
    })
    .put(
      '/:id/chunks/:chunk',
      bodyLimit({ maxSize: 1_000_000 }),
      validate('param', TakeChunk),
      validate('header', Checksum),
      async (c) => {
        const { id, chunk } = c.req.valid('param')
        const pcm = new Uint8Array(await c.req.arrayBuffer())
        const next = await keepChunk(context, id, chunk, c.req.valid('header')['x-checksum'], pcm)
        return c.json({ next })
      },
    )
    .put('/:id/marks', validate('param', TakeId), validate('json', z.object({ marks: Marks })), async (c) => {
      await keepMarks(context, c.req.valid('param').id, c.req.valid('json').marks)
      return c.json({})
    })
    .post('/:id/seal', validate('param', TakeId), validate('json', Ending), async (c) => {
      const lectureId = await sealTake(context, queue, c.req.valid('param').id, c.req.valid('json'))
      return c.json({ lectureId })
    })
    .post('/again', validate('json', SaidAgain), async (c) => {
      const said = c.req.valid('json')
      const [take] = await context.db.read
        .select()
        .from(takes)
        .innerJoin(slides, eq(slides.id, takes.slideId))
        .where(eq(takes.id, said.takeId))
      if (!take) throw gone('take')
      return c.json({ job: await queue.add('patch-sentence', take.slides.lectureId, { ...said, id: randomUUID() }) }, 202)
    })
    .get('/:id/samples', validate('param', TakeId), validate('query', Samples), async (c) => {
      const { start, end } = c.req.valid('query')
      const samples = await readTakeSamples(context, c.req.valid('param').id, start, Math.min(end, start + MOST_SAMPLES))
      return c.body(Uint8Array.from(bytesOf(samples)), 200, {
        'content-type': 'application/octet-stream',
        'cache-control': 'private, max-age=3600',
      })
    })
    .put('/:id/tidyUp', validate('param', TakeId), validate('json', TidyUp), async (c) => {
      const { id } = c.req.valid('param')
      const lectureId = await changeTidyUp(context.db, id, c.req.valid('json'))
      await queue.add('tidy', lectureId, { takeId: id })
      context.events.tell({ type: 'lecture', lectureId })
      return c.json({})
    })
    .put('/:id/stepMoments', validate('param', TakeId), validate('json', StepMoments), async (c) => {
      const lectureId = await setStepMoments(context.db, c.req.valid('param').id, c.req.valid('json'))
      context.events.tell({ type: 'lecture', lectureId })
      return c.json({})
    })
    .put('/:id/bookmarks', validate('param', TakeId), validate('json', z.object({ bookmarks: Bookmarks })), async (c) => {
      const lectureId = await setBookmarks(context.db, c.req.valid('param').id, c.req.valid('json').bookmarks)
      context.events.tell({ type: 'lecture', lectureId })
      return c.json({})
    })
    .put('/:id/deleted', validate('param', TakeId), validate('json', z.object({ deleted: z.boolean() })), async (c) => {
      const { lectureId, keptTakeId } = await setTakeDeleted(context.db, c.req.valid('param').id, c.req.valid('json').deleted)
      context.events.tell({ type: 'lecture', lectureId })
      return c.json({ keptTakeId })
    })
