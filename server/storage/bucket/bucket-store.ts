/**
 * Files of which all are in a store elsewhere, and some on this machine's disk: what comes is written here first, whole and synced, and sent
 * at leisure (`sending.ts`), so that nothing that is recorded waits for a line; what is needed and not here is brought back; what was not
 * used for long, and is surely there, makes room here.
 */
import { PassThrough, type Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { isDiskFull } from '#server/errors/user-facing-error.ts'
import type { FileStore, FolderStore, Trash } from '../file-store.ts'
import type { Bucket } from './bucket.ts'
import { turnsByName } from './by-name.ts'
import type { SentFiles } from './sent-files.ts'

export interface BucketStore extends FileStore {
  readonly local: FolderStore
  readonly bucket: Bucket
  readonly sent: SentFiles
  /** Sends a file now, unless it is there already. @returns whether this machine has it, or the store */
  send(name: string): Promise<boolean>
  /** Takes down a file that another machine has put into the store. @returns whether it is there */
  came(name: string): Promise<boolean>
  /** Brings a file to this machine's disk, where it is not there yet. */
  bring(name: string): Promise<void>
  /** Removes a file from this machine's disk that is in the store, unless somebody works with it. @returns whether it went */
  letGo(name: string): Promise<boolean>
  /** From now on somebody looks after it; until then nothing is sent, and what is only read is not kept here. */
  lookedAfterBy(keeper: Keeper): void
}

export interface Keeper {
  arrived(name: string): void
  /** Makes room on this machine's disk. */
  makeRoom(): Promise<void>
}

/** Laid so early that the next emptying takes it: what was to be removed when the store did not answer. */
const AT_ONCE = '0000-00-00'

export function bucketStore(local: FolderStore, bucket: Bucket, sent: SentFiles): BucketStore {
  const inTurn = turnsByName()
  /** How many work with a file here. */
  const held = new Map<string, number>()
  /** Removed, while the store does not know it yet. */
  const going = new Set<string>()
  let keeper: Keeper | null = null
  const bringing = new Map<string, Promise<void>>()

  const counts = async (name: string) => {
    if (going.has(name)) return null
    const row = await sent.get(name)
    return row?.laidOn === null ? row : null
  }
  async function holding<T>(name: string, work: () => Promise<T>): Promise<T> {
    held.set(name, (held.get(name) ?? 0) + 1)
    try {
      return await work()
    } finally {
      const left = held.get(name)! - 1
      if (left > 0) held.set(name, left)
      else held.delete(name)
    }
  }
  const arrived = (name: string) => {
    keeper?.arrived(name)
    return name
  }

  async function fetchOnce(name: string) {
    const { name: got } = await local.receive(await bucket.stream(name))
    if (got === name) return
    local.remove(got)
    throw new Error(`What the store ${bucket.address} has under ${name} is not that file`)
  }
  function bring(name: string): Promise<void> {
    const under = bringing.get(name)
    if (under) return under
    const work = (async () => {
      if (await local.has(name)) return
      await fetchOnce(name).catch(async (error) => {
        if (!isDiskFull(error) || !keeper) throw error
        await keeper.makeRoom()
        await fetchOnce(name)
      })
    })().finally(() => bringing.delete(name))
    bringing.set(name, work)
    return work
  }
  const lent = <T>(name: string, use: (path: string) => Promise<T>): Promise<T> =>
    holding(name, async () => {
      await bring(name)
      return local.withLocalFile(name, use)
    })

  /** In turn with whatever else is done to the file. */
  const removeFromStore = (name: string) =>
    inTurn(name, async () => {
      if (!(await sent.get(name))) return
      // it came again, and is in use
      if (await local.has(name)) return sent.lay(name, null)
      await sent.lay(name, AT_ONCE)
      await bucket.remove(name)
      await sent.forget(name)
    })

  const trash: Trash = {
    all: async () => new Set([...(await local.trash.all()), ...(await sent.laid()).map((row) => row.name)]),
    async withLocalFile(name, use) {
      if ((await local.trash.all()).has(name)) return local.trash.withLocalFile(name, use)
      try {
        return await lent(name, use)
      } finally {
        local.remove(name)
      }
    },
    lay: (name, day) =>
      inTurn(name, async () => {
        if (!(await sent.get(name))) return local.trash.lay(name, day)
        await sent.lay(name, day)
        local.remove(name)
      }),
    bringBack: (name) =>
      inTurn(name, async () => {
        const row = await sent.get(name)
        if (!row?.laidOn || row.laidOn === AT_ONCE) return local.trash.bringBack(name)
        await sent.lay(name, null)
        return true
      }),
    async empty(before) {
      await local.trash.empty(before)
      for (const name of await sent.laidBefore(before)) await removeFromStore(name)
    },
    note: local.trash.note,
  }

  const store: BucketStore = {
    local,
    bucket,
    sent,
    trash,
    bring,
    lookedAfterBy(given) {
      keeper = given
    },
    scratch: local.scratch,
    scratchPath: local.scratchPath,
    send: (name) =>
      inTurn(name, async () => {
        const row = await sent.get(name)
        if (row && row.laidOn === null) return true
        if (!(await local.has(name))) return false
        // it may be there from before this database, or from a try that ended before it was written down
        const bytes = await local.size(name)
        if ((await bucket.size(name)) === bytes) await sent.add(name, bytes!)
        else await sent.add(name, await local.withLocalFile(name, (path) => bucket.send(name, path)))
        return true
      }),
    came: (name) =>
      inTurn(name, async () => {
        if ((await counts(name)) !== null) return true
        const bytes = await bucket.size(name)
        if (bytes === null) return false
        await sent.add(name, bytes)
        return true
      }),
    letGo: (name) =>
      inTurn(name, async () => {
        if (held.has(name) || !(await counts(name))) return false
        local.remove(name)
        return true
      }),
    async put(bytes) {
      return arrived(await local.put(bytes))
    },
    async receive(pieces, named) {
      const received = await local.receive(pieces, named)
      arrived(received.name)
      return received
    },
    async adopt(path) {
      const adopted = await local.adopt(path)
      arrived(adopted.name)
      return adopted
    },
    has: async (name) => (await local.has(name)) || (await counts(name)) !== null,
    size: async (name) => (await local.size(name)) ?? (await counts(name))?.bytes ?? null,
    read: (name) =>
      holding(name, async () => {
        await bring(name)
        return local.read(name)
      }),
    stream(name, range) {
      const out = new PassThrough({ highWaterMark: 1 << 18 })
      void holding(name, async () => {
        const isHere = await local.has(name)
        const source: Readable = isHere ? local.stream(name, range) : await bucket.stream(name, range)
        // who watches asks for the next stretch in a moment
        if (!isHere && keeper) void bring(name).catch(() => {})
        await pipeline(source, out)
      }).catch((error) => void out.destroy(error))
      return out
    },
    withLocalFile: lent,
    async withLocalFiles(use) {
      let end = () => {}
      const ended = new Promise<void>((resolve) => {
        end = resolve
      })
      const lend = (name: string) =>
        new Promise<string>((resolve, reject) => {
          lent(name, (path) => {
            resolve(path)
            return ended
          }).catch(reject)
        })
      try {
        return await use(lend)
      } finally {
        end()
      }
    },
    remove(name) {
      local.remove(name)
      going.add(name)
      void removed(name)
    },
    async all() {
      const names = new Set(await local.all())
      for (const row of await sent.all()) if (!going.has(row.name)) names.add(row.name)
      return [...names]
    },
    async olderThan(moment) {
      const here = new Set(await local.all())
      const there = (await sent.all()).filter((row) => row.sentAt < moment && !here.has(row.name) && !going.has(row.name))
      return [...(await local.olderThan(moment)), ...there.map((row) => row.name)]
    },
  }

  /** Removes a file from the store that was removed here, where it is there. */
  async function removed(name: string) {
    try {
      await removeFromStore(name)
    } catch (error) {
      // it lies in the trash by then, and goes with what is emptied next
      console.error(`${name} could not be removed from the store of files yet:`, (error as Error).message)
    } finally {
      going.delete(name)
    }
  }
  return store
}
