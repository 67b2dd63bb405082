/** Whether the server is there, whether it can work, and its figures. */
import { constants } from 'node:fs'
import { access, statfs } from 'node:fs/promises'
import { sql } from 'drizzle-orm'
import { Hono } from 'hono'
import type { AppContext } from '#server/context/context.ts'
import type { Metrics } from '#server/operation/metrics.ts'

/** A chunk of a recording, and the database's own file, must fit. */
const LEAST_FREE_BYTES = 100e6

/** @returns what keeps it from working; English, for programs that look after it */
async function problems({ db, config }: AppContext): Promise<string[]> {
  const { dataFolder } = config
  const found: string[] = []
  await Promise.resolve(db.read.run(sql`SELECT 1`)).catch((error) => found.push(`database: ${(error as Error).message}`))
  await access(dataFolder, constants.W_OK).catch(() => found.push('data folder: nothing can be written'))
  const free = await statfs(dataFolder).then(
    ({ bavail, bsize }) => bavail * bsize,
    () => 0,
  )
  if (free < LEAST_FREE_BYTES) found.push('disk: full')
  return found
}

export const healthRoutes = (context: AppContext, metrics: Metrics) =>
  new Hono()
    .get('/healthz', (c) => c.text('ok'))
    .get('/readyz', async (c) => {
      const found = await problems(context)
      return c.json({ ready: found.length === 0, problems: found }, found.length === 0 ? 200 : 503)
    })
    .get('/metrics', async (c) => {
      const { text, type } = await metrics.read()
      return c.body(text, 200, { 'content-type': type, 'cache-control': 'no-store' })
    })
