/** What is asked of a store of files, of the folder and of a real store that speaks S3 alike; then what only the latter must stand. */
import { createHash, randomBytes } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync, statSync, symlinkSync, truncateSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { buffer } from 'node:stream/consumers'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { StoreSetting } from '#server/config/store-setting.ts'
import { type Database, openDatabase } from '#server/db/database.ts'
import { bringHome } from '#server/storage/bucket/bring-home.ts'
import type { BucketStore } from '#server/storage/bucket/bucket-store.ts'
import { openStore } from '#server/storage/bucket/open-store.ts'
import { makeRoom, type Sending } from '#server/storage/bucket/sending.ts'
import { type FileStore, folderStore } from '#server/storage/file-store.ts'
import { type S3Server, startS3Server } from '#tests/support/processes/s3/server.ts'

let s3: S3Server
const folders: string[] = []
const closing: (() => Promise<void> | void)[] = []
const newFolder = () => {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-store-'))
  folders.push(folder)
  return folder
}

beforeAll(async () => {
  s3 = await startS3Server()
}, 120_000)
afterAll(async () => {
  for (const close of closing) await close()
  await s3.close()
  for (const folder of folders) rmSync(folder, { recursive: true, force: true })
}, 60_000)

interface Opened {
  folder: string
  setting: StoreSetting
  db: Database
  store: BucketStore
  sending: Sending
}
/** A data folder with a store elsewhere. */
async function openElsewhere(given: Partial<{ folder: string; setting: StoreSetting }> = {}): Promise<Opened> {
  const folder = given.folder ?? newFolder()
  const setting = given.setting ?? (await s3.newBucket())
  const db = await openDatabase(folder)
  const opened = await openStore({ dataFolder: folder, store: setting }, db)
  if (!opened.sending) throw new Error('no store elsewhere')
  closing.push(async () => {
    await opened.sending.end()
    db.close()
  })
  return { folder, setting, db, ...opened }
}
/** Nothing of it is on this machine any more. */
async function sentAway({ store }: Pick<Opened, 'store'>, ...names: string[]) {
  for (const name of names) {
    expect(await store.send(name)).toBe(true)
    expect(await store.letGo(name)).toBe(true)
    expect(await store.local.has(name)).toBe(false)
  }
}

const nameOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex')
const MISSING = '0'.repeat(64)

/** @param settle what is done after a file has come, before it is asked for */
const kinds: [string, () => Promise<{ store: FileStore; settle: (name: string) => Promise<unknown> }>][] = [
  ['a folder', async () => ({ store: folderStore(newFolder()), settle: async () => {} })],
  ['a store elsewhere, files still here', async () => ({ store: (await openElsewhere()).store, settle: async () => {} })],
  [
    'a store elsewhere, files only there',
    async () => {
      const { store } = await openElsewhere()
      return {
        store,
        settle: async (name) => {
          await sentAway({ store }, name)
        },
      }
    },
  ],
]

describe.each(kinds)('%s', (_, open) => {
  test('gives back what was put, received and adopted, by the name of its content, whole and in ranges', async () => {
    const { store, settle } = await open()
    const [small, large, made] = [randomBytes(10), randomBytes(300_000), randomBytes(1000)]
    expect(await store.put(small)).toBe(nameOf(small))
    const pieces = (async function* () {
      for (let i = 0; i < large.length; i += 70_000) yield large.subarray(i, i + 70_000)
    })()
    const named: string[] = []
    expect(await store.receive(pieces, (name) => named.push(name))).toEqual({
      name: nameOf(large),
      bytes: large.length,
      isNew: true,
    })
    expect(named).toEqual([nameOf(large)])
    const path = store.scratchPath('.made')
    writeFileSync(path, made)
    expect(await store.adopt(path)).toEqual({ name: nameOf(made), bytes: 1000 })
    for (const content of [small, large, made]) {
      const name = nameOf(content)
      await settle(name)
      expect(await store.has(name)).toBe(true)
      expect(await store.size(name)).toBe(content.length)
      expect(Buffer.compare(await buffer(store.stream(name)), content)).toBe(0)
      expect(Buffer.compare(await buffer(store.stream(name, { start: 3, end: 8 })), content.subarray(3, 9))).toBe(0)
      expect(Buffer.compare(await store.read(name), content)).toBe(0)
      await settle(name)
      expect(await store.withLocalFile(name, async (lent) => nameOf(readFileSync(lent)))).toBe(name)
    }
    expect((await store.all()).sort()).toEqual([small, large, made].map(nameOf).sort())
    // the same content is one file
    expect(await store.put(small)).toBe(nameOf(small))
    expect(await store.all()).toHaveLength(3)
  })

  test('says what is not there, and refuses what is no name', async () => {
    const { store } = await open()
    expect(await store.has(MISSING)).toBe(false)
    expect(await store.size(MISSING)).toBeNull()
    await expect(store.read(MISSING)).rejects.toThrow()
    await expect(buffer(store.stream(MISSING))).rejects.toThrow()
    await expect((async () => store.has('../../etc/passwd'))()).rejects.toThrow('Not a name')
  })

  test('removes at once; what is put again afterwards is there', async () => {
    const { store, settle } = await open()
    const content = randomBytes(50)
    const name = await store.put(content)
    await settle(name)
    store.remove(name)
    expect(await store.has(name)).toBe(false)
    expect(await store.all()).toEqual([])
    expect(await store.put(content)).toBe(name)
    expect(await store.has(name)).toBe(true)
    expect(Buffer.compare(await buffer(store.stream(name)), content)).toBe(0)
  })

  test('lays files in the trash, brings them back and empties it', async () => {
    const { store, settle } = await open()
    const [kept, gone] = [await store.put(randomBytes(20)), await store.put(randomBytes(21))]
    await settle(kept)
    await settle(gone)
    await store.trash.lay(kept, '2026-01-02')
    await store.trash.lay(gone, '2026-01-01')
    expect(await store.all()).toEqual([])
    expect([...(await store.trash.all())].sort()).toEqual([kept, gone].sort())
    expect(await store.trash.withLocalFile(kept, async (path) => statSync(path).size)).toBe(20)
    await store.trash.empty('2026-01-02')
    expect([...(await store.trash.all())]).toEqual([kept])
    expect(await store.trash.bringBack(gone)).toBe(false)
    expect(await store.trash.bringBack(kept)).toBe(true)
    expect(await store.all()).toEqual([kept])
    expect((await store.read(kept)).length).toBe(20)
  })

  test('tells which files are older than a moment', async () => {
    const { store, settle } = await open()
    const name = await store.put(randomBytes(5))
    await settle(name)
    expect(await store.olderThan(Date.now() - 60_000)).toEqual([])
    expect(await store.olderThan(Date.now() + 60_000)).toEqual([name])
    // one that is in its folder and gone when it is looked at, as when it is removed meanwhile
    const local = 'local' in store ? (store as BucketStore).local : store
    const placeOf = await local.withLocalFile(name, async (path) => path)
    symlinkSync('/nowhere', placeOf.replace(/[^/]+$/, `${name.slice(0, 2)}${'0'.repeat(62)}`))
    expect(await store.olderThan(Date.now() + 60_000)).toEqual([name])
  })

  test('many at once lend, and what is lent stays until the work ends', async () => {
    const { store, settle } = await open()
    const content = randomBytes(200_000)
    const name = await store.put(content)
    await settle(name)
    const hashes = await Promise.all(
      Array.from({ length: 20 }, () =>
        store.withLocalFiles(async (lend) => {
          const path = await lend(name)
          if ('letGo' in store) expect(await (store as BucketStore).letGo(name)).toBe(false)
          return nameOf(readFileSync(path))
        }),
      ),
    )
    expect(new Set(hashes)).toEqual(new Set([name]))
  })
})

describe('a store elsewhere', () => {
  test('has all that comes soon after, large files too, and nothing that was damaged here', async () => {
    const { store, sending, setting, folder } = await openElsewhere()
    const before = await store.put(randomBytes(30))
    sending.begin()
    // in several parts
    const large = await store.put(randomBytes(20_000_000))
    await sending.settled()
    expect((await s3.keys(setting)).sort()).toEqual([before, large].map((name) => `school/${name.slice(0, 2)}/${name}`).sort())
    expect(await sending.there()).toEqual({ files: 2, bytes: 20_000_030 })
    await sentAway({ store }, large)
    expect(nameOf(await buffer(store.stream(large)))).toBe(large)

    const damaged = nameOf(randomBytes(1))
    const path = await folderStore(folder)
      .put(Buffer.from('what was stored'))
      .then((name) => join(folder, 'files', name.slice(0, 2), name))
    truncateSync(path, 4)
    await expect(store.send(path.split('/').at(-1)!)).rejects.toThrow('not what was stored')
    expect(await store.has(damaged)).toBe(false)
    expect(await s3.keys(setting)).toHaveLength(2)
  })

  test('what is there from another database, or a try that was not written down, is not sent again', async () => {
    const first = await openElsewhere()
    const content = randomBytes(1000)
    const name = await first.store.put(content)
    await first.store.send(name)
    const second = await openElsewhere({ setting: first.setting })
    await second.store.put(content)
    expect(await second.store.send(name)).toBe(true)
    await sentAway(second, name)
    expect(Buffer.compare(await second.store.read(name), content)).toBe(0)
  })

  test('what another machine put there is taken down; what nobody took down goes, unless a database must have been lost', async () => {
    const { store, setting } = await openElsewhere()
    const kept = await store.put(randomBytes(10))
    await store.send(kept)
    const other = await openElsewhere({ setting })
    const [taken, stray] = [await other.store.put(randomBytes(11)), await other.store.put(randomBytes(12))]
    for (const name of [taken, stray]) await other.store.send(name)
    expect(await store.came(MISSING)).toBe(false)
    expect(await store.came(taken)).toBe(true)
    expect((await store.read(taken)).length).toBe(11)
    expect(await store.clearStrays(Date.now() - 60_000)).toEqual({ gone: 0, left: 0 })
    expect(await store.clearStrays(Date.now() + 60_000)).toEqual({ gone: 1, left: 0 })
    expect((await s3.keys(setting)).map((key) => key.split('/').at(-1)!).sort()).toEqual([kept, taken].sort())
    const many = await openElsewhere({ setting })
    for (let i = 0; i < 25; i++) await many.store.send(await many.store.put(randomBytes(8)))
    expect(await store.clearStrays(Date.now() + 60_000)).toEqual({ gone: 0, left: 25 })
  })

  test('room is made by what was not used for longest, never by what is here alone or in use', async () => {
    const { store } = await openElsewhere()
    const names: string[] = []
    for (let i = 0; i < 5; i++) names.push(await store.put(randomBytes(1000)))
    for (const name of names.slice(0, 4)) await store.send(name)
    await store.withLocalFile(names[0]!, async () => {
      // the fifth is here alone; the first is in use: three could go, and two must
      const gone = await makeRoom(store, 3400, 0, Date.now() + 1000)
      expect(gone).toBe(2)
    })
    expect(await store.local.has(names[0]!)).toBe(true)
    expect(await store.local.has(names[4]!)).toBe(true)
    // what was used just now stays
    expect(await makeRoom(store, 1)).toBe(0)
    for (const name of names) expect((await store.read(name)).length).toBe(1000)
  })

  test('whose files are in another store, or in one that is not set any more, is told and not opened; everything comes home', async () => {
    const opened = await openElsewhere()
    const name = await opened.store.put(randomBytes(70))
    await sentAway(opened, name)
    const { db, folder } = opened
    const refusal = `One file is in ${opened.setting.address} alone.`
    await expect(openStore({ dataFolder: folder, store: null }, db)).rejects.toThrow(refusal)
    await expect(openStore({ dataFolder: folder, store: await s3.newBucket() }, db)).rejects.toThrow(refusal)
    expect(await bringHome(opened.store, () => {})).toEqual({ files: 1, brought: 1 })
    const { store } = await openStore({ dataFolder: folder, store: null }, db)
    expect((await store.read(name)).length).toBe(70)
  })

  test('that does not answer stops nothing that comes, and has it when it answers again; what is only there is told', async () => {
    const { store, sending, setting } = await openElsewhere()
    const away = await store.put(randomBytes(40))
    await sentAway({ store }, away)
    await s3.stop()
    try {
      sending.begin()
      const name = await store.put(randomBytes(41))
      expect((await store.read(name)).length).toBe(41)
      await expect(store.read(away)).rejects.toThrow(`The store of files ${setting.address} does not answer`)
      await expect.poll(() => sending.problem(), { timeout: 15_000 }).not.toBeNull()
      expect(sending.waiting()).toBe(1)
      // removed meanwhile: it goes when the store answers
      store.remove(away)
      expect(await store.has(away)).toBe(false)
    } finally {
      await s3.start()
    }
    await expect.poll(() => sending.waiting(), { timeout: 30_000 }).toBe(0)
    expect(sending.problem()).toBeNull()
    await expect
      .poll(
        async () => {
          await store.trash.empty('2026-01-01')
          return s3.keys(setting)
        },
        { timeout: 15_000 },
      )
      .toHaveLength(1)
  }, 60_000)
})
