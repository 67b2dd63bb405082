/** The whole road with files in a real store elsewhere, of which nothing is on this machine any more when it is asked for. */
import { createHash } from 'node:crypto'
import { existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import { say } from '#core/words/say.ts'
import { configFrom } from '#server/config/config.ts'
import type { StoreSetting } from '#server/config/store-setting.ts'
import { editionFiles } from '#server/db/schema.ts'
import type { JobView } from '#server/events/job-view.ts'
import { restoreBackup } from '#server/maintenance/backup.ts'
import { examine } from '#server/maintenance/doctor.ts'
import { sweep } from '#server/maintenance/sweep.ts'
import { usedFiles } from '#server/maintenance/used-files.ts'
import type { BucketStore } from '#server/storage/bucket/bucket-store.ts'
import { makeRoom } from '#server/storage/bucket/sending.ts'
import { makeLink } from '#server/watch/links.ts'
import { demoFile, file, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { madeTake } from '#tests/made/sound.ts'
import { built } from '#tests/support/cli.ts'
import { type S3Server, startS3Server } from '#tests/support/processes/s3/server.ts'

let s3: S3Server
let setting: StoreSetting & { text: string }
let app: TestApp
let lecture: Lecture
const folder = mkdtempSync(join(tmpdir(), 'lectern-elsewhere-'))
const env = () => ({ LECTERN_DATA: app.dataFolder, LECTERN_STORE: setting.text })

const store = () => app.context.store as BucketStore
const sha256 = (bytes: ArrayBuffer) => createHash('sha256').update(Buffer.from(bytes)).digest('hex')

/** All files leave this machine. */
async function away() {
  // what was read last may still be on its way here
  await expect
    .poll(
      async () => {
        await app.context.sending!.settled()
        await makeRoom(store(), 0.5, 0, Date.now() + 1000)
        return store().local.all()
      },
      { timeout: 20_000 },
    )
    .toEqual([])
}
async function publish() {
  const { job } = (await (await app.json('POST', `/api/lectures/${lecture.id}/editions`, {})).json()) as { job: JobView }
  const ended = await app.ended(job.id)
  if (ended.state !== 'done') throw new Error(ended.error?.id ?? ended.state)
  return (ended.result as { editionId: string }).editionId
}

beforeAll(async () => {
  s3 = await startS3Server()
  setting = await s3.newBucket()
  app = await openTestApp({ store: setting })
  ;({ lecture } = await app.imported(file('Clouds.pdf', demoFile('clouds-by-their-shapes.pdf'))))
  await app.record(lecture.slides[0]!.id, madeTake().samples)
}, 120_000)
afterAll(async () => {
  await app.end()
  await s3.close()
  rmSync(folder, { recursive: true, force: true })
}, 60_000)

test('slides are shown, takes are played and tidied anew, editions are made and watched', async () => {
  await away()
  const [slide] = lecture.slides
  expect((await app.ask(`/api/files/${slide!.steps[0]!.picture}.webp`)).status).toBe(200)
  const seen = await app.read<Lecture>(`/api/lectures/${lecture.id}`)
  const { clip, id, tidyUp } = seen.slides[0]!.takes[0]!
  expect(sha256(await (await app.ask(`/api/files/${clip!.sound}.flac`)).arrayBuffer())).toBe(clip!.sound)
  await away()
  const changed = await app.json('PUT', `/api/takes/${id}/tidyUp`, { ...tidyUp, cleaning: 0.3 })
  expect(changed.status).toBe(200)
  await app.idle()
  await away()

  const editionId = await publish()
  const files = await app.context.db.read.select().from(editionFiles)
  await away()
  for (const { name, file: content } of files)
    expect(sha256(await (await app.ask(`/api/editions/${editionId}/files/${name}`)).arrayBuffer()), name).toBe(content)
  const token = await makeLink(app.context.db, lecture.id, 'For all')
  await away()
  const video = files.find(({ name }) => name === 'video.mp4')!
  const path = `/watch/${token}/files/${editionId}/video.mp4`
  // as a player asks: pieces, from the store, while the whole is brought
  const piece = await app.ask(path, { headers: { range: 'bytes=1000-2999' } })
  expect([piece.status, piece.headers.get('content-range')]).toEqual([206, `bytes 1000-2999/${video.bytes}`])
  const whole = Buffer.from(await (await app.ask(path)).arrayBuffer())
  expect(sha256(whole as unknown as ArrayBuffer)).toBe(video.file)
  expect(Buffer.compare(Buffer.from(await piece.arrayBuffer()), whole.subarray(1000, 3000))).toBe(0)
  await expect.poll(() => store().local.has(video.file)).toBe(true)
  // a forwarder that reads the disk finds it there
  await away()
  const told = await app.ask(path, { headers: { 'x-sendfile-type': 'X-Lectern-File' } })
  expect(existsSync(join(app.dataFolder, 'files', told.headers.get('x-lectern-file')!))).toBe(true)
}, 120_000)

test('what nothing needs any more is laid away and goes, there too; what is needed stays', async () => {
  await away()
  const stray = await store().put(new Uint8Array([4, 5, 6]))
  await away()
  // with the deck that was imported
  const { laid, left } = await sweep(app.context, -60_000)
  expect([laid.includes(stray), left]).toEqual([true, 0])
  await sweep(app.context, -60_000, Date.now() + 32 * 24 * 3600_000)
  const keys = (await s3.keys(setting)).map((key) => key.split('/').at(-1)!)
  expect(keys).not.toContain(stray)
  const used = await usedFiles(app.context.db.read)
  expect(keys.filter((key) => used.has(key)).sort()).toEqual([...used].sort())
}, 60_000)

test('a backup holds everything, the doctor finds all well, and the command line tells what is where and brings it home', async () => {
  await away()
  const backups = join(folder, 'backups')
  const made = built(['backup', backups, '--json'], { env: env() })
  expect(made.stderr).toBe('')
  const used = await usedFiles(app.context.db.read)
  expect(JSON.parse(made.stdout).copiedFiles).toBeGreaterThan(8)
  const config = configFrom(env(), '')
  const found = (await examine(config, true)).map(({ state, finding }) => `${state}: ${say(finding)}`)
  expect(found).toContain(`ok: The store of files ${setting.address} answers`)
  expect(found).toContain(`ok: All ${used.size} files are there and are what was stored`)
  const told = JSON.parse(built(['store', '--json'], { env: env() }).stdout) as Record<string, number>
  expect(told).toMatchObject({ address: setting.address, localFiles: 0, waiting: 0 })
  expect(told.files).toBeGreaterThanOrEqual(used.size)

  // a store that does not answer hides nothing else
  const nowhere = { ...config, store: { ...setting, endpoint: 'http://127.0.0.1:9' } }
  const seenThen = (await examine(nowhere, false)).map(({ state, finding }) => `${state}: ${say(finding)}`)
  expect(seenThen).toContain('ok: The database is whole')
  expect(seenThen.filter((line) => line.startsWith('fault'))).toEqual([expect.stringContaining('does not answer as it should')])

  // without the store, from the backup alone
  await restoreBackup(backups, join(folder, 'restored'), null)
  const other = await openTestApp({ dataFolder: join(folder, 'restored') })
  await other.idle()
  expect((await other.read<Lecture>(`/api/lectures/${lecture.id}`)).title).toBe(lecture.title)
  await other.end()

  // an app that runs would send it all away again
  expect(built(['store', '--home'], { env: env() }).stderr).toContain('open already')
  await app.end(true)
  expect(built(['doctor'], { env: { LECTERN_DATA: app.dataFolder } }).stdout).toContain(`in ${setting.address} alone`)
  const home = built(['store', '--home'], { env: env() })
  expect(home.stderr).toBe('')
  expect(home.stdout).toContain('Start without LECTERN_STORE')
  app = await openTestApp({ dataFolder: app.dataFolder })
  const there = readdirSync(join(app.dataFolder, 'files'), { recursive: true, encoding: 'utf8' })
  expect([...used].filter((name) => !there.includes(`${name.slice(0, 2)}/${name}`))).toEqual([])
  expect(built(['store'], { env: { LECTERN_DATA: app.dataFolder } }).stderr).toContain('no store elsewhere is set up')
}, 120_000)
