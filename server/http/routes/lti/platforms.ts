/** Learning platforms are registered by who looks after the server. */
import { Hono } from 'hono'
import { z } from 'zod'
import { NewPlatform } from '#core/packages/lti.ts'
import type { AppContext } from '#server/context/context.ts'
import { validate } from '#server/http/validate.ts'
import { addPlatform, readPlatforms, setPlatformDeleted } from '#server/lti/platforms.ts'

export const platformRoutes = ({ db }: AppContext) =>
  new Hono()
    .get('/platforms', async (c) => {
      const platforms = await readPlatforms(db.read)
      return c.json({ platforms: platforms.map(({ deletedAt: _, createdAt: __, ...platform }) => platform) })
    })
    .post('/platforms', validate('json', NewPlatform), async (c) => c.json({ id: await addPlatform(db, c.req.valid('json')) }))
    .put(
      '/platforms/:id/deleted',
      validate('param', z.object({ id: z.string() })),
      validate('json', z.object({ deleted: z.boolean() })),
      async (c) => {
        await setPlatformDeleted(db, c.req.valid('param').id, c.req.valid('json').deleted)
        return c.json({})
      },
    )
