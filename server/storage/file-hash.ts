import { createHash } from 'node:crypto'
import { createReadStream } from 'node:fs'
import type { Readable } from 'node:stream'

/** SHA-256 of all that comes, hex. */
export async function sha256OfStream(stream: Readable): Promise<string> {
  const hash = createHash('sha256')
  for await (const piece of stream) hash.update(piece as Buffer)
  return hash.digest('hex')
}

/** SHA-256 of a file of any size, hex. */
export const sha256Of = (path: string): Promise<string> => sha256OfStream(createReadStream(path))
