import { Hono } from 'hono'
import { z } from 'zod'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { validate } from '#server/http/validate.ts'
import { serveFile } from '#server/storage/serve.ts'

const TYPES = {
  png: 'image/png',
  webp: 'image/webp',
  flac: 'audio/flac',
  mp4: 'video/mp4',
  peaks: 'application/octet-stream',
  spectrogram: 'application/octet-stream',
} as const
const File = z.object({
  file: z.string().regex(/^[0-9a-f]{64}\.(png|webp|flac|mp4|peaks|spectrogram)$/, message('There is no such file.').id),
})

/** Pictures, sound, films and peaks by the name of their content; they never change, so browsers may keep them. */
export const fileRoutes = ({ store }: AppContext) =>
  new Hono().get('/:file', validate('param', File), async (c) => {
    const [name, kind] = c.req.valid('param').file.split('.') as [string, keyof typeof TYPES]
    if (!(await store.has(name))) throw new UserFacingError(message('This file is not here any more.'), 404)
    return serveFile(store, (h) => c.req.header(h), c.req.method, {
      name,
      contentType: TYPES[kind],
      cacheControl: 'private, max-age=31536000, immutable',
    })
  })
