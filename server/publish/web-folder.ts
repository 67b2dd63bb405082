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

const page = (manifest: EditionManifest) => `<!doctype html>
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
<script src="page/watch.js"></script>
</body>
</html>
`

interface PackedEdition {
  id: string
  number: number
  createdAt: number
  manifest: EditionManifest
}

export async function webFolderFiles(
  { db, store, config }: AppContext,
  { id, number, createdAt, manifest }: PackedEdition,
): Promise<ZippedFile[]> {
  const built = join(config.webFolder, '../web-folder')
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
    { path: 'index.html', content: page(manifest) },
    // a script and not a data file: a page opened from a disk may not read other files
    { path: 'page/edition.js', content: `window.lecternEdition = ${JSON.stringify(edition).replaceAll('<', '\\u003c')}\n` },
    { path: 'page/watch.js', content: { file: join(built, 'watch.js') } },
    { path: 'page/watch.css', content: { file: join(built, 'watch.css') } },
    ...(await Promise.all([...new Set(names)].map(async (name) => ({ path: `files/${name}`, content: await stored(name) })))),
  ]
}

/** Folders that are being packed, by their keys: a class that asks at once waits for one. */
const packing = new Map<string, Promise<string>>()

async function pack(context: AppContext, key: string, name: string, edition: PackedEdition): Promise<string> {
  const { db, store } = context
  const [known] = await db.read.select().from(segments).where(eq(segments.key, key))
  if (known && (await store.has(known.file))) {
    await db.write((tx) => tx.update(segments).set({ usedAt: Date.now() }).where(eq(segments.key, key)))
    return known.file
  }
  const files = (await webFolderFiles(context, edition)).map((file) => ({ ...file, path: `${name}/${file.path}` }))
  const { name: file, bytes } = await store.receive(zipped(files))
  const row = { key, file, bytes, usedAt: Date.now() }
  await db.write((tx) => tx.insert(segments).values(row).onConflictDoUpdate({ target: segments.key, set: row }))
  return file
}

/** @returns the folder as a zip, to be kept: made once, whoever asks for it, and sent in ranges as any file */
export async function packWebFolder(c: Context, context: AppContext, edition: PackedEdition): Promise<Response> {
  const name = safeName(edition.manifest.title)
  // another version of the page makes another folder
  const page = await stat(join(context.config.webFolder, '../web-folder/watch.js')).catch(() => null)
  const key = segmentKey('web folder', edition.id, name, page?.size, page?.mtimeMs)
  const made = packing.get(key) ?? pack(context, key, name, edition).finally(() => packing.delete(key))
  packing.set(key, made)
  const file = await made
  return serveFile(context.store, (header) => c.req.header(header), c.req.method, {
    name: file,
    contentType: 'application/zip',
    cacheControl: 'private, no-cache',
    download: `${name}.zip`,
  })
}
