/** Recordings of whoever came by a link: brought piece by piece, sent, heard again and taken back. */
import { Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { z } from 'zod'
import { Marks } from '#core/model/marks.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { Ending, keepChunk, keepMarks, NewTake, sealTake } from '#server/domain/takes/takes.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { Checksum, TakeChunk } from '#server/http/take-parts.ts'
import { validate } from '#server/http/validate.ts'
import type { JobQueue } from '#server/queue/queue.ts'
import { serveFile } from '#server/storage/serve.ts'
import { beginVoiceTake, mustBeShort, ownTake, sendRecording, setWithdrawn } from '#server/voices/recordings.ts'
import { type Env, whoRecords } from './who-records.ts'

const OwnTake = z.object({ token: z.string(), id: z.uuid() })

export const ownTakeRoutes = (context: AppContext, queue: JobQueue) => {
  const { db, store } = context
  const { somebody } = whoRecords(context)
  return new Hono<Env>()
    .put('/:token/takes/:id', validate('param', OwnTake), validate('json', NewTake), async (c) => {
      const { link, voice } = await somebody(c)
      await beginVoiceTake(context, link, voice, c.req.valid('param').id, c.req.valid('json'))
      return c.json({})
    })
    .put(
      '/:token/takes/:id/chunks/:chunk',
      bodyLimit({ maxSize: 1_000_000 }),
      validate('param', TakeChunk.extend({ token: z.string() })),
      validate('header', Checksum),
      async (c) => {
        const { id, chunk } = c.req.valid('param')
        const { voice } = await somebody(c)
        await ownTake(db.read, voice, id)
        mustBeShort(chunk)
        const pcm = new Uint8Array(await c.req.arrayBuffer())
        return c.json({ next: await keepChunk(context, id, chunk, c.req.valid('header')['x-checksum'], pcm) })
      },
    )
    .put('/:token/takes/:id/marks', validate('param', OwnTake), validate('json', z.object({ marks: Marks })), async (c) => {
      const { id } = c.req.valid('param')
      await ownTake(db.read, (await somebody(c)).voice, id)
      await keepMarks(context, id, c.req.valid('json').marks)
      return c.json({})
    })
    .post('/:token/takes/:id/seal', validate('param', OwnTake), validate('json', Ending), async (c) => {
      const { id } = c.req.valid('param')
      await ownTake(db.read, (await somebody(c)).voice, id)
      await sealTake(context, queue, id, c.req.valid('json'))
      return c.json({})
    })
    .put('/:token/takes/:id/sent', validate('param', OwnTake), async (c) => {
      await sendRecording(context, (await somebody(c)).voice, c.req.valid('param').id)
      return c.json({})
    })
    .put(
      '/:token/takes/:id/withdrawn',
      validate('param', OwnTake),
      validate('json', z.object({ withdrawn: z.boolean() })),
      async (c) => {
        const { withdrawn } = c.req.valid('json')
        await setWithdrawn(context, (await somebody(c)).voice, c.req.valid('param').id, withdrawn)
        return c.json({})
      },
    )
    .get('/:token/takes/:id/sound', validate('param', OwnTake), async (c) => {
      const { sound } = await ownTake(db.read, (await somebody(c)).voice, c.req.valid('param').id)
      if (!sound) throw new UserFacingError(message('This recording is still on its way. Wait a moment, then listen.'), 409)
      const served = { name: sound, contentType: 'audio/flac', cacheControl: 'private, no-cache' }
      return serveFile(store, (h) => c.req.header(h), c.req.method, served)
    })
}
