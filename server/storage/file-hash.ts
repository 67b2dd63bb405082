import { createHash } from 'node:crypto'
import { createReadStream } from 'node:fs'

/** SHA-256 of a file of any size, hex. */
export async function sha256Of(path: string): Promise<string> {
  const hash = createHash('sha256')
  for await (const piece of createReadStream(path)) hash.update(piece as Buffer)
  return hash.digest('hex')
}
