/** Keeps recorded chunks in the browser until the server has them on disk. */

import { type DBSchema, type IDBPDatabase, openDB } from 'idb'
import type { Mark } from '#core/model/marks.ts'

export interface KeptTake {
  id: string
  slideId: string
  lectureId: string
  microphone: string
  startedAt: number
  /** Recorded straight through, from this slide on. */
  through: boolean
  /** Told by keys so far. */
  marks: Mark[]
  /** What the recorder said at the end; null while it goes on, or when it never came to its end. */
  ended: { chunks: number; gaps: number; gapMs: number } | null
}

interface Schema extends DBSchema {
  takes: { key: string; value: KeptTake }
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
    return (await database()).getAll('takes')
  },
  async take(id: string) {
    return (await database()).get('takes', id)
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
