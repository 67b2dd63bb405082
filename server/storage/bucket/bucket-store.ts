/**
 * Files of which all are in a store elsewhere, and some on this machine's disk: what comes is written here first, whole and synced, and sent
 * at leisure (`sending.ts`), so that nothing that is recorded waits for a line; what is needed and not here is brought back; what was not
 * used for long, and is surely there, makes room here.
 */
import { PassThrough, type Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { isDiskFull } from '#server/errors/user-facing-error.ts'
import { type FileStore, type FolderStore, isLoss, type Lend, type Trash } from '../file-store.ts'
import type { Bucket } from './bucket.ts'
import { turnsByName } from './by-name.ts'
import type { SentFiles } from './sent-files.ts'

export interface Keeper {
  arrived(name: string): void
  /** Makes room on this machine's disk. */
  makeRoom(): Promise<void>
}

/** Laid so early that the next emptying takes it: what was to be removed when the store did not answer. */
const AT_ONCE = '0000-00-00'

/** Whatever a store sends, it takes no more of this machine's disk than the file has. */
async function* atMost(pieces: AsyncIterable<Uint8Array>, bytes: number) {
  let come = 0
  for await (const piece of pieces) {
    come += piece.length
    if (come > bytes) throw new Error(`The store sends more than the ${bytes} bytes of the file`)
    yield piece
  }
}

export class BucketStore implements FileStore {
  readonly local: FolderStore
  readonly bucket: Bucket
  readonly sent: SentFiles
  readonly trash: Trash
  readonly scratch: string
  readonly #inTurn = turnsByName()
  /** How many work with a file here. */
  readonly #held = new Map<string, number>()
  /** Removed, while the store does not know it yet. */
  readonly #going = new Set<string>()
  readonly #bringing = new Map<string, Promise<void>>()
  #keeper: Keeper | null = null

  constructor(local: FolderStore, bucket: Bucket, sent: SentFiles) {
    this.local = local
    this.bucket = bucket
    this.sent = sent
    this.scratch = local.scratch
    this.trash = this.#makeTrash()
  }

  /** From now on somebody looks after it; until then nothing is sent, and what is only read is not kept here. */
  lookedAfterBy(keeper: Keeper) {
    this.#keeper = keeper
  }

  scratchPath(ending: string) {
    return this.local.scratchPath(ending)
  }

  async put(bytes: Uint8Array) {
    const name = await this.local.put(bytes)
    this.#keeper?.arrived(name)
    return name
  }

  async receive(pieces: AsyncIterable<Uint8Array>, named?: (name: string) => void) {
    const received = await this.local.receive(pieces, named)
    this.#keeper?.arrived(received.name)
    return received
  }

  async adopt(path: string) {
    const adopted = await this.local.adopt(path)
    this.#keeper?.arrived(adopted.name)
    return adopted
  }

  async has(name: string) {
    return (await this.local.has(name)) || (await this.#counted(name)) !== null
  }

  async size(name: string) {
    return (await this.local.size(name)) ?? (await this.#counted(name))?.bytes ?? null
  }

  read(name: string) {
    return this.#holding(name, async () => {
      await this.bring(name)
      return this.local.read(name)
    })
  }

  stream(name: string, range?: { start: number; end: number }): Readable {
    const out = new PassThrough({ highWaterMark: 1 << 18 })
    void this.#holding(name, async () => {
      const isHere = await this.local.has(name)
      const source = isHere ? this.local.stream(name, range) : await this.bucket.stream(name, range)
      // who watches asks for the next stretch in a moment
      if (!isHere && this.#keeper) void this.bring(name).catch(() => {})
      await pipeline(source, out)
    }).catch((error) => void out.destroy(error))
    return out
  }

  withLocalFile<T>(name: string, use: (path: string) => Promise<T>): Promise<T> {
    return this.#holding(name, async () => {
      await this.bring(name)
      return this.local.withLocalFile(name, use)
    })
  }

  async withLocalFiles<T>(use: (lend: Lend) => Promise<T>): Promise<T> {
    let end = () => {}
    const ended = new Promise<void>((resolve) => {
      end = resolve
    })
    const lend = (name: string) =>
      new Promise<string>((resolve, reject) => {
        this.withLocalFile(name, (path) => {
          resolve(path)
          return ended
        }).catch(reject)
      })
    try {
      return await use(lend)
    } finally {
      end()
    }
  }

  remove(name: string) {
    this.local.remove(name)
    this.#going.add(name)
    this.#removeThere(name)
      // it lies in the trash by then, and goes with what is emptied next
      .catch((error) => console.error(`${name} could not be removed from the store of files yet:`, (error as Error).message))
      .finally(() => this.#going.delete(name))
  }

  async all() {
    const names = new Set(await this.local.all())
    for (const row of await this.sent.all()) if (!this.#going.has(row.name)) names.add(row.name)
    return [...names]
  }

  async olderThan(moment: number) {
    const here = new Set(await this.local.all())
    const there = (await this.sent.all()).filter(
      (row) => row.sentAt < moment && !here.has(row.name) && !this.#going.has(row.name),
    )
    return [...(await this.local.olderThan(moment)), ...there.map((row) => row.name)]
  }

  /** Brings a file to this machine's disk, where it is not there yet. */
  bring(name: string): Promise<void> {
    const under = this.#bringing.get(name)
    if (under) return under
    const work = this.#bringOnce(name).finally(() => this.#bringing.delete(name))
    this.#bringing.set(name, work)
    return work
  }

  /** Sends a file now, unless it is there already. @returns whether the store has it then */
  send(name: string): Promise<boolean> {
    return this.#inTurn(name, async () => {
      const row = await this.sent.get(name)
      if (row && row.laidOn === null) return true
      const bytes = await this.local.size(name)
      if (bytes === null) return false
      // it may be there from before this database, or from a try that ended before it was written down
      const isThere = (await this.bucket.size(name)) === bytes
      if (!isThere) await this.local.withLocalFile(name, (path) => this.bucket.send(name, path))
      await this.sent.add(name, bytes)
      return true
    })
  }

  /** Takes down a file that another machine has put into the store. @returns whether it is there */
  came(name: string): Promise<boolean> {
    return this.#inTurn(name, async () => {
      if ((await this.#counted(name)) !== null) return true
      const bytes = await this.bucket.size(name)
      if (bytes === null) return false
      await this.sent.add(name, bytes)
      return true
    })
  }

  /** Removes a file from this machine's disk that is in the store, unless somebody works with it. @returns whether it went */
  letGo(name: string): Promise<boolean> {
    return this.#inTurn(name, async () => {
      if (this.#held.has(name) || !(await this.#counted(name)) || this.#held.has(name)) return false
      this.local.remove(name)
      return true
    })
  }

  /**
   * Removes from the store what was put there before a moment and nobody wrote down, as when this server ended while another machine worked
   * for it; but nothing where that is so much that a database must have been lost.
   *
   * @returns how many went, and how many were left for that reason
   */
  async clearStrays(before: number): Promise<{ gone: number; left: number }> {
    const known = new Set([...(await this.sent.all()), ...(await this.sent.laid())].map((row) => row.name))
    const strays: string[] = []
    let all = 0
    for await (const { name, at } of this.bucket.list()) {
      all++
      if (at < before && !known.has(name) && !(await this.local.has(name))) strays.push(name)
    }
    if (isLoss(strays.length, all)) return { gone: 0, left: strays.length }
    for (const name of strays)
      await this.#inTurn(name, async () => {
        if (!(await this.sent.get(name)) && !(await this.local.has(name))) await this.bucket.remove(name)
      })
    return { gone: strays.length, left: 0 }
  }

  /** What the store has under a name, where it counts. */
  async #counted(name: string) {
    if (this.#going.has(name)) return null
    const row = await this.sent.get(name)
    return row?.laidOn === null ? row : null
  }

  async #holding<T>(name: string, work: () => Promise<T>): Promise<T> {
    this.#held.set(name, (this.#held.get(name) ?? 0) + 1)
    try {
      return await work()
    } finally {
      const left = this.#held.get(name)! - 1
      if (left > 0) this.#held.set(name, left)
      else this.#held.delete(name)
    }
  }

  async #bringOnce(name: string) {
    if (await this.local.has(name)) return
    const row = await this.sent.get(name)
    if (!row) throw new Error(`There is no file ${name}, in ${this.bucket.address} neither`)
    const fetch = async () => {
      const { name: got, isNew } = await this.local.receive(atMost(await this.bucket.stream(name), row.bytes))
      if (got === name) return
      if (isNew) this.local.remove(got)
      throw new Error(`What the store ${this.bucket.address} has under ${name} is not that file`)
    }
    await fetch().catch(async (error) => {
      if (!isDiskFull(error) || !this.#keeper) throw error
      await this.#keeper.makeRoom()
      await fetch()
    })
  }

  /** In turn with whatever else is done to the file. */
  #removeThere(name: string): Promise<void> {
    return this.#inTurn(name, async () => {
      if (!(await this.sent.get(name))) return
      // it came again, and is in use
      if (await this.local.has(name)) return this.sent.lay(name, null)
      await this.sent.lay(name, AT_ONCE)
      await this.bucket.remove(name)
      await this.sent.forget(name)
    })
  }

  #makeTrash(): Trash {
    const { local, sent } = this
    return {
      all: async () => new Set([...(await local.trash.all()), ...(await sent.laid()).map((row) => row.name)]),
      withLocalFile: async (name, use) => {
        if ((await local.trash.all()).has(name)) return local.trash.withLocalFile(name, use)
        try {
          return await this.withLocalFile(name, use)
        } finally {
          // it is in the trash as before
          await this.#inTurn(name, async () => {
            if ((await sent.get(name))?.laidOn) local.remove(name)
          })
        }
      },
      lay: (name, day) =>
        this.#inTurn(name, async () => {
          if (!(await sent.get(name))) return local.trash.lay(name, day)
          await sent.lay(name, day)
          local.remove(name)
        }),
      bringBack: (name) =>
        this.#inTurn(name, async () => {
          const row = await sent.get(name)
          if (!row?.laidOn || row.laidOn === AT_ONCE) return local.trash.bringBack(name)
          await sent.lay(name, null)
          return true
        }),
      empty: async (before) => {
        await local.trash.empty(before)
        for (const name of await sent.laidBefore(before)) await this.#removeThere(name)
      },
      note: local.trash.note,
    }
  }
}
