/** Large files by the hash of their content. A file never changes; the same content is kept once. */
import { createHash, randomUUID } from 'node:crypto'
import { createReadStream, mkdirSync, rmSync } from 'node:fs'
import { appendFile, type FileHandle, open, readdir, readFile, rename, rm, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import type { Readable } from 'node:stream'

export interface FileStore {
  /** @returns the content's name (SHA-256, hex) once it is wholly on disk */
  put(bytes: Uint8Array): Promise<string>
  /**
   * Takes in content as it comes; nothing of it is left when it breaks off.
   *
   * @param named is told the name before it is looked whether the content is there: from then on the file can be held
   */
  receive(
    pieces: AsyncIterable<Uint8Array>,
    named?: (name: string) => void,
  ): Promise<{ name: string; bytes: number; isNew: boolean }>
  /** Takes a finished file into the store; it is moved, not copied. */
  adopt(path: string): Promise<{ name: string; bytes: number }>
  has(name: string): Promise<boolean>
  /** Bytes of a file; null where there is none. */
  size(name: string): Promise<number | null>
  /** All of a file that is known to be small. */
  read(name: string): Promise<Uint8Array>
  /** @param range of bytes, both ends included; without it all of the file */
  stream(name: string, range?: { start: number; end: number }): Readable
  /** Lends a file as one on this machine's disk, for programs that read files. Its path holds until the work ends; nobody writes there. */
  withLocalFile<T>(name: string, use: (path: string) => Promise<T>): Promise<T>
  /** Lends as many files as are asked for while the work goes on. */
  withLocalFiles<T>(use: (lend: Lend) => Promise<T>): Promise<T>
  /** Names of all files that were last written before a moment (milliseconds since 1970). */
  olderThan(moment: number): Promise<string[]>
  /** At once, so that nothing can come between looking whether a file is needed and removing it. */
  remove(name: string): void
  /** Names of all files. */
  all(): Promise<string[]>
  /** Files laid aside: they can be brought back until their day's folder is emptied. */
  readonly trash: Trash
  /** A folder for files that are not whole yet, on the same disk. */
  readonly scratch: string
  /** @returns a path in the scratch folder that nobody else has */
  scratchPath(ending: string): string
}

/** @returns the path of a file on this machine's disk, which holds until the work that it was lent for ends */
export type Lend = (name: string) => Promise<string>

export interface Trash {
  /** @param day "2026-11-28" */
  lay(name: string, day: string): Promise<void>
  /** Names of all that was laid. */
  all(): Promise<Set<string>>
  /** Lends a laid file, as `FileStore.withLocalFile` does. */
  withLocalFile<T>(name: string, use: (path: string) => Promise<T>): Promise<T>
  /** @returns whether it was there */
  bringBack(name: string): Promise<boolean>
  /** Removes what was laid before a day. */
  empty(before: string): Promise<void>
  /** Adds a line to what is written down of it. */
  note(line: string): Promise<void>
}

const DAY = /^\d{4}-\d{2}-\d{2}$/

/** @param folder `trash/` of a data folder: a folder a day, and `log.txt` @param path where a file of the store lies */
function folderTrash(folder: string, path: (name: string) => string): Trash {
  const days = async () => (await readdir(folder).catch(() => [])).filter((name) => DAY.test(name))
  const places = async () => {
    const laid = new Map<string, string>()
    for (const day of await days()) for (const name of await readdir(join(folder, day))) laid.set(name, join(folder, day, name))
    return laid
  }
  return {
    all: async () => new Set((await places()).keys()),
    async withLocalFile(name, use) {
      const place = (await places()).get(name)
      if (!place) throw new RangeError(`Not in the trash: ${name}`)
      return use(place)
    },
    async lay(name, day) {
      mkdirSync(join(folder, day), { recursive: true })
      await rename(path(name), join(folder, day, name)).catch((error: NodeJS.ErrnoException) => {
        // it may have been put away already
        if (error.code !== 'ENOENT') throw error
      })
    },
    async bringBack(name) {
      const from = (await places()).get(name)
      if (!from) return false
      mkdirSync(dirname(path(name)), { recursive: true })
      await rename(from, path(name))
      return true
    },
    async empty(before) {
      for (const day of await days()) if (day < before) await rm(join(folder, day), { recursive: true })
    },
    async note(line) {
      mkdirSync(folder, { recursive: true })
      await appendFile(join(folder, 'log.txt'), `${new Date().toISOString()} ${line}\n`)
    },
  }
}

const exists = (file: string) =>
  stat(file).then(
    () => true,
    () => false,
  )

/** One that was removed since its folder was read is not older than anything. */
const isOlder = (file: string, moment: number) =>
  stat(file).then(
    ({ mtimeMs }) => mtimeMs < moment,
    (error: NodeJS.ErrnoException) => {
      if (error.code !== 'ENOENT') throw error
      return false
    },
  )

/** Writes a file of its own; nothing of it is left when it breaks off. @returns once it is wholly on disk */
async function writeWhole(path: string, write: (file: FileHandle) => Promise<void>) {
  try {
    const file = await open(path, 'wx')
    try {
      await write(file)
      await file.sync()
    } finally {
      await file.close()
    }
  } catch (error) {
    await discard(path, error)
  }
}

/** @throws what went wrong, when the file that came to nothing is gone */
async function discard(path: string, error: unknown): Promise<never> {
  await rm(path, { force: true })
  throw error
}

/** Moves a finished file to its place, unless the same content is there already. */
async function settle(from: string, to: string) {
  if (await exists(to)) {
    await rm(from, { force: true })
    return
  }
  mkdirSync(dirname(to), { recursive: true })
  await rename(from, to)
  // the name in the folder must be on disk as well before a row may point to it
  const folder = await open(dirname(to), 'r')
  await folder.sync().finally(() => folder.close())
}

/** When more than so many files, and more than such a share, belong to nothing, a database was lost rather than work broken off. */
const MOST_STRAY = { files: 20, share: 0.1 }
export const isLoss = (strays: number, all: number) => strays > MOST_STRAY.files && strays > MOST_STRAY.share * all

export interface StoredFile {
  name: string
  bytes: number
  /** When it was last written or, as the disk tells, read; milliseconds since 1970. */
  usedAt: number
}

/** A store whose files all lie on this machine's disk. */
export interface FolderStore extends FileStore {
  /** All files, as the disk knows them. */
  listed(): Promise<StoredFile[]>
}

async function asTheDiskKnows(names: readonly string[], path: (name: string) => string): Promise<StoredFile[]> {
  const files = await Promise.all(
    names.map(async (name) => {
      // one may go meanwhile
      const found = await stat(path(name)).catch(() => null)
      return found && { name, bytes: found.size, usedAt: Math.max(found.mtimeMs, found.atimeMs) }
    }),
  )
  return files.filter((file) => file !== null)
}

/** @param dataFolder files go to `files/` in it */
export function folderStore(dataFolder: string): FolderStore {
  const root = join(dataFolder, 'files')
  const scratch = join(dataFolder, 'scratch')
  mkdirSync(root, { recursive: true })
  mkdirSync(scratch, { recursive: true })
  const path = (name: string) => {
    if (!/^[0-9a-f]{64}$/.test(name)) throw new RangeError(`Not a name of a stored file: ${name}`)
    return join(root, name.slice(0, 2), name)
  }
  const scratchPath = (ending: string) => join(scratch, `${randomUUID()}${ending}`)

  const all = async () => (await Promise.all((await readdir(root)).map((folder) => readdir(join(root, folder))))).flat()

  return {
    scratch,
    scratchPath,
    has: (name) => exists(path(name)),
    size: (name) =>
      stat(path(name)).then(
        ({ size }) => size,
        () => null,
      ),
    read: async (name) => new Uint8Array(await readFile(path(name))),
    stream: (name, range) => createReadStream(path(name), { highWaterMark: 1 << 18, ...range }),
    // they lie on this machine's disk as they are
    withLocalFile: async (name, use) => use(path(name)),
    withLocalFiles: async (use) => use(async (name) => path(name)),
    remove: (name) => rmSync(path(name), { force: true }),
    all,
    trash: folderTrash(join(dataFolder, 'trash'), path),
    listed: async () => asTheDiskKnows(await all(), path),
    async olderThan(moment) {
      const names = await all()
      const older = await Promise.all(names.map((name) => isOlder(path(name), moment)))
      return names.filter((_, i) => older[i])
    },
    async put(bytes) {
      const name = createHash('sha256').update(bytes).digest('hex')
      if (await exists(path(name))) return name
      const part = scratchPath('.part')
      await writeWhole(part, (file) => file.writeFile(bytes))
      await settle(part, path(name)).catch((error) => discard(part, error))
      return name
    },
    async receive(pieces, named) {
      const part = scratchPath('.part')
      const hash = createHash('sha256')
      let bytes = 0
      await writeWhole(part, async (file) => {
        for await (const piece of pieces) {
          hash.update(piece)
          await file.writeFile(piece)
          bytes += piece.length
        }
      })
      const name = hash.digest('hex')
      try {
        named?.(name)
        const isNew = !(await exists(path(name)))
        await settle(part, path(name))
        return { name, bytes, isNew }
      } catch (error) {
        return discard(part, error)
      }
    },
    async adopt(from) {
      const hash = createHash('sha256')
      let bytes = 0
      for await (const piece of createReadStream(from)) {
        hash.update(piece as Buffer)
        bytes += (piece as Buffer).length
      }
      const file = await open(from, 'r+')
      await file.sync().finally(() => file.close())
      const name = hash.digest('hex')
      await settle(from, path(name))
      return { name, bytes }
    },
  }
}

/** Has files on this machine's disk while others work that look for them in the data folder. */
export const withFilesHere = <T>(store: FileStore, names: readonly string[], work: () => Promise<T>): Promise<T> =>
  store.withLocalFiles(async (lend) => {
    await Promise.all(names.map(lend))
    return work()
  })

/** Empties the scratch folder: at start, whatever lies there belongs to nobody. */
export async function clearScratch(store: FileStore) {
  for (const name of await readdir(store.scratch)) await rm(join(store.scratch, name), { recursive: true, force: true })
}
