/** oEmbed: what a link opens, for pages that show it within themselves. */
import { Hono } from 'hono'
import { z } from 'zod'
import { message } from '#core/words/say.ts'
import type { Asker } from '#server/config/asker.ts'
import type { AppContext } from '#server/context/context.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { validate } from '#server/http/validate.ts'
import { oembed, watchAddress } from '#server/watch/embedding.ts'
import { openLink } from '#server/watch/links.ts'

const Pixels = z.coerce.number().int().positive().max(10_000).optional()
const Asked = z.object({ url: z.string().max(2000), maxwidth: Pixels, maxheight: Pixels, format: z.string().default('json') })

const NOTHING = () => new UserFacingError(message('This link opens nothing that may stand in another page.'), 404)

/** @returns the token of a watch page's address */
function tokenIn(url: string): string {
  try {
    const found = /^\/watch\/([\w-]+)\/?$/.exec(new URL(url).pathname)
    if (found) return found[1]!
  } catch {
    // told below
  }
  throw NOTHING()
}

export const oembedRoute = ({ db }: AppContext) =>
  new Hono<{ Variables: { asker: Asker } }>().get('/', validate('query', Asked), async (c) => {
    const { url, maxwidth: width, maxheight: height, format } = c.req.valid('query')
    if (format !== 'json') return c.json({ error: 'Only format=json is given.' }, 501)
    const token = tokenIn(url)
    const { embedIn, manifest } = await openLink(db.read, token, { admitted: undefined, isSignedIn: false })
    if (embedIn === null) throw NOTHING()
    // the code is put into another page as it is: it holds no address that somebody made up
    return c.json(oembed(manifest, watchAddress(c.var.asker, token), { width, height }))
  })
