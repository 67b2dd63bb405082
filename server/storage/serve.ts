/** Answers requests for stored files, with ranges and conditions. */
import { Readable } from 'node:stream'
import type { FileStore } from './file-store.ts'
import { attachment } from './zip-stream.ts'

interface Range {
  start: number
  end: number
}

/**
 * One byte range of a Range header.
 *
 * @returns inclusive positions; 'whole' when the header asks for what we need not serve (another unit, several ranges,
 * malformed: RFC 9110, §14.2 lets it be ignored); 'unsatisfiable' past the end
 * @see RFC 9110, §14.1.2 and §15.5.17
 */
export function parseRange(header: string | undefined, size: number): Range | 'whole' | 'unsatisfiable' {
  const match = /^bytes=(\d*)-(\d*)$/.exec(header?.trim() ?? '')
  if (!match || (match[1] === '' && match[2] === '')) return 'whole'
  if (match[1] === '') {
    const suffix = Number(match[2])
    return suffix === 0 || size === 0 ? 'unsatisfiable' : { start: Math.max(0, size - suffix), end: size - 1 }
  }
  const start = Number(match[1])
  const end = match[2] === '' ? size - 1 : Math.min(size - 1, Number(match[2]))
  if (match[2] !== '' && Number(match[2]) < start) return 'whole'
  return start >= size ? 'unsatisfiable' : { start, end }
}

/** Does an If-None-Match header name this entity? RFC 9110, §13.1.2: weak comparison. */
function matches(header: string | undefined, etag: string): boolean {
  if (!header) return false
  return header.trim() === '*' || header.split(',').some((tag) => tag.trim().replace(/^W\//, '') === etag)
}

export interface Served {
  /** Name of the content; it is the entity tag as well. */
  name: string
  contentType: string
  cacheControl: string
  /** Offered as a file to keep under this name. */
  download?: string
}

/** Where a forwarder that reads the folder of files itself finds it; see docs/deployment.md. */
const FORWARDED_FILES = '/lectern-files'
/** In the folder of files. */
const placeOf = (name: string) => `${name.slice(0, 2)}/${name}`

/** @param headers read with lower-case names */
export async function serveFile(
  store: FileStore,
  headers: (name: string) => string | undefined,
  method: string,
  served: Served,
): Promise<Response> {
  const size = await store.size(served.name)
  if (size === null) throw new Error(`The file ${served.name} is not in the folder of data any more.`)
  const etag = `"${served.name}"`
  const answer: Record<string, string> = {
    'content-type': served.contentType,
    'cache-control': served.cacheControl,
    'accept-ranges': 'bytes',
    etag,
  }
  if (served.download) answer['content-disposition'] = attachment(served.download)
  const forwarder = headers('x-sendfile-type')
  // a forwarder reads this machine's disk, where the file may have to be brought first
  if (forwarder) await store.withLocalFile(served.name, async () => {})
  // the forwarder only asks where it lies, and remembers that for a moment
  if (forwarder === 'X-Lectern-File')
    return new Response(null, { status: 204, headers: { 'x-lectern-file': placeOf(served.name) } })
  if (matches(headers('if-none-match'), etag)) return new Response(null, { status: 304, headers: answer })
  // the forwarder sends it, and looks at ranges: who asks is known by then, and this process has no more to do
  if (forwarder === 'X-Accel-Redirect')
    return new Response(null, {
      headers: { ...answer, 'x-accel-redirect': `${FORWARDED_FILES}/${placeOf(served.name)}` },
    })
  // RFC 9110, §13.1.5: with another entity in If-Range the whole is sent
  const ifRange = headers('if-range')
  const range = ifRange && ifRange !== etag ? 'whole' : parseRange(headers('range'), size)
  if (range === 'unsatisfiable') {
    return new Response(null, { status: 416, headers: { ...answer, 'content-range': `bytes */${size}`, 'content-length': '0' } })
  }
  const { start, end } = range === 'whole' ? { start: 0, end: size - 1 } : range
  if (range !== 'whole') answer['content-range'] = `bytes ${start}-${end}/${size}`
  answer['content-length'] = String(end - start + 1)
  const body =
    method === 'HEAD' || size === 0 ? null : (Readable.toWeb(store.stream(served.name, { start, end })) as ReadableStream)
  return new Response(body, { status: range === 'whole' ? 200 : 206, headers: answer })
}
