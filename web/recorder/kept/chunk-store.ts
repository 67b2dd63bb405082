/** Keeps recorded chunks in the browser until the server has them on disk. */

import { type DBSchema, type IDBPDatabase, openDB } from 'idb'
import type { Mark } from '#core/model/marks.ts'
import type { FootageKind } from '#core/model/moving/footage.ts'
import type { FootageCodec } from '#core/recording/footage-pieces.ts'

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
  /** Whose voice it is, where it goes by a link; absent for the lecture's own. */
  voice?: { token: string; key: string } | null
  /** Told by keys so far. */
  marks: Mark[]
  /** What the recorder said at the end; null while it goes on, or when it never came to its end. */
  ended: { chunks: number; dropoutCount: number; dropoutMs: number } | null
}

/** Pictures of a screen or a camera that are recorded with a take. */
export interface KeptFootage {
  id: string
  takeId: string
  kind: FootageKind
  isPractice: boolean
  codec: FootageCodec
  width: number
  height: number
  startedAt: number
  /** How many pieces there are in all; null while it goes on, or when it never came to its end. */
  pieces: number | null
}

interface Schema extends DBSchema {
  takes: { key: string; value: EarlierTake }
  chunks: { key: [string, number]; value: Uint8Array<ArrayBuffer> }
}
interface PictureSchema extends DBSchema {
  footage: { key: string; value: KeptFootage; indexes: { 'by-take': string } }
  pieces: { key: [string, number]; value: Uint8Array<ArrayBuffer> }
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

let openedPictures: Promise<IDBPDatabase<PictureSchema>> | null = null
/** Beside that of the sound: a newer version of that one would wait for every tab in which an older app is open. */
const pictures = () => {
  openedPictures ??= openDB<PictureSchema>('tidy-lectern-pictures', 1, {
    upgrade(db) {
      db.createObjectStore('footage', { keyPath: 'id' }).createIndex('by-take', 'takeId')
      db.createObjectStore('pieces')
    },
  })
  return openedPictures
}

const everyChunkOf = (id: string) => IDBKeyRange.bound([id, 0], [id, Number.MAX_SAFE_INTEGER])

/** Tries again and again: what the browser cannot store waits in memory. Sent chunks and pieces make room. */
export async function storeWithRetry(store: () => Promise<unknown>) {
  for (;;) {
    try {
      return await store()
    } catch {
      await new Promise((resolve) => setTimeout(resolve, 1000))
    }
  }
}

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
  async keepFootage(footage: KeptFootage) {
    await (await pictures()).put('footage', footage)
  },
  async keepPiece(footageId: string, piece: number, bytes: Uint8Array<ArrayBuffer>) {
    await (await pictures()).put('pieces', bytes, [footageId, piece])
  },
  /** @param pieces how many there are in all */
  async endFootage(footageId: string, pieces: number) {
    const footage = await (await pictures()).get('footage', footageId)
    if (footage) await (await pictures()).put('footage', { ...footage, pieces })
  },
  /** @returns footage of a take that the server may not have as a whole yet, in the order in which it was begun */
  async footageOf(takeId: string): Promise<KeptFootage[]> {
    const found = await (await pictures()).getAllFromIndex('footage', 'by-take', takeId)
    return found.sort((a, b) => a.startedAt - b.startedAt)
  },
  /** @returns the piece with the lowest number that is still kept */
  async firstPiece(footageId: string): Promise<{ piece: number; bytes: Uint8Array<ArrayBuffer> } | null> {
    const cursor = await (await pictures()).transaction('pieces').store.openCursor(everyChunkOf(footageId))
    return cursor ? { piece: cursor.key[1], bytes: cursor.value } : null
  },
  async dropPiece(footageId: string, piece: number) {
    await (await pictures()).delete('pieces', [footageId, piece])
  },
  async dropFootage(footageId: string) {
    const db = await pictures()
    const tx = db.transaction(['footage', 'pieces'], 'readwrite')
    const gone = [tx.objectStore('footage').delete(footageId), tx.objectStore('pieces').delete(everyChunkOf(footageId))]
    await Promise.all([...gone, tx.done])
  },
  async dropTake(takeId: string) {
    for (const { id } of await chunkStore.footageOf(takeId).catch(() => [])) await chunkStore.dropFootage(id)
    const db = await database()
    const tx = db.transaction(['takes', 'chunks'], 'readwrite')
    await Promise.all([tx.objectStore('takes').delete(takeId), tx.objectStore('chunks').delete(everyChunkOf(takeId)), tx.done])
  },
}
