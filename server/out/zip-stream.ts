/** Zip files as they are made: nothing of the size of a video is held in memory. */
import { createReadStream } from 'node:fs'
import { Readable } from 'node:stream'
import { Zip, ZipDeflate, ZipPassThrough } from 'fflate'

export interface ZippedFile {
  path: string
  /** Text, bytes, or where the bytes lie. */
  content: string | Uint8Array | { file: string }
}

const SHRINKS = /\.(js|css|vtt|srt|html|txt|json|md|csv)$/i

export async function* zipped(files: Iterable<ZippedFile> | AsyncIterable<ZippedFile>): AsyncGenerator<Uint8Array> {
  const ready: Uint8Array[] = []
  const zip = new Zip((error, piece) => {
    if (error) throw error
    ready.push(piece)
  })
  for await (const { path, content } of files) {
    // pictures, sounds and videos are as small as they get
    const entry = typeof content === 'string' || SHRINKS.test(path) ? new ZipDeflate(path) : new ZipPassThrough(path)
    zip.add(entry)
    if (typeof content === 'string') entry.push(new TextEncoder().encode(content), true)
    else if (content instanceof Uint8Array) entry.push(content, true)
    else {
      for await (const piece of createReadStream(content.file, { highWaterMark: 1 << 18 })) {
        entry.push(new Uint8Array(piece as Buffer))
        yield* ready.splice(0)
      }
      entry.push(new Uint8Array(0), true)
    }
    yield* ready.splice(0)
  }
  zip.end()
  yield* ready.splice(0)
}

/** A name that every file system takes. */
export const safeName = (title: string) =>
  title
    .replace(/[\p{Cc}<>:"/\\|?*]/gu, ' ')
    .replace(/\s+/g, ' ')
    .trim()
    .replace(/[. ]+$/, '')
    .slice(0, 80) || 'Lecture'

/** @param body bytes as they are made, or all of them */
export function keptAs(name: string, contentType: string, body: AsyncIterable<Uint8Array> | string | Uint8Array): Response {
  const stream =
    typeof body === 'string' || body instanceof Uint8Array
      ? (body as string)
      : (Readable.toWeb(Readable.from(body)) as ReadableStream)
  return new Response(stream, {
    headers: {
      'content-type': contentType,
      'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
      'cache-control': 'private, no-cache',
    },
  })
}
