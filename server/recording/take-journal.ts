/**
 * The file a recording grows in. Each chunk is a record with its number, length and checksum, written and synced before it
 * is acknowledged; a torn last record is told from a whole one by its checksum and left out.
 */
import { closeSync, mkdirSync, openSync } from 'node:fs'
import { type FileHandle, open, readdir, rename, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { crc32 } from 'node:zlib'
import type { Pcm, PcmFile } from '#server/media/pcm.ts'
import { appendTo } from '#server/media/sample-file.ts'

const MAGIC = 0x4b54_4c54 // "TLTK"
const HEADER = 16 // magic, chunk number, bytes of sound, checksum; little-endian

export interface TakeJournal<S extends Pcm = Int16Array> {
  /** Number of the chunk expected next; chunks are counted from 0. */
  next: number
  /** 16-bit samples, mono, 48 kHz, of all whole chunks in order. */
  samples: S
  /** Length of the file up to its last whole record. */
  bytes: number
}

export interface TakeJournals {
  /**
   * Adds a chunk. One that is already there is acknowledged again and not written twice.
   *
   * @param pcm little-endian 16-bit samples
   * @returns the chunk expected next; it is greater than `chunk` only when the chunk is on disk
   */
  append(takeId: string, chunk: number, pcm: Uint8Array): Promise<number>
  read(takeId: string): Promise<TakeJournal>
  /** The same for a long recording. @param path of a file that is made anew, for the samples */
  readToDisk(takeId: string, path: string): Promise<TakeJournal<PcmFile>>
  /** Reads what each record holds, in order. @param take has to be done with it when it ends */
  each(takeId: string, take: (piece: Uint8Array) => unknown): Promise<{ next: number }>
  /** @returns bytes on disk; 0 when there is no journal */
  size(takeId: string): Promise<number>
  /** Makes a journal anew of sound that was kept elsewhere, a record a piece. Does nothing where there is one. */
  restore(takeId: string, pieces: Iterable<Uint8Array>): Promise<void>
  remove(takeId: string): Promise<void>
  /** Takes that have a journal. */
  all(): Promise<string[]>
  /** @returns milliseconds since the last chunk; null when there is no journal */
  idleMs(takeId: string): Promise<number | null>
}

/** @param take is given what each record holds; it has to be done with it when it ends @returns how many there are, and their length with all */
async function scan(file: FileHandle, take: (sound: Buffer) => unknown): Promise<{ next: number; bytes: number }> {
  const { size } = await file.stat()
  const header = Buffer.alloc(HEADER)
  let room = Buffer.alloc(0)
  let [next, bytes] = [0, 0]
  while (bytes + HEADER <= size) {
    await file.read(header, 0, HEADER, bytes)
    const length = header.readUInt32LE(8)
    if (header.readUInt32LE(0) !== MAGIC || header.readUInt32LE(4) !== next || bytes + HEADER + length > size) break
    if (room.length < length) room = Buffer.alloc(length)
    const sound = room.subarray(0, length)
    const { bytesRead } = await file.read(sound, 0, length, bytes + HEADER)
    if (bytesRead < length || crc32(sound) !== header.readUInt32LE(12)) break
    await take(sound)
    next++
    bytes += HEADER + length
  }
  return { next, bytes }
}

/** The same of the journal at a path; nothing where there is none. */
async function scanAt(path: string, take: (sound: Buffer) => unknown): Promise<{ next: number; bytes: number }> {
  const file = await open(path, 'r').catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return null
    throw error
  })
  return file ? scan(file, take).finally(() => file.close()) : { next: 0, bytes: 0 }
}

const sizeOf = async (path: string) => (await stat(path).catch(() => null))?.size ?? 0

async function readJournal(path: string): Promise<TakeJournal> {
  const sound = new Uint8Array(await sizeOf(path))
  let filled = 0
  const found = await scanAt(path, (piece) => {
    sound.set(piece, filled)
    filled += piece.length
  })
  return { ...found, samples: new Int16Array(sound.buffer, 0, filled >> 1) }
}

/** @param to a file that is made anew, for the samples */
async function readJournalToDisk(path: string, to: string): Promise<TakeJournal<PcmFile>> {
  const file = openSync(to, 'wx')
  let length = 0
  try {
    const found = await scanAt(path, (piece) => {
      appendTo(file, piece)
      length += piece.length >> 1
    })
    return { ...found, samples: { path: to, first: 0, length } }
  } finally {
    closeSync(file)
  }
}

/** @param bytes where in the file it is put @returns how many bytes the record has, once they are on disk */
async function writeRecord(path: string, chunk: number, pcm: Uint8Array, bytes: number): Promise<number> {
  const record = Buffer.alloc(HEADER + pcm.length)
  record.writeUInt32LE(MAGIC, 0)
  record.writeUInt32LE(chunk, 4)
  record.writeUInt32LE(pcm.length, 8)
  record.writeUInt32LE(crc32(pcm), 12)
  record.set(pcm, HEADER)
  let file: FileHandle | null = null
  try {
    file = await open(path, bytes === 0 ? 'w' : 'r+')
    // a disk that is filling up takes a part and calls it a success
    const { bytesWritten } = await file.write(record, 0, record.length, bytes)
    if (bytesWritten < record.length) throw Object.assign(new Error('The disk took a part of a chunk only'), { code: 'ENOSPC' })
    await file.datasync()
  } finally {
    await file?.close()
  }
  return record.length
}

/** @returns what does one thing at a time for each take */
function turnsOf() {
  const turns = new Map<string, Promise<unknown>>()
  return <T>(takeId: string, work: () => Promise<T>): Promise<T> => {
    const result = (turns.get(takeId) ?? Promise.resolve()).then(work)
    const settled = result.catch(() => {})
    turns.set(takeId, settled)
    void settled.then(() => turns.get(takeId) === settled && turns.delete(takeId))
    return result
  }
}

/**
 * @param dataFolder journals lie in `recordings/` in it
 * @param ending of their names: sound of takes, or pictures of footage
 */
export function takeJournals(dataFolder: string, ending: 'take' | 'footage' = 'take'): TakeJournals {
  const folder = join(dataFolder, 'recordings')
  mkdirSync(folder, { recursive: true })
  const path = (takeId: string) => join(folder, `${takeId}.${ending}`)
  const isJournal = new RegExp(`^([0-9a-f-]{36})\\.${ending}$`)
  // what each open journal expects next: a cache of what its file says
  const ends = new Map<string, { next: number; bytes: number }>()
  const inTurn = turnsOf()

  return {
    append: (takeId, chunk, pcm) =>
      inTurn(takeId, async () => {
        let end = ends.get(takeId)
        if (!end) {
          end = await scanAt(path(takeId), () => {})
          ends.set(takeId, end)
        }
        if (chunk !== end.next) return end.next
        try {
          end.bytes += await writeRecord(path(takeId), chunk, pcm, end.bytes)
          end.next++
        } catch (error) {
          ends.delete(takeId) // half a record may stand there: look again next time
          throw error
        }
        return end.next
      }),
    read: (takeId) => inTurn(takeId, () => readJournal(path(takeId))),
    readToDisk: (takeId, to) => inTurn(takeId, () => readJournalToDisk(path(takeId), to)),
    each: (takeId, take) => inTurn(takeId, () => scanAt(path(takeId), take)),
    size: (takeId) => sizeOf(path(takeId)),
    restore: (takeId, pieces) =>
      inTurn(takeId, async () => {
        if ((await sizeOf(path(takeId))) > 0) return
        ends.delete(takeId)
        // under another name until it is whole
        const beside = `${takeId}.part`
        await rm(path(beside), { force: true })
        let [bytes, chunk] = [0, 0]
        for (const piece of pieces) bytes += await writeRecord(path(beside), chunk++, piece, bytes)
        await rename(path(beside), path(takeId))
      }),
    all: async () => (await readdir(folder)).flatMap((name) => isJournal.exec(name)?.[1] ?? []),
    remove: (takeId) =>
      inTurn(takeId, async () => {
        ends.delete(takeId)
        await rm(path(takeId), { force: true })
      }),
    async idleMs(takeId) {
      const found = await stat(path(takeId)).catch(() => null)
      return found ? Date.now() - found.mtimeMs : null
    },
  }
}
