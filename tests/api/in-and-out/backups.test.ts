/** Backups while the app runs, data folders made of them, and what the doctor sees: with programs killed at any moment. */
import { type ChildProcess, spawn } from 'node:child_process'
import { once } from 'node:events'
import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createClient } from '@libsql/client'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import { say } from '#core/words/say.ts'
import { configFrom } from '#server/config/config.ts'
import { keepBackups, listBackups, makeBackup, restoreBackup } from '#server/maintenance/backup.ts'
import { examine } from '#server/maintenance/doctor.ts'
import { databaseUrl, lockFolder } from '#server/storage/data-folder.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { madeTake, random, seconds } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'

const KILLS = IS_LONG ? 50 : 6
const folder = mkdtempSync(join(tmpdir(), 'lectern-backups-'))
const target = join(folder, 'backups of school')
const place = (name: string) => join(folder, name)
let app: TestApp
let lecture: Lecture
let takeId: string
const findings = async (dataFolder: string, all = true) =>
  (await examine(configFrom({ LECTERN_DATA: dataFolder }, ''), all)).map(({ state, finding }) => `${state}: ${say(finding)}`)
const faults = async (dataFolder: string) => (await findings(dataFolder)).filter((line) => !line.startsWith('ok'))
const fileOf = (dataFolder: string, name: string) => join(dataFolder, 'files', name.slice(0, 2), name)

beforeAll(async () => {
  app = await openTestApp()
  lecture = await app.newLecture()
  takeId = await app.record(lecture.slides[0]!.id, madeTake().samples)
  await app.idle()
})
afterAll(async () => {
  await app.end()
  rmSync(folder, { recursive: true, force: true })
})

/** What somebody sees of the lecture in a data folder. */
async function seenIn(dataFolder: string): Promise<Lecture> {
  const other = await openTestApp({ dataFolder })
  try {
    await other.idle()
    return await other.read<Lecture>(`/api/lectures/${lecture.id}`)
  } finally {
    await other.end(true)
  }
}

test('a backup is made while the app runs, and a folder made of it is as it was, with a recording that was under way', async () => {
  const under = crypto.randomUUID()
  await app.begin(under, lecture.slides[1]!.id)
  const pcm = new Uint8Array(Int16Array.from(madeTake().samples.subarray(0, seconds(1)), (v) => v * 32767).buffer)
  await app.sendChunk(under, 0, pcm)
  const made = await makeBackup(app.dataFolder, target)
  expect(made.copiedFiles).toBe(made.files)
  expect(made.files).toBeGreaterThan(6)
  // what comes after it is in the next one, and only that is copied
  await app.json('PATCH', `/api/lectures/${lecture.id}`, { title: 'Renamed later' })
  const next = await makeBackup(app.dataFolder, target)
  expect(next).toMatchObject({ copiedFiles: 0, copiedBytes: 0, files: made.files })
  expect(await listBackups(target)).toEqual([next.name, made.name])

  await restoreBackup(target, place('restored'), made.name)
  const before = await app.read<Lecture>(`/api/lectures/${lecture.id}`)
  expect(await faults(place('restored'))).toEqual([])
  const seen = await seenIn(place('restored'))
  expect(seen.title).toBe(lecture.title)
  expect(seen.slides[0]!.takes[0]).toMatchObject({ id: takeId, sound: before.slides[0]!.takes[0]!.sound })
  const found = seen.slides[1]!.takes.find((take) => take.id === under)
  expect(found).toMatchObject({ recovered: true, samples: seconds(1) })
  await restoreBackup(target, place('newest'), null)
  expect((await seenIn(place('newest'))).title).toBe('Renamed later')
})

test('all but the newest are let go, with the files that only they needed', async () => {
  const few = place('few')
  const first = await makeBackup(app.dataFolder, few)
  const added = await app.record(lecture.slides[2]!.id, madeTake({ seed: 40 }).samples)
  const second = await makeBackup(app.dataFolder, few)
  expect(second.copiedFiles).toBeGreaterThan(0)
  const sound = (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[2]!.takes.find(({ id }) => id === added)!.sound!
  // what the newest needs stays; what the oldest alone needs goes
  expect(await keepBackups(few, 1)).toEqual([first.name])
  expect(await listBackups(few)).toEqual([second.name])
  expect(existsSync(fileOf(few, sound))).toBe(true)
  await restoreBackup(few, place('of few'), null)
  expect(await faults(place('of few'))).toEqual([])
  // a file that nothing needs any more
  writeFileSync(fileOf(few, sound).replace(/[0-9a-f]{8}$/, '00000000'), 'of a backup that is gone')
  expect(await keepBackups(few, 5)).toEqual([])
  expect(existsSync(fileOf(few, sound).replace(/[0-9a-f]{8}$/, '00000000'))).toBe(false)
})

test('a folder of an earlier version, which no app of this one has opened yet, is backed up and looked at', async () => {
  await restoreBackup(target, place('earlier'), null)
  const client = createClient({ url: databaseUrl(join(place('earlier'), 'lectern.sqlite')) })
  await client.execute('DROP TABLE sent_files')
  client.close()
  expect((await makeBackup(place('earlier'), place('of earlier'))).files).toBeGreaterThan(6)
  expect(await faults(place('earlier'))).toEqual([])
})

test('what cannot be a backup, or would write over something, is told', async () => {
  await expect(makeBackup(app.dataFolder, join(app.dataFolder, 'own'))).rejects.toThrow('another disk')
  await expect(makeBackup(place('nothing here'), target)).rejects.toThrow('There are no lectures')
  const held = await lockFolder(target)
  await expect(makeBackup(app.dataFolder, target)).rejects.toThrow('Another backup is being made')
  held.release()
  await expect(restoreBackup(place('nothing here'), place('x'), null)).rejects.toThrow('There is no backup in')
  await expect(restoreBackup(target, place('x'), 'yesterday')).rejects.toThrow('There is no backup “yesterday”. There are:')
  mkdirSync(place('full'))
  writeFileSync(join(place('full'), 'notes.txt'), 'mine')
  await expect(restoreBackup(target, place('full'), null)).rejects.toThrow('is not empty')
  expect(readdirSync(place('full'))).toEqual(['notes.txt'])
})

test('a damaged or missing file is named by the doctor, with what it belongs to, and makes no backup and no data folder', async () => {
  await restoreBackup(target, place('hurt'), null)
  const sound = (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[0]!.takes[0]!.sound!
  const path = fileOf(place('hurt'), sound)
  const bytes = readFileSync(path)
  bytes[bytes.length >> 1]! ^= 1
  writeFileSync(path, bytes)
  expect(await faults(place('hurt'))).toEqual([
    expect.stringMatching(/^fault: One file is not what was stored: a recording of slide 1 of “Renamed later” \(/),
  ])
  // looked for only, it is there
  expect((await findings(place('hurt'), false)).some((line) => line.startsWith('fault'))).toBe(false)
  await expect(makeBackup(place('hurt'), place('other backups'))).rejects.toThrow('is damaged')
  expect(await listBackups(place('other backups'))).toEqual([])
  rmSync(path)
  expect(await faults(place('hurt'))).toEqual([expect.stringContaining('fault: One file is missing: a recording of slide 1')])
  await expect(makeBackup(place('hurt'), place('other backups'))).rejects.toThrow('is missing')
  // the same in a backup
  cpSync(target, place('hurt backups'), { recursive: true })
  writeFileSync(fileOf(place('hurt backups'), sound), bytes)
  await expect(restoreBackup(place('hurt backups'), place('never'), null)).rejects.toThrow(
    'missing or damaged. Nothing was restored',
  )
  expect(existsSync(place('never'))).toBe(false)
  expect(readdirSync(folder).filter((name) => name.includes('.part-'))).toEqual([])
})

test('the doctor tells of a database that is damaged, and of a program that is not there', async () => {
  mkdirSync(place('broken'))
  writeFileSync(join(place('broken'), 'lectern.sqlite'), 'no database')
  expect((await faults(place('broken')))[0]).toMatch(/^fault: The database/)
  const without = await examine({ ...configFrom({ LECTERN_DATA: app.dataFolder }, ''), ffmpeg: '/nowhere/ffmpeg' }, false)
  expect(say(without[0]!.finding)).toContain('ffmpeg was not found')
  expect((await findings(place('empty')))[1]).toMatch(/^look: There are no lectures/)
})

test(`${KILLS} times killed at any moment, a backup is whole or none, and so is what is restored`, async () => {
  const next = random(7)
  const command = (...words: string[]): ChildProcess =>
    spawn('node', ['dist/server/cli.js', ...words], { env: { ...process.env, LECTERN_DATA: app.dataFolder }, stdio: 'ignore' })
  const drill = place('drill')
  let broken = 0
  for (let n = 0; n < KILLS; n++) {
    // every second one begins on an empty target, where there is most to copy
    if (n % 2 === 0) rmSync(drill, { recursive: true, force: true })
    const child = command('backup', drill)
    const ended = once(child, 'exit')
    setTimeout(() => child.kill('SIGKILL'), 250 + 900 * next())
    await ended
    if (child.signalCode) broken++
    for (const name of await listBackups(drill)) {
      const dataFolder = place(`drilled ${n}`)
      await restoreBackup(drill, dataFolder, name)
      expect(await faults(dataFolder)).toEqual([])
      rmSync(dataFolder, { recursive: true })
    }
  }
  expect(broken).toBeGreaterThan(0)
  // what was broken off is in nobody's way
  const last = await makeBackup(app.dataFolder, drill)
  expect(readdirSync(join(drill, 'backups')).filter((name) => name.startsWith('.'))).toEqual([])
  for (let n = 0; n < KILLS; n++) {
    const dataFolder = place(`killed ${n}`)
    const child = spawn('node', ['dist/server/cli.js', 'restore', drill, '--at', last.name], {
      env: { ...process.env, LECTERN_DATA: dataFolder },
      stdio: 'ignore',
    })
    const ended = once(child, 'exit')
    setTimeout(() => child.kill('SIGKILL'), 250 + 500 * next())
    await ended
    if (existsSync(dataFolder)) expect(await faults(dataFolder)).toEqual([])
    else await restoreBackup(drill, dataFolder, last.name)
    // what was broken off is cleared away by the next
    expect(readdirSync(folder).filter((name) => name.startsWith(`killed ${n}.part-`))).toEqual([])
  }
})
