/** Office files that are locked with a password. */
import { createReadStream } from 'node:fs'

/** The stream that holds what was locked. @see [MS-OFFCRYPTO] §2.3.4.4, \EncryptedPackage; names are UTF-16 ([MS-CFB] §2.6.1) */
const LOCKED = Buffer.from('EncryptedPackage', 'utf16le')

/** @param path of a compound file, of which a piece at a time is in memory */
export async function isEncryptedOffice(path: string): Promise<boolean> {
  let before = Buffer.alloc(0)
  for await (const piece of createReadStream(path) as AsyncIterable<Buffer>) {
    // the name may lie across two pieces
    const seen = Buffer.concat([before, piece])
    if (seen.includes(LOCKED)) return true
    before = seen.subarray(1 - LOCKED.length)
  }
  return false
}
