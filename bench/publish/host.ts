/** One video, served as the app serves it, with a page around it, in a browser. */

import { mkdtempSync, rmSync } from 'node:fs'
import { copyFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { serve } from '@hono/node-server'
import { type Browser, chromium, type Page } from '@playwright/test'
import { Hono } from 'hono'
import { folderStore } from '#server/storage/file-store.ts'
import { serveFile } from '#server/storage/serve.ts'
import { BROWSER } from '#tests/support/browser.ts'

/**
 * @param page its HTML; the video is at `/v`
 * @param scripts by path
 */
export async function withVideo<T>(
  video: string,
  page: string,
  scripts: Record<string, string>,
  work: (page: Page, browser: Browser) => Promise<T>,
): Promise<T> {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-video-'))
  const store = folderStore(folder)
  const copy = store.scratchPath('.mp4')
  await copyFile(video, copy)
  const { name } = await store.adopt(copy)
  const app = new Hono()
    .get('/', (c) => c.html(page))
    .get('/v', (c) =>
      serveFile(store, (h) => c.req.header(h), c.req.method, {
        name,
        contentType: 'video/mp4',
        cacheControl: 'no-store',
      }),
    )
  for (const [path, script] of Object.entries(scripts))
    app.get(path, (c) => c.body(script, 200, { 'content-type': 'text/javascript' }))
  const host = serve({ fetch: app.fetch, port: 0 })
  await new Promise((resolve) => host.once('listening', resolve))
  const browser = await chromium.launch({
    ...BROWSER,
    args: [...(BROWSER.args ?? []), '--autoplay-policy=no-user-gesture-required'],
  })
  try {
    const opened = await browser.newPage()
    // the loader names functions by a helper that the page does not have
    await opened.addInitScript('globalThis.__name = (f) => f')
    await opened.goto(`http://localhost:${(host.address() as { port: number }).port}/`)
    return await work(opened, browser)
  } finally {
    await browser.close()
    host.close()
    rmSync(folder, { recursive: true, force: true })
  }
}
