/** Passcodes of links: slow hashes, and a wait after wrong ones for whoever sent them. */
import { createHmac, randomBytes, scrypt as scryptCallback, timingSafeEqual } from 'node:crypto'
import { promisify } from 'node:util'
import { message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

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

/** How long no passcode is taken from an address after so many wrong ones in a row: five are free, then the wait doubles. Milliseconds. */
export function waitAfter(failures: number): number {
  if (failures < FREE_TRIES) return 0
  return Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** (failures - FREE_TRIES))
}

/** So many addresses are remembered; then those are forgotten that were not heard of for longest. */
const MOST_REMEMBERED = 20_000

/** Of an address of IPv6 the network, which is what a household is given (RFC 6177); of IPv4 all of it. */
const networkOf = (address: string) => (address.includes(':') ? address.split(':').slice(0, 4).join(':') : address)

/**
 * Counts wrong passcodes by link and by who sent them: somebody who guesses keeps nobody else out. Right ones count for nothing, however many
 * come at once. Kept in memory alone, by a clock that nobody sets.
 *
 * @param now milliseconds of a clock that only goes forward
 */
export function passcodeTries(now: () => number = () => performance.now()) {
  const known = new Map<string, { failures: number; until: number; last: Promise<unknown> }>()
  return {
    /**
     * Looks at passcodes from one address one after the other, so that many at once are many tries.
     *
     * @param check whether the passcode is right
     * @returns 'right', 'wrong', or for how many milliseconds none is taken
     */
    async attempt(token: string, address: string, check: () => Promise<boolean>): Promise<'right' | 'wrong' | number> {
      const key = `${token} ${networkOf(address)}`
      const entry = known.get(key) ?? { failures: 0, until: Number.NEGATIVE_INFINITY, last: Promise.resolve() }
      known.delete(key)
      known.set(key, entry)
      if (known.size > MOST_REMEMBERED) known.delete(known.keys().next().value!)
      const turn = entry.last.then(async () => {
        const wait = entry.until - now()
        if (wait > 0) return wait
        if (await check()) {
          known.delete(key)
          entry.failures = 0
          return 'right' as const
        }
        entry.failures++
        entry.until = now() + waitAfter(entry.failures)
        return 'wrong' as const
      })
      entry.last = turn.catch(() => {})
      return turn
    },
    /** The link has another passcode now. */
    forget(token: string) {
      for (const key of [...known.keys()]) if (key.startsWith(`${token} `)) known.delete(key)
    },
  }
}
export type PasscodeTries = ReturnType<typeof passcodeTries>

/** What a browser shows to be let in again; it can be made only by who knows the kept hash, and ends with it. */
export const admission = (token: string, kept: string) => createHmac('sha256', kept).update(token).digest('base64url')

export function isAdmission(token: string, kept: string, given: string | undefined): boolean {
  const wanted = Buffer.from(admission(token, kept))
  const shown = Buffer.from(given ?? '')
  return wanted.length === shown.length && timingSafeEqual(wanted, shown)
}

/**
 * Lets somebody in who has typed a passcode.
 *
 * @param kept its salt and hash; null where none is wanted
 * @param address who sent it
 * @returns what the browser shows from now on
 * @throws UserFacingError (401) for a wrong passcode, (429) while none is taken
 */
export async function admit(
  tries: PasscodeTries,
  { token, kept }: { token: string; kept: string | null },
  address: string,
  given: string,
): Promise<string> {
  if (kept === null) return ''
  const result = await tries.attempt(token, address, () => isPasscode(kept, given))
  if (result === 'right') return admission(token, kept)
  if (result === 'wrong') throw new UserFacingError(message('This is not the passcode. Look at it again, capitals count.'), 401)
  throw new UserFacingError(
    message('Too many wrong passcodes from here. Wait {result} seconds, then try again.', { result: Math.ceil(result / 1000) }),
    429,
  )
}
