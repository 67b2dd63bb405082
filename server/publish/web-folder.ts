/** An edition as a folder that needs no server: opened by one file, from a stick or any web space. */

import { existsSync } from 'node:fs'
import { stat } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import type { Context } from 'hono'
import { type EditionManifest, videosOf } from '#core/edition/manifest.ts'
import { message } from '#core/words/say.ts'
import { directionOfText, sayIn } from '#core/words/say-in.ts'
import type { AppContext } from '#server/context/context.ts'
import { segments } from '#server/db/schema.ts'
import { segmentKey } from '#server/encode/segment.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { serveFile } from '#server/storage/serve.ts'
import { safeName, type ZippedFile, zipped } from '#server/storage/zip-stream.ts'
import { editionFile, filesOfEdition, isTranscriptPage } from '#server/watch/editions.ts'

const escaped = (text: string) => text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`)

const page = (manifest: EditionManifest, isPackage: boolean) => `<!doctype html>
<html lang="${escaped(manifest.language)}" dir="${directionOfText(manifest.language)}">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escaped(manifest.title)}</title>
<link rel="stylesheet" href="page/watch.css">
</head>
<body>
<div id="root"></div>
<noscript>${escaped(sayIn(manifest.language, message('This page needs scripts to show its chapters. The video itself is {file}.', { file: `files/${videosOf(manifest)[0]!.file}` })))}</noscript>
<script src="page/edition.js"></script>
${isPackage ? '<script src="page/package.js"></script>\n' : ''}<script src="page/watch.js"></script>
</body>
</html>
`

const asScript = (name: string, value: unknown) => `window.${name} = ${JSON.stringify(value).replaceAll('<', '\\u003c')}\n`

export interface PackedEdition {
  id: string
  number: number
  createdAt: number
  manifest: EditionManifest
}

/** @param settings what a page in a package for learning platforms has to know; null for a page that is there for itself */
export async function webFolderFiles(
  { db, store, config }: AppContext,
  { id, number, createdAt, manifest }: PackedEdition,
  settings: object | null = null,
): Promise<ZippedFile[]> {
  const built = join(config.webFolder, settings ? '../web-package' : '../web-folder')
  if (!existsSync(join(built, 'watch.js')))
    throw new UserFacingError(message('The page of the folder is not built: run npm run build.'), 500)
  const stored = async (name: string) => ({ store, name: (await editionFile(db.read, id, name)).file })
  const [video] = videosOf(manifest)
  const names = [
    video!.file,
    ...manifest.chapters.map((chapter) => chapter.picture),
    ...manifest.captions.map((track) => track.file),
    ...(await filesOfEdition(db.read, id))
      .map((f) => f.name)
      .filter((name) => /^(poster|transcript|chapters)\.|^captions\..*\.srt$/.test(name)),
  ]
  const captions: Record<string, string> = {}
  for (const track of manifest.captions)
    captions[track.file] = Buffer.from(await store.read((await stored(track.file)).name)).toString('utf8')
  const { files: _, checks: __, passed: ___, ...told } = manifest
  const here = { id, number, createdAt, videos: [video], files: [], hasFolder: false, captionTexts: captions }
  const hasTranscript = names.includes('transcript.html')
  const transcripts = names.filter(isTranscriptPage)
  const edition = {
    ...told,
    author: manifest.author ?? '',
    burnedIn: manifest.burnedIn ?? null,
    hasTranscript,
    transcripts,
    ...here,
  }
  return [
    { path: 'index.html', content: page(manifest, settings !== null) },
    // a script and not a data file: a page opened from a disk may not read other files
    { path: 'page/edition.js', content: asScript('lecternEdition', edition) },
    ...(settings ? [{ path: 'page/package.js', content: asScript('lecternPackage', settings) }] : []),
    { path: 'page/watch.js', content: { file: join(built, 'watch.js') } },
    { path: 'page/watch.css', content: { file: join(built, 'watch.css') } },
    ...(await Promise.all([...new Set(names)].map(async (name) => ({ path: `files/${name}`, content: await stored(name) })))),
  ]
}

/** Zips that are being made, by their keys: a class that asks at once waits for one. */
const packing = new Map<string, Promise<string>>()

export interface WantedZip {
  /** What goes in, so that the same is made once. */
  of: unknown[]
  name: string
  /** With its point. */
  ending: string
  contentType: string
  files(): Promise<Iterable<ZippedFile> | AsyncIterable<ZippedFile>>
}

async function made({ db, store }: AppContext, key: string, files: WantedZip['files']): Promise<string> {
  const [known] = await db.read.select().from(segments).where(eq(segments.key, key))
  if (known && (await store.has(known.file))) {
    await db.write((tx) => tx.update(segments).set({ usedAt: Date.now() }).where(eq(segments.key, key)))
    return known.file
  }
  const { name: file, bytes } = await store.receive(zipped(await files()))
  const row = { key, file, bytes, usedAt: Date.now() }
  await db.write((tx) => tx.insert(segments).values(row).onConflictDoUpdate({ target: segments.key, set: row }))
  return file
}

/** @returns a zip to be kept: made once, whoever asks for it, and sent in ranges as any file */
export async function sendZip(
  c: Context,
  context: AppContext,
  { of, name, ending, contentType, files }: WantedZip,
): Promise<Response> {
  // another version of the page makes another zip
  const pages = ['web-folder', 'web-package'].map((page) => join(context.config.webFolder, `../${page}/watch.js`))
  const built = await Promise.all(pages.map((page) => stat(page).catch(() => null)))
  const key = segmentKey(...of, name, ...built.flatMap((page) => [page?.size, page?.mtimeMs]))
  const zip = packing.get(key) ?? made(context, key, files).finally(() => packing.delete(key))
  packing.set(key, zip)
  return serveFile(context.store, (header) => c.req.header(header), c.req.method, {
    name: await zip,
    contentType,
    cacheControl: 'private, no-cache',
    download: `${name}${ending}`,
  })
}

/** An edition as a folder, in a zip. */
export function packWebFolder(c: Context, context: AppContext, edition: PackedEdition): Promise<Response> {
  const name = safeName(edition.manifest.title)
  return sendZip(c, context, {
    of: ['web folder', edition.id],
    name,
    ending: '.zip',
    contentType: 'application/zip',
    files: async () => (await webFolderFiles(context, edition)).map((file) => ({ ...file, path: `${name}/${file.path}` })),
  })
}
