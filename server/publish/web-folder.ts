/** An edition as a folder that needs no server: opened by one file, from a stick or any web space. */
import { existsSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { type EditionManifest, videosOf } from '#core/edition/manifest.ts'
import { keptAs, safeName, type ZippedFile, zipped } from '#server/out/zip-stream.ts'
import { Sentence } from '#server/sentence.ts'
import type { Tools } from '#server/tools.ts'
import { editionFile, filesOfEdition } from '#server/watch/editions.ts'

const escaped = (text: string) => text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`)

const page = (manifest: EditionManifest) => `<!doctype html>
<html lang="${escaped(manifest.language)}">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escaped(manifest.title)}</title>
<link rel="stylesheet" href="page/watch.css">
</head>
<body>
<div id="root"></div>
<noscript>This page needs scripts to show its chapters. The video itself is files/${videosOf(manifest)[0]!.file}.</noscript>
<script src="page/edition.js"></script>
<script src="page/watch.js"></script>
</body>
</html>
`

export async function webFolderFiles(
  { db, store, config }: Tools,
  { id, number, createdAt, manifest }: { id: string; number: number; createdAt: number; manifest: EditionManifest },
): Promise<ZippedFile[]> {
  const built = join(config.webFolder, '../web-folder')
  if (!existsSync(join(built, 'watch.js'))) throw new Sentence('The page of the folder is not built: run npm run build.', 500)
  const stored = async (name: string) => ({ file: store.path((await editionFile(db.read, id, name)).file) })
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
  for (const track of manifest.captions) captions[track.file] = await readFile((await stored(track.file)).file, 'utf8')
  const { files: _, checks: __, passed: ___, ...told } = manifest
  const here = { id, number, createdAt, videos: [video], files: [], hasFolder: false, captionTexts: captions }
  const hasTranscript = names.includes('transcript.html')
  const edition = { ...told, author: manifest.author ?? '', burnedIn: manifest.burnedIn ?? null, hasTranscript, ...here }
  return [
    { path: 'index.html', content: page(manifest) },
    // a script and not a data file: a page opened from a disk may not read other files
    { path: 'page/edition.js', content: `window.lecternEdition = ${JSON.stringify(edition).replaceAll('<', '\\u003c')}\n` },
    { path: 'page/watch.js', content: { file: join(built, 'watch.js') } },
    { path: 'page/watch.css', content: { file: join(built, 'watch.css') } },
    ...(await Promise.all([...new Set(names)].map(async (name) => ({ path: `files/${name}`, content: await stored(name) })))),
  ]
}

/** @returns the folder as a zip, to be kept */
export async function packWebFolder(
  tools: Tools,
  edition: { id: string; number: number; createdAt: number; manifest: EditionManifest },
): Promise<Response> {
  const name = safeName(edition.manifest.title)
  const files = (await webFolderFiles(tools, edition)).map((file) => ({ ...file, path: `${name}/${file.path}` }))
  return keptAs(`${name}.zip`, 'application/zip', zipped(files))
}
