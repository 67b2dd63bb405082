/** Sends what has come to the store elsewhere, for as long as the app runs, and keeps this machine's disk within its bound. */
import { setTimeout as wait } from 'node:timers/promises'
import type { Message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { DamagedFile } from './damaged-file.ts'
import type { BucketStore } from './bucket-store.ts'

export interface Sending {
  readonly address: string
  /** From now on files are sent; until then nothing of this does anything. */
  begin(): void
  /** How much is in the store. */
  there(): Promise<{ files: number; bytes: number }>
  /** Files that are on this machine's disk alone. */
  waiting(): number
  /** What keeps it from sending; null while all is well. */
  problem(): Message | null
  /** Files that are not what was stored, and so stay here. */
  damaged(): string[]
  /** Until all that is on this machine's disk now is in the store. */
  settled(): Promise<void>
  /** Breaks off what is being waited for, and waits for what is being sent. */
  end(): Promise<void>
}

/** What other processes have brought is found by looking. */
const LOOK_EVERY_MS = 60_000
const SENDERS = 2
/** What somebody began to send so long ago, nobody sends any more. */
const BROKEN_MS = 3600_000
const FIRST_WAIT_MS = 1000
const LONGEST_WAIT_MS = 60_000
/** A file that was used so lately stays: a program may be about to open it. */
const LATELY_MS = 10 * 60_000
/** Room is made for more than the next file, so that it is not looked for with each. */
const DOWN_TO = 0.9

/** @param bytes what files in the store may take of this machine's disk @param lately for tests */
export async function makeRoom(store: BucketStore, bytes: number, lately = LATELY_MS, now = Date.now()): Promise<number> {
  const files = await store.local.listed()
  let used = files.reduce((sum, file) => sum + file.bytes, 0)
  if (used <= bytes) return 0
  let gone = 0
  for (const file of files.sort((a, b) => a.usedAt - b.usedAt)) {
    if (used <= bytes * DOWN_TO) break
    if (file.usedAt > now - lately || !(await store.letGo(file.name))) continue
    used -= file.bytes
    gone++
  }
  return gone
}

export function sendingTo(store: BucketStore, localBytes: number, lookEveryMs = LOOK_EVERY_MS): Sending {
  const waiting = new Set<string>()
  const damaged = new Set<string>()
  const ending = new AbortController()
  let problem: Message | null = null
  let waitMs = FIRST_WAIT_MS
  let wake = () => {}

  /** Until something comes, or a while has passed. */
  const sleep = (ms: number) =>
    new Promise<void>((resolve) => {
      const timer = setTimeout(resolve, ms)
      wake = () => {
        clearTimeout(timer)
        resolve()
      }
    })

  async function sendOne(name: string) {
    try {
      await store.send(name)
      waiting.delete(name)
      problem = null
      waitMs = FIRST_WAIT_MS
    } catch (error) {
      if (error instanceof DamagedFile) {
        console.error(`${error.message}: it was not sent to the store of files. ./lectern doctor --all tells what it belongs to.`)
        waiting.delete(name)
        damaged.add(name)
        return
      }
      const said = error instanceof UserFacingError ? error : null
      if (!problem) console.error(said?.message ?? error)
      problem = said?.said ?? null
      throw error
    }
  }

  async function sendAll() {
    const names = [...waiting]
    const senders = Array.from({ length: SENDERS }, async () => {
      for (let name = names.shift(); name !== undefined && !ending.signal.aborted; name = names.shift()) await sendOne(name)
    })
    const ended = await Promise.allSettled(senders)
    if (ended.every(({ status }) => status === 'fulfilled')) return
    await wait(waitMs, undefined, { signal: ending.signal }).catch(() => {})
    waitMs = Math.min(LONGEST_WAIT_MS, waitMs * 2)
  }

  async function look() {
    const there = new Set((await store.sent.all()).map((row) => row.name))
    for (const name of await store.local.all()) if (!there.has(name) && !damaged.has(name)) waiting.add(name)
    await makeRoom(store, localBytes)
  }

  async function run() {
    let lookedAt = Number.NEGATIVE_INFINITY
    while (!ending.signal.aborted) {
      try {
        if (performance.now() - lookedAt >= lookEveryMs) {
          lookedAt = performance.now()
          await look()
          await store.bucket.clearBroken(Date.now() - BROKEN_MS)
          problem = null
        }
      } catch (error) {
        problem = error instanceof UserFacingError ? error.said : problem
        if (!(error instanceof UserFacingError)) console.error('Sending files stumbled:', error)
      }
      await sendAll()
      if (waiting.size === 0 && !ending.signal.aborted) await sleep(lookEveryMs)
    }
  }

  let running: Promise<void> | null = null
  return {
    address: store.bucket.address,
    begin() {
      store.lookedAfterBy({
        arrived(name) {
          waiting.add(name)
          wake()
        },
        async makeRoom() {
          await makeRoom(store, localBytes / 2)
        },
      })
      running = run()
    },
    there: store.sent.sum,
    waiting: () => waiting.size,
    problem: () => problem,
    damaged: () => [...damaged],
    async settled() {
      await look()
      wake()
      while (waiting.size > 0) await wait(20)
    },
    async end() {
      ending.abort()
      wake()
      await running
    },
  }
}
