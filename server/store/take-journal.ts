/**
 * The file a recording grows in. Each chunk is a record with its number, length and checksum, written and synced before it
 * is acknowledged; a torn last record is told from a whole one by its checksum and left out.
 */
import { mkdirSync } from 'node:fs'
import { type FileHandle, open, readFile, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { crc32 } from 'node:zlib'
import { samplesOf } from '#server/media/sound-files.ts'

const MAGIC = 0x4b54_4c54 // "TLTK"
const HEADER = 16 // magic, chunk number, bytes of sound, checksum; little-endian

export interface TakeJournal {
  /** Number of the chunk expected next; chunks are counted from 0. */
  next: number
  /** 16-bit samples, mono, 48 kHz, of all whole chunks in order. */
  samples: Int16Array
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
  remove(takeId: string): Promise<void>
  /** @returns milliseconds since the last chunk; null when there is no journal */
  idleMs(takeId: string): Promise<number | null>
}

function scan(file: Buffer): TakeJournal {
  const pieces: Buffer[] = []
  let at = 0
  while (at + HEADER <= file.length) {
    const length = file.readUInt32LE(at + 8)
    const body = file.subarray(at + HEADER, at + HEADER + length)
    const whole = file.readUInt32LE(at) === MAGIC && file.readUInt32LE(at + 4) === pieces.length && body.length === length
    if (!whole || crc32(body) !== file.readUInt32LE(at + 12)) break
    pieces.push(body)
    at += HEADER + length
  }
  return { next: pieces.length, samples: samplesOf(Buffer.concat(pieces)), bytes: at }
}

/** @param dataFolder journals lie in `recordings/` in it */
export function takeJournals(dataFolder: string): TakeJournals {
  const folder = join(dataFolder, 'recordings')
  mkdirSync(folder, { recursive: true })
  const path = (takeId: string) => join(folder, `${takeId}.take`)
  const empty: TakeJournal = { next: 0, samples: new Int16Array(0), bytes: 0 }
  const readJournal = async (takeId: string) => {
    const file = await readFile(path(takeId)).catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return null
      throw error
    })
    return file ? scan(file) : empty
  }
  // what each open journal expects next: a cache of what its file says
  const ends = new Map<string, { next: number; bytes: number }>()
  const turns = new Map<string, Promise<unknown>>()
  /** One thing at a time for each take. */
  const inTurn = <T>(takeId: string, work: () => Promise<T>): Promise<T> => {
    const result = (turns.get(takeId) ?? Promise.resolve()).then(work)
    const settled = result.catch(() => {})
    turns.set(takeId, settled)
    void settled.then(() => turns.get(takeId) === settled && turns.delete(takeId))
    return result
  }

  async function write(takeId: string, chunk: number, pcm: Uint8Array, bytes: number) {
    const record = Buffer.alloc(HEADER + pcm.length)
    record.writeUInt32LE(MAGIC, 0)
    record.writeUInt32LE(chunk, 4)
    record.writeUInt32LE(pcm.length, 8)
    record.writeUInt32LE(crc32(pcm), 12)
    record.set(pcm, HEADER)
    let file: FileHandle | null = null
    try {
      file = await open(path(takeId), bytes === 0 ? 'w' : 'r+')
      // a disk that is filling up takes a part and calls it a success
      const { bytesWritten } = await file.write(record, 0, record.length, bytes)
      if (bytesWritten < record.length) throw Object.assign(new Error('The disk took a part of a chunk only'), { code: 'ENOSPC' })
      await file.datasync()
    } finally {
      await file?.close()
    }
    return record.length
  }

  return {
    append: (takeId, chunk, pcm) =>
      inTurn(takeId, async () => {
        let end = ends.get(takeId)
        if (!end) {
          const { next, bytes } = await readJournal(takeId)
          end = { next, bytes }
          ends.set(takeId, end)
        }
        if (chunk !== end.next) return end.next
        try {
          end.bytes += await write(takeId, chunk, pcm, end.bytes)
          end.next++
        } catch (error) {
          ends.delete(takeId) // half a record may stand there: look again next time
          throw error
        }
        return end.next
      }),
    read: (takeId) => inTurn(takeId, () => readJournal(takeId)),
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
