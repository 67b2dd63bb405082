/** The server as one value: opened on a data folder, closed again. */

import { existsSync } from 'node:fs'
import { readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { serveStatic } from '@hono/node-server/serve-static'
import { Hono } from 'hono'
import { accepts } from 'hono/accepts'
import { languageFor } from '#core/words/languages.ts'
import type { Asker } from './config/asker.ts'
import type { Config } from './config/config.ts'
import { closeContext, openContext } from './context/context.ts'
import { renewCaptions } from './domain/captions/renew-captions.ts'
import { renewClips } from './domain/takes/renew-clips.ts'
import { letOldJournalsGo, recoverTakes } from './domain/takes/takes.ts'
import { asUserFacing } from './errors/user-facing-error.ts'
import { guard, headers } from './http/guard.ts'
import { apiRoutes } from './http/routes/api.ts'
import { docsRoutes } from './http/routes/docs.ts'
import { admittedOf, watchRoutes } from './http/routes/watch.ts'
import { preEncodeOnChange } from './jobs/pre-encode.ts'
import { JOB_REGISTRY } from './jobs/registry.ts'
import { sweep } from './maintenance/sweep.ts'
import { JobQueue } from './queue/queue.ts'
import { lockFolder } from './storage/data-folder.ts'
import { clearScratch } from './storage/file-store.ts'
import { filesOfEdition } from './watch/editions.ts'
import { isOpen, openLink } from './watch/links.ts'
import { describedPage, pageWithWords } from './watch/page.ts'
import { passcodeTries } from './watch/passcode.ts'
import type { Workers } from './workers/pool.ts'

const RECOVERY_EVERY_MS = 20_000

/**
 * @param workers closed with the app; its own when absent
 * @throws UserFacingError when the folder cannot be used, or another app is open on it
 */
export async function openApp(config: Config, workers?: Workers) {
  // before anything else: two apps in one folder would take each other's work away
  const lock = await lockFolder(config.dataFolder)
  const context = await openContext(config, workers).catch((error) => {
    lock.release()
    throw error
  })
  const { db } = context
  await clearScratch(context.store)
  const queue = new JobQueue(context, JOB_REGISTRY)
  await recoverTakes(context, queue, 0)
  await queue.start()
  await renewClips(context, queue)
  await renewCaptions(db)
  const recovery = setInterval(() => {
    queue.look()
    void recoverTakes(context, queue).catch((error) => console.error('Recovery stumbled:', error))
  }, RECOVERY_EVERY_MS)
  recovery.unref()
  const endPreparing = config.prepareAfterMs === null ? () => {} : preEncodeOnChange(context.events, queue, config.prepareAfterMs)
  const sweeping = letOldJournalsGo(context)
    .then(() => sweep(context))
    .catch((error) => console.error('Sweeping stumbled:', error))

  const tries = passcodeTries()
  const page = async (name: 'index' | 'watch') => {
    const file = join(config.webFolder, `${name}.html`)
    return existsSync(file)
      ? readFile(file, 'utf8')
      : '<!doctype html><title>Tidy Lectern</title><p>The web side is not built: run npm run build.</p>'
  }
  const assets = readdir(join(config.webFolder, 'assets')).catch(() => [])
  const api = apiRoutes(context, queue, tries)
  const app = new Hono<{ Variables: { asker: Asker } }>()
    .onError((error, c) => {
      const sentence = asUserFacing(error)
      // what the asker did wrong, and a full disk, is said to the asker
      if (sentence !== error && sentence.status === 500) console.error(error)
      return c.json({ error: sentence.message, said: sentence.said, ...sentence.data }, sentence.status)
    })
    .use(headers)
    .use(guard(config))
    .route('/api/docs', docsRoutes(api as unknown as Hono))
    .route('/api', api)
    .route('/watch', watchRoutes(context, tries))
    .get('/watch/:token', async (c) => {
      // a closed link is 404 for every reader, while people see the page that says so
      const token = c.req.param('token')
      const language = accepts(c, {
        header: 'Accept-Language',
        supports: [],
        default: 'en',
        match: (wanted) => languageFor(wanted.toSorted((a, b) => b.q - a.q).map(({ type }) => type)),
      })
      const built = pageWithWords(await page('watch'), await assets, languageFor([language]))
      if (!(await isOpen(db.read, token))) return c.html(built, 404)
      // what a passcode keeps is not told to those who have not given it
      const opened = await openLink(db.read, token, admittedOf(c)).catch(() => null)
      const { host, isSecure } = c.get('asker')
      const origin = `${isSecure ? 'https' : 'http'}://${host}`
      if (!opened) return c.html(built)
      const files = new Set((await filesOfEdition(db.read, opened.id)).map((file) => file.name))
      return c.html(describedPage(built, opened, files, `${origin}/watch/${token}`))
    })
    .use('/assets/*', async (c, next) => {
      await next()
      // named by their content: what is under a name never changes
      if (c.res.ok) c.header('cache-control', 'public, max-age=31536000, immutable')
    })
    .use('/assets/*', serveStatic({ root: config.webFolder, precompressed: true }))
    .use('/*', serveStatic({ root: config.webFolder, index: 'none' }))
    .get('*', async (c) => c.html(await page('index')))

  return {
    app,
    context,
    queue,
    async close() {
      clearInterval(recovery)
      endPreparing()
      await queue.stop()
      await sweeping
      await closeContext(context)
      lock.release()
    },
  }
}
