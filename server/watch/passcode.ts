/** Passcodes of links: slow hashes, and a wait after wrong ones. */
import { createHmac, randomBytes, scrypt as scryptCallback, timingSafeEqual } from 'node:crypto'
import { promisify } from 'node:util'

const scrypt = promisify(scryptCallback) as (password: string, salt: Buffer, length: number) => Promise<Buffer>

const HASH_BYTES = 32
const FREE_TRIES = 5
const FIRST_WAIT_MS = 10_000
const LONGEST_WAIT_MS = 15 * 60_000

/** @returns salt and hash, as they are kept. @see RFC 7914 (scrypt), Node's cost of 2^14 */
export async function hashPasscode(passcode: string): Promise<string> {
  const salt = randomBytes(16)
  return `${salt.toString('base64')} ${(await scrypt(passcode, salt, HASH_BYTES)).toString('base64')}`
}

export async function isPasscode(kept: string, given: string): Promise<boolean> {
  const [salt, hash] = kept.split(' ').map((part) => Buffer.from(part, 'base64')) as [Buffer, Buffer]
  return timingSafeEqual(await scrypt(given, salt, HASH_BYTES), hash)
}

/** How long a link takes no passcode after so many wrong ones in a row: five are free, then the wait doubles. Milliseconds. */
export function waitAfter(failures: number): number {
  if (failures < FREE_TRIES) return 0
  return Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** (failures - FREE_TRIES))
}

/** What a browser shows to be let in again; it can be made only by who knows the kept hash, and ends with it. */
export const admission = (token: string, kept: string) => createHmac('sha256', kept).update(token).digest('base64url')

export function isAdmission(token: string, kept: string, given: string | undefined): boolean {
  const wanted = Buffer.from(admission(token, kept))
  const shown = Buffer.from(given ?? '')
  return wanted.length === shown.length && timingSafeEqual(wanted, shown)
}
