/** Files that a request brings: they go to disk as they come, bounded, and what is refused is removed at once. */

import { Readable } from 'node:stream'
import type { ReadableStream as WebStream } from 'node:stream/web'
import { Busboy, type BusboyInstance } from '@fastify/busboy'
import type { Context } from 'hono'
import type { GivenFile } from '#core/jobs/job.ts'
import { type Message, message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { isLeftBySystems } from '#server/import/kinds/left-by-systems.ts'
import { arrive, release, settled } from '#server/maintenance/used-files.ts'

const MEGABYTE = 1024 ** 2
/** Multipart boundaries, names and fields take some room beside the files. */
const BESIDE = MEGABYTE
const MOST_FILES = 2000
const LONGEST_NAME = 255

export interface Upload {
  files: GivenFile[]
  /** What was said beside the files; '' for what was not. */
  field(name: string): string
  /** The only file. @throws UserFacingError when there is none */
  file(): GivenFile
}

interface Brought {
  name: string
  /** Whether the store did not have it before. */
  isNew: boolean
}

interface Bounds {
  /** Bytes of all files together. */
  most: number
  /** What is said when there is more. */
  tooLarge: Message
}

/** One recording or picture. */
export const ONE_FILE: Bounds = {
  most: 2048 * MEGABYTE,
  tooLarge: message('This file is larger than 2 GB. Export its sound alone, as FLAC or MP3 for example, and add that.'),
}
/** A film on a slide. */
export const FILM_FILE: Bounds = {
  most: 8192 * MEGABYTE,
  tooLarge: message('This film is larger than 8 GB. Export it smaller, or cut it.'),
}
export const CAPTION_FILE: Bounds = {
  most: 5 * MEGABYTE,
  tooLarge: message('This file is larger than 5 MB, which no caption file is. Choose another file.'),
}
/** Decks with what belongs to them; a whole lecture as a bundle may be as large. */
export const DECK_FILES: Bounds = {
  most: 4096 * MEGABYTE,
  tooLarge: message('These files are larger than 4 GB together. Make the pictures in the deck smaller, or divide it.'),
}

const broken = () => new UserFacingError(message('The files did not arrive whole. Send them again.'), 400)

/** Reads a multipart body. @param brought gets each file as soon as its name is known */
async function read(c: Context, context: AppContext, bounds: Bounds, brought: Brought[]) {
  const type = c.req.header('content-type') ?? ''
  const { body } = c.req.raw
  if (!/^multipart\/form-data\s*;/i.test(type) || !body)
    throw new UserFacingError(message('No file arrived. Choose a file.'), 422)
  const tooLarge = () => new UserFacingError(bounds.tooLarge, 413)
  if (Number(c.req.header('content-length') ?? 0) > bounds.most + BESIDE) throw tooLarge()
  const fields = new Map<string, string>()
  const files: Promise<GivenFile & { bytes: number }>[] = []
  let bytes = 0
  const source = Readable.fromWeb(body as WebStream)
  /** Parts that are not whole yet: nothing else tells them that no more will come. */
  const open = new Set<Readable>()
  const whole = new Promise<void>((resolve, reject) => {
    let parser: BusboyInstance
    const fail = (error: unknown) => {
      source.unpipe(parser)
      for (const stream of open) stream.destroy(error as Error)
      reject(error)
    }
    try {
      parser = new Busboy({
        headers: { 'content-type': type },
        // one byte more than may be: at its own limit the parser would cut a file short without a word
        limits: { files: MOST_FILES, fields: 100, fieldSize: 10_000, headerPairs: 100, fileSize: bounds.most + 1 },
      })
    } catch {
      return reject(broken())
    }
    parser.on('field', (name, value) => fields.set(name, value))
    parser.on('file', (_, stream, filename) => {
      // a part that breaks off says so to whoever listens, and to nobody else: unheard it would end the server
      stream.on('error', (error) => {
        stream.destroy(error as Error)
        fail(broken())
      })
      open.add(stream)
      stream.on('close', () => open.delete(stream))
      const counted = async function* () {
        for await (const piece of stream) {
          bytes += (piece as Buffer).length
          if (bytes > bounds.most) throw tooLarge()
          yield piece as Buffer
        }
      }
      const name = (filename ?? 'file').slice(-LONGEST_NAME)
      const hold = (file: string) => {
        arrive(file)
        brought.push({ name: file, isNew: false })
      }
      const stored = context.store.receive(counted(), hold).then(({ name: file, bytes: size, isNew }) => {
        // the same file may have come twice
        if (isNew) for (const one of brought) if (one.name === file) one.isNew = true
        return { name, file, bytes: size }
      })
      stored.catch(fail)
      files.push(stored)
    })
    parser.on('filesLimit', () =>
      fail(new UserFacingError(message('These are more than {most} files. Divide them.', { most: MOST_FILES }), 413)),
    )
    parser.on('error', () => fail(broken()))
    parser.on('finish', () => resolve())
    // a connection that broke off
    source.on('error', () => fail(broken()))
    // one whose client has gone
    source.on('close', () => !source.readableEnded && fail(broken()))
    source.pipe(parser)
  })
  try {
    await whole
  } catch (error) {
    // what was being written is let go before the answer
    await Promise.allSettled(files)
    throw error
  }
  return { fields, files: await Promise.all(files) }
}

/**
 * Takes in the files of a request for as long as they are put to use: when that fails, what they brought is removed.
 *
 * @throws UserFacingError for too much, for what is empty or did not arrive whole, and what `use` throws
 */
export async function withUpload<T>(
  c: Context,
  context: AppContext,
  bounds: Bounds,
  use: (upload: Upload) => Promise<T>,
): Promise<T> {
  const brought: Brought[] = []
  let isUsed = false
  try {
    const { fields, files } = await read(c, context, bounds, brought)
    // what nobody means is left to whoever takes the files
    const empty = files.find((file) => file.bytes === 0 && !(files.length > 1 && isLeftBySystems(file.name)))
    if (empty)
      throw new UserFacingError(
        message('“{name}” is empty (0 bytes). Save or download it again and add it once more.', { name: empty.name }),
        422,
      )
    const given = files.map(({ name, file }) => ({ name, file }))
    const result = await use({
      files: given,
      field: (name) => fields.get(name) ?? '',
      file() {
        if (!given[0]) throw new UserFacingError(message('No file arrived. Choose a file.'), 422)
        return given[0]
      },
    })
    isUsed = true
    return result
  } finally {
    for (const { name } of brought) settled(name)
    const fresh = brought.filter(({ isNew }) => isNew).map(({ name }) => name)
    // what came of it may be the same file under the same name, and nothing points to it yet: only what was refused goes
    if (!isUsed)
      await release(context, fresh).catch((error) => console.error('What was refused could not be removed yet:', error))
  }
}
