/** The server as one value: opened on a data folder, closed again. */

import { serveStatic } from '@hono/node-server/serve-static'
import { Hono } from 'hono'
import type { Config } from './config/config.ts'
import { type AppContext, closeContext, openContext } from './context/context.ts'
import { renewCaptions } from './domain/captions/renew-captions.ts'
import { readWordsAtLeisure } from './domain/lectures/word-index.ts'
import { renewClips } from './domain/takes/renew-clips.ts'
import { renewHeardSounds } from './domain/takes/spoken.ts'
import { letOldJournalsGo, recoverTakes } from './domain/takes/takes.ts'
import { asUserFacing } from './errors/user-facing-error.ts'
import { bounded } from './http/bounded.ts'
import { framing, guard, headers } from './http/guard.ts'
import { type WhoAsks, whoMay } from './http/permissions/who-may.ts'
import { apiRoutes } from './http/routes/api.ts'
import { docsRoutes } from './http/routes/docs.ts'
import { healthRoutes } from './http/routes/health.ts'
import { ltiRoutes } from './http/routes/lti/lti.ts'
import { recordRoutes } from './http/routes/voices/record.ts'
import { oembedRoute } from './http/routes/watch/oembed.ts'
import { builtPage, watchPageRoute } from './http/routes/watch/page.ts'
import { watchRoutes } from './http/routes/watch/watch.ts'
import { preEncodeOnChange } from './jobs/pre-encode.ts'
import { JOB_REGISTRY } from './jobs/registry.ts'
import { sendGrades } from './lti/grades.ts'
import { sweep } from './maintenance/sweep.ts'
import { requestTelling, serverLog } from './operation/log.ts'
import { makeMetrics } from './operation/metrics.ts'
import { adoptByFirst, clearOutdated } from './people/school.ts'
import { JobQueue } from './queue/queue.ts'
import { lockFolder } from './storage/data-folder.ts'
import { clearScratch } from './storage/file-store.ts'
import { clearVoices } from './voices/recordings.ts'
import { passcodeTries } from './watch/passcode.ts'
import type { Workers } from './workers/pool.ts'

/** The author's page, told whether people sign in. */
const pageInMode = (html: string, mode: Config['mode']) =>
  html.replace('<head>', `<head><meta name="lectern-mode" content="${mode}">`)

/** The author's side as it was built. */
const builtPages = ({ webFolder, mode }: Pick<Config, 'webFolder' | 'mode'>) =>
  new Hono()
    .use('/assets/*', async (c, next) => {
      await next()
      // named by their content: what is under a name never changes
      if (c.res.ok) c.header('cache-control', 'public, max-age=31536000, immutable')
    })
    .use('/assets/*', serveStatic({ root: webFolder, precompressed: true }))
    .use('/*', serveStatic({ root: webFolder, index: 'none' }))
    .get('*', async (c) => c.html(pageInMode(await builtPage(webFolder, 'index'), mode)))

const RECOVERY_EVERY_MS = 20_000

/** What another process has added, recordings whose page is gone, words that have changed. */
function lookAgain(context: AppContext, queue: JobQueue, ending: AbortSignal) {
  queue.look()
  void readWordsAtLeisure(context.db, ending).catch((error) => console.error('Words could not be read yet:', error))
  void recoverTakes(context, queue).catch((error) => console.error('Recovery stumbled:', error))
  void sendGrades(context)
  void clearVoices(context).catch((error) => console.error('Recordings of others could not be removed yet:', error))
}

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
  context.sending?.begin()
  const queue = new JobQueue(context, JOB_REGISTRY)
  await recoverTakes(context, queue, 0)
  await queue.start()
  await renewClips(context, queue)
  await renewCaptions(db)
  await renewHeardSounds(context, queue)
  if (context.school) {
    await adoptByFirst(db)
    await clearOutdated(db)
  }
  const ending = new AbortController()
  const recovery = setInterval(() => lookAgain(context, queue, ending.signal), RECOVERY_EVERY_MS)
  recovery.unref()
  const endPreparing = config.prepareAfterMs === null ? () => {} : preEncodeOnChange(context.events, queue, config.prepareAfterMs)
  const sweeping = letOldJournalsGo(context)
    .then(() => sweep(context))
    .catch((error) => console.error('Sweeping stumbled:', error))

  const tries = passcodeTries()
  const api = apiRoutes(context, queue, tries)
  const log = serverLog(config.log)
  const metrics = makeMetrics(context)
  const app = new Hono<{ Variables: WhoAsks }>()
    .onError((error, c) => {
      const sentence = asUserFacing(error)
      // what the asker did wrong, and a full disk, is said to the asker
      if (sentence !== error && sentence.status === 500) log.failure(error, c.get('requestId'))
      return c.json({ error: sentence.message, said: sentence.said, ...sentence.data }, sentence.status)
    })
    .use(
      requestTelling((told) => {
        log.request(told)
        metrics.request(told)
      }),
    )
    .use('/watch/:token', framing)
    .use('/lti/*', framing)
    .use(headers)
    .use(guard(config))
    .use('/api/*', bounded)
    .use('/record/*', bounded)
    .use('/lti/*', bounded)
    .use(whoMay(context))
    .route('/', healthRoutes(context, metrics))
    .route('/api/docs', docsRoutes(api as unknown as Hono))
    .route('/api', api)
    .route('/record', recordRoutes(context, queue, tries))
    .route('/lti', ltiRoutes(context))
    .route('/oembed', oembedRoute(context))
    .route('/watch', watchRoutes(context, tries))
    .route('/watch', watchPageRoute(context, config.webFolder))
    .route('/', builtPages(config))

  return {
    app,
    context,
    queue,
    async close() {
      clearInterval(recovery)
      ending.abort()
      endPreparing()
      await queue.stop()
      await sweeping
      await closeContext(context)
      lock.release()
    },
  }
}
