/** Office files that are locked with a password. */
import { readFile, stat } from 'node:fs/promises'

/** The stream that holds what was locked. @see [MS-OFFCRYPTO] §2.3.4.4, \EncryptedPackage; names are UTF-16 ([MS-CFB] §2.6.1) */
const LOCKED = Buffer.from('EncryptedPackage', 'utf16le')
/** No deck is larger; what is, is only known as a file of its kind. */
const MOST_BYTES = 500_000_000

/** @param path of a compound file */
export async function isEncryptedOffice(path: string): Promise<boolean> {
  if ((await stat(path)).size > MOST_BYTES) return false
  return (await readFile(path)).includes(LOCKED)
}
