import { Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { z } from 'zod'
import type { AppContext } from '#server/context/context.ts'
import { describeFootage, forgetFootageProblem, setFootageShown } from '#server/domain/lectures/footage.ts'
import { beginFootage, FootageEnding, keepPiece, LARGEST_PIECE, NewFootage, sealFootage } from '#server/domain/takes/footage.ts'
import { validate } from '#server/http/validate.ts'
import type { JobQueue } from '#server/queue/queue.ts'

const OfTake = z.object({ id: z.uuid(), footageId: z.uuid() })
const Piece = OfTake.extend({ piece: z.coerce.number().int().nonnegative() })
const Checksum = z.object({ 'x-checksum': z.coerce.number().int().nonnegative() })
const Ending = FootageEnding.extend({ recovered: z.boolean().default(false) })

/** Screen and camera that are recorded with a take. */
export const footageRoutes = (context: AppContext, queue: JobQueue) => {
  const told = (lectureId: string) => context.events.tell({ type: 'lecture', lectureId })
  return new Hono()
    .put('/takes/:id/footage/:footageId', validate('param', OfTake), validate('json', NewFootage), async (c) => {
      const { id, footageId } = c.req.valid('param')
      await beginFootage(context, id, footageId, c.req.valid('json'))
      return c.json({})
    })
    .put(
      '/takes/:id/footage/:footageId/pieces/:piece',
      bodyLimit({ maxSize: LARGEST_PIECE }),
      validate('param', Piece),
      validate('header', Checksum),
      async (c) => {
        const { id: takeId, footageId: id, piece } = c.req.valid('param')
        const bytes = new Uint8Array(await c.req.arrayBuffer())
        return c.json({ next: await keepPiece(context, { takeId, id }, piece, c.req.valid('header')['x-checksum'], bytes) })
      },
    )
    .post('/takes/:id/footage/:footageId/seal', validate('param', OfTake), validate('json', Ending), async (c) => {
      const { id: takeId, footageId: id } = c.req.valid('param')
      await sealFootage(context, queue, { takeId, id }, c.req.valid('json'))
      return c.json({})
    })
    .put(
      '/takes/:id/footage/:footageId/shown',
      validate('param', OfTake),
      validate('json', z.object({ isShown: z.boolean() })),
      async (c) => {
        const { id, footageId } = c.req.valid('param')
        told(await setFootageShown(context.db, id, footageId, c.req.valid('json').isShown))
        return c.json({})
      },
    )
    .patch('/footage/:id', validate('json', z.object({ description: z.string().max(2000) })), async (c) => {
      told(await describeFootage(context.db, c.req.param('id'), c.req.valid('json').description))
      return c.json({})
    })
    .post('/footage/:id/tries', async (c) => {
      const lectureId = await forgetFootageProblem(context.db, c.req.param('id'))
      const job = await queue.add('footage', lectureId, { footageId: c.req.param('id') })
      told(lectureId)
      return c.json({ job }, 202)
    })
}
