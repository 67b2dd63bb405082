/** The one place that is open to strangers: what a link shows. */
import { Hono } from 'hono'
import { serveFile } from '#server/store/serve.ts'
import type { Tools } from '#server/tools.ts'
import { editionFile, openLink } from '#server/watch/links.ts'

export const watchRoutes = ({ db, store }: Tools) =>
  new Hono()
    .get('/:token/edition', async (c) => {
      const { id, number, createdAt, manifest } = await openLink(db.read, c.req.param('token'))
      const { title, language, lengthSamples, chapters, captions } = manifest
      return c.json({ id, number, createdAt, title, language, lengthSamples, chapters, captions }, 200, {
        'cache-control': 'no-store',
      })
    })
    // the edition stands in the address, so that a newer one never changes a file that is being played
    .get('/:token/files/:edition/:name', async (c) => {
      const edition = await openLink(db.read, c.req.param('token'), c.req.param('edition'))
      const row = await editionFile(db.read, edition.id, c.req.param('name'))
      return serveFile((h) => c.req.header(h), c.req.method, {
        path: store.path(row.file),
        name: row.file,
        contentType: row.contentType,
        cacheControl: 'private, no-cache',
        ...(c.req.query('download') === undefined ? {} : { download: row.name }),
      })
    })

export type WatchApi = ReturnType<typeof watchRoutes>
