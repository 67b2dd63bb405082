import { Hono } from 'hono'
import { z } from 'zod'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { ONE_FILE, withUpload } from '#server/http/upload.ts'
import { NOTHING_TO_CHANGE, notEmpty, validate } from '#server/http/validate.ts'
import { bringFor } from '#server/people/just-brought.ts'
import { editionsKept, mustHaveRoom } from '#server/people/quotas.ts'
import { allEstimates } from '#server/publish/estimates.ts'
import { PACKAGE_KINDS, sendPackage, WantedPackage } from '#server/publish/packages/packages.ts'
import { packWebFolder } from '#server/publish/web-folder.ts'
import type { JobQueue } from '#server/queue/queue.ts'
import { withFilesHere } from '#server/storage/file-store.ts'
import { serveFile } from '#server/storage/serve.ts'
import { downloadName, editionFile, readEdition, readEditions, setEditionDeleted } from '#server/watch/editions.ts'
import { changeLink, LinkChange, makeLink, readLinks } from '#server/watch/links.ts'
import type { PasscodeTries } from '#server/watch/passcode.ts'

export const editionRoutes = (context: AppContext, queue: JobQueue, tries: PasscodeTries) => {
  const { db, store, events } = context
  return new Hono()
    .get('/lectures/:id/editions', async (c) => {
      const id = c.req.param('id')
      return c.json({
        editions: await readEditions(db.read, id),
        links: await readLinks(db.read, id),
        /** How many are kept; null for all. */
        kept: context.school && (await editionsKept(db.read, id)),
      })
    })
    .post('/lectures/:id/editions', async (c) => {
      const { id, slides } = await readLecture(db.read, c.req.param('id'))
      if (slides.every((slide) => slide.hidden))
        throw new UserFacingError(message('There is no slide to show. Show a hidden slide, then publish.'), 422)
      await mustHaveRoom(context, id, 'editions')
      return c.json({ job: await queue.add('publish', id, { lectureId: id }) }, 202)
    })
    .get('/lectures/:id/estimates', async (c) => {
      const lecture = await readLecture(db.read, c.req.param('id'))
      return c.json({ videos: lecture.slides.every((s) => s.hidden) ? [] : await allEstimates(context, lecture) })
    })
    .post('/lectures/:id/crests', async (c) => {
      await readLecture(context.db.read, c.req.param('id'))
      const picture = await withUpload(c, context, ONE_FILE, async (upload) => {
        const { name, file } = upload.file()
        return withFilesHere(context.store, [file], () =>
          context.workers.importer.run('crest', { name, file, dataFolder: context.config.dataFolder }, { name }),
        )
      })
      bringFor(c.req.param('id'), picture)
      return c.json({ picture })
    })
    .post('/lectures/:id/links', validate('json', z.object({ name: z.string().trim().min(1).max(100) })), async (c) => {
      const { id } = await readLecture(db.read, c.req.param('id'))
      const token = await makeLink(db, id, c.req.valid('json').name)
      events.tell({ type: 'lecture', lectureId: id })
      return c.json({ token })
    })
    .patch('/links/:token', validate('json', LinkChange.refine(notEmpty, NOTHING_TO_CHANGE)), async (c) => {
      const change = c.req.valid('json')
      const lectureId = await changeLink(db, c.req.param('token'), change)
      if (change.passcode !== undefined) tries.forget(c.req.param('token'))
      events.tell({ type: 'lecture', lectureId })
      return c.json({})
    })
    .put('/editions/:id/deleted', validate('json', z.object({ deleted: z.boolean() })), async (c) => {
      const lectureId = await setEditionDeleted(db, c.req.param('id'), c.req.valid('json').deleted)
      events.tell({ type: 'lecture', lectureId })
      return c.json({})
    })
    .get('/editions/:id/folder', async (c) => packWebFolder(c, context, await readEdition(db.read, c.req.param('id'))))
    .get(
      '/editions/:id/packages/:kind',
      validate('param', z.object({ id: z.string(), kind: z.enum(PACKAGE_KINDS) })),
      validate('query', WantedPackage),
      async (c) => {
        const { id, kind } = c.req.valid('param')
        return sendPackage(c, context, kind, await readEdition(db.read, id), c.req.valid('query'))
      },
    )
    .get('/editions/:id/files/:name', async (c) => {
      const row = await editionFile(db.read, c.req.param('id'), c.req.param('name'))
      return serveFile(store, (h) => c.req.header(h), c.req.method, {
        name: row.file,
        contentType: row.contentType,
        cacheControl: 'private, no-cache',
        download: downloadName((await readEdition(db.read, c.req.param('id'))).manifest.title, row.name),
      })
    })
}
