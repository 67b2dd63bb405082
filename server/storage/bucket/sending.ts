/** Sends what has come to the store elsewhere, for as long as the app runs, and keeps this machine's disk within its bound. */
import { setTimeout as wait } from 'node:timers/promises'
import type { Message } from '#core/words/say.ts'
import { asUserFacing } from '#server/errors/user-facing-error.ts'
import type { BucketStore } from './bucket-store.ts'
import { DamagedFile } from './damaged-file.ts'

/** What other processes have brought is found by looking. */
const LOOK_EVERY_MS = 60_000
/** Each file that is here is looked at for it. */
const ROOM_EVERY_MS = 10 * 60_000
const SENDERS = 2
/** What somebody began to send so long ago, nobody sends any more. */
const BROKEN_MS = 3600_000
/** What came to the store so long ago and nobody wrote down belongs to nobody. */
const STRAY_MS = 24 * 3600_000
const STRAYS_EVERY_MS = 24 * 3600_000
const FIRST_WAIT_MS = 1000
/** So long what is being sent may take when the app ends. */
const LAST_MS = 5000
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

/** Until it is woken, or a while has passed. */
class Sleep {
  #wake = () => {}

  wake() {
    this.#wake()
  }

  for(ms: number): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, ms)
      this.#wake = () => {
        clearTimeout(timer)
        resolve()
      }
    })
  }
}

export class Sending {
  readonly address: string
  readonly #store: BucketStore
  readonly #localBytes: number
  readonly #lookEveryMs: number
  readonly #waiting = new Set<string>()
  readonly #damaged = new Set<string>()
  readonly #ending = new AbortController()
  readonly #sleep = new Sleep()
  #running: Promise<void> | null = null
  #problem: Message | null = null
  #waitMs = FIRST_WAIT_MS

  /** @param localBytes what files that are in the store may take of this machine's disk */
  constructor(store: BucketStore, localBytes: number, lookEveryMs = LOOK_EVERY_MS) {
    this.address = store.bucket.address
    this.#store = store
    this.#localBytes = localBytes
    this.#lookEveryMs = lookEveryMs
  }

  /** From now on files are sent; until then nothing of this does anything. */
  begin() {
    this.#store.lookedAfterBy({
      arrived: (name) => {
        this.#waiting.add(name)
        this.#sleep.wake()
      },
      makeRoom: async () => {
        await makeRoom(this.#store, this.#localBytes / 2)
      },
    })
    this.#running = this.#run()
  }

  /** How much is in the store. */
  there(): Promise<{ files: number; bytes: number }> {
    return this.#store.sent.sum()
  }

  /** Files that are on this machine's disk alone. */
  waiting(): number {
    return this.#waiting.size
  }

  /** What keeps it from sending; null while all is well. */
  problem(): Message | null {
    return this.#problem
  }

  /** Files that are not what was stored, and so stay here. */
  damaged(): string[] {
    return [...this.#damaged]
  }

  /** Until all that is on this machine's disk now is in the store. */
  async settled() {
    await this.#look()
    this.#sleep.wake()
    while (this.#waiting.size > 0) await wait(20)
  }

  /** Waits a moment for what is being sent; what is broken off is sent at the next start. */
  async end() {
    this.#ending.abort()
    this.#sleep.wake()
    await Promise.race([this.#running, wait(LAST_MS, undefined, { ref: false })])
    this.#store.bucket.close()
  }

  async #run() {
    let [lookedAt, roomAt, clearedAt] = [Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY]
    while (!this.#ending.signal.aborted) {
      try {
        const now = performance.now()
        if (now - lookedAt >= this.#lookEveryMs) {
          lookedAt = now
          await this.#look()
          if (now - roomAt >= ROOM_EVERY_MS) {
            roomAt = now
            await makeRoom(this.#store, this.#localBytes)
          }
          await this.#store.bucket.clearBroken(Date.now() - BROKEN_MS)
          if (now - clearedAt >= STRAYS_EVERY_MS) {
            clearedAt = now
            await this.#clearStrays()
          }
          this.#problem = null
        }
      } catch (error) {
        this.#tell(error)
      }
      await this.#sendAll()
      if (this.#waiting.size === 0 && !this.#ending.signal.aborted) await this.#sleep.for(this.#lookEveryMs)
    }
  }

  async #look() {
    for (const name of await this.#store.sent.missing(await this.#store.local.all()))
      if (!this.#damaged.has(name)) this.#waiting.add(name)
  }

  async #clearStrays() {
    const { left } = await this.#store.clearStrays(Date.now() - STRAY_MS)
    if (left > 0)
      console.error(
        `${left} files in ${this.address} belong to nothing this database knows. Was it lost, or does another server use the same place? They were left there.`,
      )
  }

  async #sendAll() {
    const names = [...this.#waiting]
    const senders = Array.from({ length: SENDERS }, async () => {
      for (let name = names.shift(); name !== undefined && !this.#ending.signal.aborted; name = names.shift())
        await this.#sendOne(name)
    })
    const ended = await Promise.allSettled(senders)
    if (ended.every(({ status }) => status === 'fulfilled')) return
    await wait(this.#waitMs, undefined, { signal: this.#ending.signal }).catch(() => {})
    this.#waitMs = Math.min(LONGEST_WAIT_MS, this.#waitMs * 2)
  }

  async #sendOne(name: string) {
    try {
      await this.#store.send(name)
      this.#waiting.delete(name)
      this.#problem = null
      this.#waitMs = FIRST_WAIT_MS
    } catch (error) {
      if (!(error instanceof DamagedFile)) {
        this.#tell(error)
        throw error
      }
      console.error(`${error.message}: it was not sent to the store of files. ./lectern doctor tells what it belongs to.`)
      this.#waiting.delete(name)
      this.#damaged.add(name)
    }
  }

  /** Once for each time that it is away. */
  #tell(error: unknown) {
    const said = asUserFacing(error)
    if (!this.#problem) console.error(said === error ? said.message : error)
    this.#problem = said.said
  }
}
