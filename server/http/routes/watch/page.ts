/** The page behind a link, as it is built and then told what its link opens. */
import { existsSync } from 'node:fs'
import { readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { Hono } from 'hono'
import type { AppContext } from '#server/context/context.ts'
import { languageOf } from '#server/http/language-of.ts'
import type { WhoAsks } from '#server/http/permissions/who-may.ts'
import { filesOfEdition } from '#server/watch/editions.ts'
import { frameAncestors, isRefused, refusalPage, watchAddress } from '#server/watch/embedding.ts'
import { openLink, sitesOf } from '#server/watch/links.ts'
import { describedPage, pageWithWords } from '#server/watch/page.ts'
import { shownBy } from './shown-by.ts'

export async function builtPage(webFolder: string, name: 'index' | 'watch'): Promise<string> {
  const file = join(webFolder, `${name}.html`)
  return existsSync(file)
    ? readFile(file, 'utf8')
    : '<!doctype html><title>Tidy Lectern</title><p>The web side is not built: run npm run build.</p>'
}

export const watchPageRoute = ({ db }: AppContext, webFolder: string) => {
  const assets = readdir(join(webFolder, 'assets')).catch(() => [])
  return new Hono<{ Variables: WhoAsks & { frameAncestors?: string[] } }>().get('/:token', async (c) => {
    const token = c.req.param('token')
    const language = languageOf(c)
    const built = pageWithWords(await builtPage(webFolder, 'watch'), await assets, language)
    const embedIn = await sitesOf(db.read, token)
    // a closed link is 404 for every reader, while people see the page that says so
    if (embedIn === undefined) return c.html(built, 404)
    const address = watchAddress(c.get('asker'), token)
    if (isRefused(embedIn, c.req.header('sec-fetch-dest'), c.req.header('referer'))) {
      c.set('frameAncestors', ['*'])
      return c.html(refusalPage(language, address), 403)
    }
    c.set('frameAncestors', frameAncestors(embedIn))
    // what a passcode keeps is not told to those who have not given it
    const opened = await openLink(db.read, token, shownBy(c)).catch(() => null)
    if (!opened) return c.html(built)
    const files = new Set((await filesOfEdition(db.read, opened.id)).map((file) => file.name))
    return c.html(describedPage(built, opened, files, address))
  })
}
