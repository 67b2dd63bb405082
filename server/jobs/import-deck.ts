/** Makes a lecture from a PDF or from pictures. Nothing of it is seen before all of it is there. */
import { readFile } from 'node:fs/promises'
import { parse } from 'node:path'
import { keepGivenPicture } from '#server/import/picture.ts'
import { sniff } from '#server/import/sniff.ts'
import { createLecture } from '#server/lectures/edit.ts'
import { Sentence } from '#server/sentence.ts'
import type { Tools } from '#server/tools.ts'
import type { ImportedPage } from '#server/workers/worker.ts'
import type { Report } from './queue.ts'

export interface ImportInput {
  lectureId: string
  language: string
  files: { name: string; file: string }[]
}

const MOST_PICTURES = 500

/** "02_intro slide.png" is called "intro slide". */
export function titleFromName(name: string): string {
  const bare = parse(name).name.replace(/[_]+/g, ' ').trim()
  return bare.replace(/^\d+[\s.\-–)]+/, '').trim() || bare
}

async function pagesOf(input: ImportInput, tools: Tools, report: Report, signal: AbortSignal): Promise<ImportedPage[]> {
  const { store, workers, config } = tools
  const found = await Promise.all(input.files.map(async (f) => ({ ...f, bytes: await readFile(store.path(f.file)) })))
  const kinds = found.map((f) => {
    if (f.bytes.length === 0)
      throw new Sentence(`“${f.name}” is empty (0 bytes). Save or download it again and add it once more.`, 422)
    return { ...f, kind: sniff(f.bytes) }
  })
  const stranger = kinds.find((f) => f.kind === 'unknown' || f.kind === 'vtt')
  if (stranger) {
    throw new Sentence(
      `“${stranger.name}” is neither a PDF nor a PNG, JPEG or WebP picture, whatever its name says. Export the deck as a PDF and add that.`,
      415,
    )
  }
  const pdfs = kinds.filter((f) => f.kind === 'pdf')
  if (pdfs.length > 0) {
    if (kinds.length > 1)
      throw new Sentence('A lecture begins with one PDF, or with pictures. Add the other files as a lecture of their own.', 422)
    const { name, file } = pdfs[0]!
    return workers.pdf(
      { name, path: store.path(file), dataFolder: config.dataFolder },
      ({ page, pages }) => report(page / (pages + 1), `Page ${page} of ${pages}`),
      signal,
    )
  }
  if (kinds.length > MOST_PICTURES)
    throw new Sentence(`These are ${kinds.length} pictures; the most is ${MOST_PICTURES}. Divide them into two lectures.`, 413)
  const order = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })
  const pages: ImportedPage[] = []
  for (const picture of kinds.sort((a, b) => order.compare(a.name, b.name))) {
    signal.throwIfAborted()
    pages.push({
      ...(await keepGivenPicture(store, picture.name, picture.bytes)),
      title: titleFromName(picture.name),
      altText: '',
    })
    report(pages.length / (kinds.length + 1), `Picture ${pages.length} of ${kinds.length}`)
  }
  return pages
}

export async function importDeck(input: ImportInput, tools: Tools, report: Report, signal: AbortSignal) {
  const pages = await pagesOf(input, tools, report, signal)
  signal.throwIfAborted()
  const first = input.files[0]!
  const title = input.files.length === 1 ? titleFromName(first.name) : pages[0]!.title
  await createLecture(tools.db, input.lectureId, title || 'A lecture without a title', input.language, pages)
  tools.events.tell({ type: 'lecture', lectureId: input.lectureId })
  return { lectureId: input.lectureId }
}
