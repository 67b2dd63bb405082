/** The one place that is open to strangers: what a link shows. */

import { Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { setCookie } from 'hono/cookie'
import { z } from 'zod'
import { publicManifest, videosOf } from '#core/edition/manifest.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import type { Download } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { validate } from '#server/http/validate.ts'
import { packWebFolder } from '#server/publish/web-folder.ts'
import { serveFile } from '#server/storage/serve.ts'
import { downloadName, editionFile, filesOfEdition, isTranscriptPage } from '#server/watch/editions.ts'
import { countView, openLink, unlock } from '#server/watch/links.ts'
import type { PasscodeTries } from '#server/watch/passcode.ts'
import { playedFiles } from '#server/watch/played-files.ts'
import { launchRoutes } from './launches.ts'
import { ADMITTED, type Env, shownBy } from './shown-by.ts'
import { linkFirst, watchingRoutes } from './watching.ts'

const A_TERM_S = 180 * 24 * 3600

/** What a file is kept as, when it is kept; null for what the page itself needs. */
function downloadKind(name: string): Download | null {
  if (name.startsWith('video')) return 'video'
  if (name.startsWith('sound')) return 'sound'
  if (/^(captions|chapters)\.[^.]+\.(vtt|srt)$/.test(name)) return 'captions'
  if (name.startsWith('transcript')) return 'transcript'
  return null
}

const MOST_ENTRY_BYTES = 10_000
const entryLimit = bodyLimit({
  maxSize: MOST_ENTRY_BYTES,
  onError: () => {
    throw new UserFacingError(message('A passcode is not that long.'), 413)
  },
})

export const watchRoutes = (context: AppContext, tries: PasscodeTries) => {
  const played = playedFiles(context)
  const isOpen = linkFirst(context)
  return (
    new Hono<Env>()
      .route('/', watchingRoutes(context))
      .route('/', launchRoutes(context))
      .get('/:token/edition', async (c) => {
        const { id, number, createdAt, manifest, downloads } = await openLink(context.db.read, c.req.param('token'), shownBy(c))
        const { title, language, lengthSamples, chapters, captions, author = '', burnedIn = null } = manifest
        const files = await filesOfEdition(context.db.read, id)
        const offered = files.flatMap(({ name, bytes }) => {
          const kind = downloadKind(name)
          return kind && downloads.includes(kind) ? [{ name, bytes, kind }] : []
        })
        return c.json(
          {
            ...{ id, number, createdAt, title, author, language, burnedIn, lengthSamples, chapters, captions },
            videos: videosOf(manifest),
            files: offered,
            hasFolder: downloads.includes('folder'),
            hasTranscript: files.some((file) => file.name === 'transcript.html'),
            transcripts: files.map((file) => file.name).filter(isTranscriptPage),
          },
          200,
          { 'cache-control': 'no-store' },
        )
      })
      .post('/:token/entry', isOpen, entryLimit, validate('json', z.object({ passcode: z.string().max(200) })), async (c) => {
        const { token } = c.req.param()
        const { address, isSecure: secure } = c.var.asker
        const admitted = await unlock(context.db.read, tries, token, address, c.req.valid('json').passcode)
        setCookie(c, ADMITTED, admitted, { path: `/watch/${token}`, httpOnly: true, sameSite: 'Lax', secure, maxAge: A_TERM_S })
        return c.json({})
      })
      .post('/:token/views', async (c) => {
        const { token } = c.req.param()
        await openLink(context.db.read, token, shownBy(c))
        await countView(context.db, token)
        return c.json({})
      })
      .get('/:token/folder/:edition', async (c) => {
        const { token, edition } = c.req.param()
        const opened = await openLink(context.db.read, token, shownBy(c), edition)
        if (!opened.downloads.includes('folder')) throw new UserFacingError(message('This edition has no such file.'), 404)
        return packWebFolder(c, context, opened)
      })
      // the edition stands in the address, so that a newer one never changes a file that is being played
      .get('/:token/files/:edition/:name', async (c) => {
        const { token, edition, name } = c.req.param()
        const kind = downloadKind(name)
        const wanted = c.req.query('download') !== undefined
        // while a video plays ranges of it are asked for again and again
        if (!wanted && kind !== 'sound' && name !== 'manifest.json') {
          const { file, contentType } = await played(token, edition, name, shownBy(c))
          return serveFile(context.store, (h) => c.req.header(h), c.req.method, {
            name: file,
            contentType,
            cacheControl: 'private, no-cache',
          })
        }
        const opened = await openLink(context.db.read, token, shownBy(c), edition)
        // the page plays the videos and reads the captions whatever may be kept; the sound alone is only for keeping
        if (kind && (wanted || kind === 'sound') && !opened.downloads.includes(kind))
          throw new UserFacingError(message('This edition has no such file.'), 404)
        // the file of an early edition says more than learners are to see
        if (name === 'manifest.json') return c.json(publicManifest(opened.manifest))
        const row = await editionFile(context.db.read, opened.id, name)
        return serveFile(context.store, (h) => c.req.header(h), c.req.method, {
          name: row.file,
          contentType: row.contentType,
          cacheControl: 'private, no-cache',
          ...(wanted ? { download: downloadName(opened.manifest.title, row.name) } : {}),
        })
      })
  )
}

export type WatchApi = ReturnType<typeof watchRoutes>
