/** Keeps recorded chunks in the browser until the server has them on disk. */

import { type DBSchema, type IDBPDatabase, openDB } from 'idb'
import type { Mark } from '#core/model/marks.ts'

/** What an earlier version kept, which may still wait for its server after an upgrade. */
type EarlierTake = Omit<KeptTake, 'isContinuous' | 'ended'> & {
  isContinuous?: boolean
  through?: boolean
  ended: { chunks: number; dropoutCount?: number; dropoutMs?: number; gaps?: number; gapMs?: number } | null
}

export const inTodaysNames = ({ through = false, isContinuous = through, ended, ...take }: EarlierTake): KeptTake => ({
  ...take,
  isContinuous,
  ended: ended && {
    chunks: ended.chunks,
    dropoutCount: ended.dropoutCount ?? ended.gaps ?? 0,
    dropoutMs: ended.dropoutMs ?? ended.gapMs ?? 0,
  },
})

export interface KeptTake {
  id: string
  slideId: string
  lectureId: string
  microphone: string
  startedAt: number
  /** Recorded straight through, from this slide on. */
  isContinuous: boolean
  /** Told by keys so far. */
  marks: Mark[]
  /** What the recorder said at the end; null while it goes on, or when it never came to its end. */
  ended: { chunks: number; dropoutCount: number; dropoutMs: number } | null
}

interface Schema extends DBSchema {
  takes: { key: string; value: EarlierTake }
  chunks: { key: [string, number]; value: Uint8Array<ArrayBuffer> }
}

let opened: Promise<IDBPDatabase<Schema>> | null = null
const database = () => {
  opened ??= openDB<Schema>('tidy-lectern-recordings', 1, {
    upgrade(db) {
      db.createObjectStore('takes', { keyPath: 'id' })
      db.createObjectStore('chunks')
    },
  })
  return opened
}

const everyChunkOf = (takeId: string) => IDBKeyRange.bound([takeId, 0], [takeId, Number.MAX_SAFE_INTEGER])

/** The keeper of recordings in this browser. A browser that refuses storage (or is full) is told by the promise's failure. */
export const chunkStore = {
  async keepTake(take: KeptTake) {
    await (await database()).put('takes', take)
  },
  async keepChunk(takeId: string, chunk: number, pcm: Uint8Array<ArrayBuffer>) {
    await (await database()).put('chunks', pcm, [takeId, chunk])
  },
  /** @returns takes whose sound or end the server may not have yet */
  async takes(): Promise<KeptTake[]> {
    return (await (await database()).getAll('takes')).map(inTodaysNames)
  },
  async take(id: string) {
    const take = await (await database()).get('takes', id)
    return take && inTodaysNames(take)
  },
  /** @returns the chunk with the lowest number that is still kept */
  async firstChunk(takeId: string): Promise<{ chunk: number; pcm: Uint8Array<ArrayBuffer> } | null> {
    const cursor = await (await database()).transaction('chunks').store.openCursor(everyChunkOf(takeId))
    return cursor ? { chunk: cursor.key[1], pcm: cursor.value } : null
  },
  async dropChunk(takeId: string, chunk: number) {
    await (await database()).delete('chunks', [takeId, chunk])
  },
  async dropTake(takeId: string) {
    const db = await database()
    const tx = db.transaction(['takes', 'chunks'], 'readwrite')
    await Promise.all([tx.objectStore('takes').delete(takeId), tx.objectStore('chunks').delete(everyChunkOf(takeId)), tx.done])
  },
}
