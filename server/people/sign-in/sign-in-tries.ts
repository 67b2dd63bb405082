/**
 * How often somebody may try to sign in. Tries are counted by account, but apart from those on devices that signed in to it before: so a
 * stranger who guesses is slowed on every address at once, and keeps nobody out of their own device.
 *
 * @see OWASP, "Slow Down Online Guessing Attacks with Device Cookies", protocol with lockout of untrusted clients
 */
import { createHmac, timingSafeEqual } from 'node:crypto'

const MOST_BY_ACCOUNT = 10
const MOST_BY_ADDRESS = 50
const WINDOW_MS = 10 * 60_000
/** So many are remembered; then those are forgotten that were not heard of for longest. */
const MOST_REMEMBERED = 50_000

const sign = (key: string, email: string) => createHmac('sha256', key).update(`device ${email}`).digest('base64url')

/** What a device keeps that signed in to an account. */
export const deviceSign = (key: string, email: string) => sign(key, email.toLowerCase())

export function isKnownDevice(key: string, email: string, given: string | undefined): boolean {
  const wanted = Buffer.from(deviceSign(key, email))
  const shown = Buffer.from(given ?? '')
  return wanted.length === shown.length && timingSafeEqual(wanted, shown)
}

type Tried<T> = { right: T } | { wrong: true } | { wait: number }

/** @param now milliseconds of a clock that only goes forward */
export function signInTries(now: () => number = () => performance.now()) {
  const failures = new Map<string, number[]>()
  const recent = (key: string) => (failures.get(key) ?? []).filter((at) => at > now() - WINDOW_MS)
  const keysOf = (email: string, address: string, isKnown: boolean): [string, number][] => [
    // a device that is known is told apart by its address too: a stolen sign alone opens nothing
    [isKnown ? `device ${email.toLowerCase()} ${address}` : `account ${email.toLowerCase()}`, MOST_BY_ACCOUNT],
    ...(isKnown ? [] : [[`address ${address}`, MOST_BY_ADDRESS] as [string, number]]),
  ]
  const waitOf = ([key, most]: [string, number]) => {
    const tries = recent(key)
    return tries.length < most ? 0 : tries[tries.length - most]! + WINDOW_MS - now()
  }
  function failed(key: string, most: number) {
    const tries = [...recent(key), now()].slice(-most)
    failures.delete(key)
    failures.set(key, tries)
    if (failures.size > MOST_REMEMBERED) failures.delete(failures.keys().next().value!)
  }
  const turns = new Map<string, Promise<unknown>>()
  function inTurn<T>(key: string, work: () => Promise<T>): Promise<T> {
    const result = (turns.get(key) ?? Promise.resolve()).then(work)
    const turn = result.then(
      () => {},
      () => {},
    )
    turns.set(key, turn)
    void turn.then(() => turns.get(key) === turn && turns.delete(key))
    return result
  }
  return {
    /**
     * Looks at a try, unless there were too many: those at one account, and from one address, one after the other, so that many at once are
     * many. Right ones count for nothing.
     *
     * @param check null where it is wrong
     * @returns what the check gave, that it was wrong, or for how many milliseconds no try is taken
     */
    attempt<T>(email: string, address: string, isKnown: boolean, check: () => Promise<T | null>): Promise<Tried<T>> {
      const keys = keysOf(email, address, isKnown)
      const look = async (): Promise<Tried<T>> => {
        const wait = Math.max(...keys.map(waitOf))
        if (wait > 0) return { wait }
        const right = await check()
        if (right !== null) return { right }
        for (const [key, most] of keys) failed(key, most)
        return { wrong: true }
      }
      return keys.reduceRight(
        (work, [key]) =>
          () =>
            inTurn(key, work),
        look,
      )()
    },
  }
}
export type SignInTries = ReturnType<typeof signInTries>
