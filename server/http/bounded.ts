/** How much a request of the API may bring. */
import { bodyLimit } from 'hono/body-limit'
import { createMiddleware } from 'hono/factory'
import { message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

/** Files come in as multipart bodies, which `upload.ts` bounds; everything else that is sent is text of ours, and bounded before anything of it is read. */
const MOST_JSON_BYTES = 16 * 1024 ** 2
const jsonLimit = bodyLimit({
  maxSize: MOST_JSON_BYTES,
  onError: () => {
    throw new UserFacingError(message('This is more than can be saved at once.'), 413)
  },
})

export const bounded = createMiddleware((c, next) =>
  /^multipart\//i.test(c.req.header('content-type') ?? '') ? next() : jsonLimit(c, next),
)
