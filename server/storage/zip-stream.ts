/** Zip files as they are made: nothing of the size of a video is held in memory. */
import { createReadStream } from 'node:fs'
import { stat } from 'node:fs/promises'
import { Readable } from 'node:stream'
import { finished } from 'node:stream/promises'
import { ZipFile } from 'yazl'
import type { FileStore } from './file-store.ts'

export interface ZippedFile {
  path: string
  /** Text, bytes, a file of the store, or one that was made just now. */
  content: string | Uint8Array | { store: FileStore; name: string } | { file: string }
  /** As it is, and with nothing beside it but its name: the first file of formats that are told by it. */
  isPlain?: boolean
}

const SHRINKS = /\.(js|css|vtt|srt|html|txt|json|md|csv)$/i

/** Larger than 4 GB together or one by one: the parts of the format that hold so much are used where they are needed (ZIP64). */
export async function* zipped(files: Iterable<ZippedFile> | AsyncIterable<ZippedFile>): AsyncGenerator<Uint8Array> {
  const zip = new ZipFile()
  const out = zip.outputStream as Readable
  let source: Readable | null = null
  const fill = async () => {
    for await (const { path, content, isPlain = false } of files) {
      // pictures, sounds and videos are as small as they get
      const compress = !isPlain && (typeof content === 'string' || SHRINKS.test(path))
      if (typeof content === 'string' || content instanceof Uint8Array)
        zip.addBuffer(Buffer.from(content), path, { compress, forceDosTimestamp: isPlain })
      else {
        // one after the other: a file may be made just before and removed after
        const isStored = 'store' in content
        source = isStored ? content.store.stream(content.name) : createReadStream(content.file, { highWaterMark: 1 << 18 })
        const size = isStored ? await content.store.size(content.name) : (await stat(content.file)).size
        zip.addReadStream(source, path, { compress, ...(size === null ? {} : { size }) })
        await finished(source)
      }
    }
    zip.end()
  }
  const filling = fill().catch((error) => void out.destroy(error))
  try {
    for await (const piece of out) yield piece as Buffer
  } finally {
    // who keeps the zip may break off
    ;(source as Readable | null)?.destroy()
    await filling
  }
}

/** Half of an emoji, which no address and no file name can hold, becomes the sign for what is unknown. */
const wellFormed = (text: string) => text.replace(/\p{Surrogate}/gu, '\uFFFD')

const LONGEST_NAME = 80
const characters = new Intl.Segmenter()

/** A name that every file system takes; where it is too long it ends after a whole character, an emoji too. */
export function safeName(title: string): string {
  const plain = wellFormed(title)
    .replace(/[\p{Cc}<>:"/\\|?*]/gu, ' ')
    .replace(/\s+/g, ' ')
    .trim()
  let name = ''
  for (const { segment } of characters.segment(plain)) {
    if (name.length + segment.length > LONGEST_NAME) break
    name += segment
  }
  return name.replace(/[. ]+$/, '') || 'Lecture'
}

/** The header that offers a file under a name. */
export const attachment = (name: string) => `attachment; filename*=UTF-8''${encodeURIComponent(wellFormed(name))}`

/** @param body bytes as they are made, or all of them */
export function keptAs(name: string, contentType: string, body: AsyncIterable<Uint8Array> | string | Uint8Array): Response {
  const stream =
    typeof body === 'string' || body instanceof Uint8Array
      ? (body as string)
      : (Readable.toWeb(Readable.from(body)) as ReadableStream)
  return new Response(stream, {
    headers: {
      'content-type': contentType,
      'content-disposition': attachment(name),
      'cache-control': 'private, no-cache',
    },
  })
}
