/**
 * What this browser shows to be somebody who came by a link before. In the store that recordings are kept in, and on disk before it is gone on:
 * what else browsers remember they write down when they like, and a recording would belong to nobody whom they know after their power was cut.
 */
import { type DBSchema, openDB } from 'idb'

interface Schema extends DBSchema {
  voices: { key: string; value: string }
}

const database = () =>
  openDB<Schema>('tidy-lectern-voices', 1, {
    upgrade(db) {
      db.createObjectStore('voices')
    },
  })

/** A browser that refuses to keep anything knows it as long as the page is open. */
const unkept = new Map<string, string>()

/** @param key '' to be nobody again */
export async function keepVoice(token: string, key: string) {
  unkept.set(token, key)
  try {
    const tx = (await database()).transaction('voices', 'readwrite', { durability: 'strict' })
    await Promise.all([tx.store.put(key, token), tx.done])
  } catch {
    // as above
  }
}

/** A learning platform says after the # who comes: nothing of it stays in the address. */
function sentVoice(): string | null {
  const key = location.hash.slice(1)
  if (!/^[\w-]+\.[\w-]+$/.test(key)) return null
  history.replaceState(null, '', location.pathname)
  return key
}

/** @returns '' for nobody */
export async function knownVoice(token: string): Promise<string> {
  const sent = sentVoice()
  if (sent !== null) {
    await keepVoice(token, sent)
    return sent
  }
  try {
    return (await (await database()).get('voices', token)) ?? unkept.get(token) ?? ''
  } catch {
    return unkept.get(token) ?? ''
  }
}
