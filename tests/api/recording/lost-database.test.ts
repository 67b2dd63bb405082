/** A database that is lost, put back from yesterday, damaged, newer, or in use: no recording goes with it, and what is wrong is said. */
import { spawnSync } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  renameSync,
  rmSync,
  utimesSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, expect, test } from 'vitest'
import { fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { takes } from '#server/db/schema.ts'
import { lostRecordings } from '#server/domain/lectures/found-again.ts'
import { letOldJournalsGo } from '#server/domain/takes/takes.ts'
import { sweep } from '#server/maintenance/sweep.ts'
import { file, openTestApp, type TestApp, workers } from '#tests/api/harness.ts'
import { firstDifference, madeTake, noise, seconds } from '#tests/made/sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { built, lectern as call } from '#tests/support/cli.ts'
import { recordedFrames, sendFootage } from '#tests/support/footage.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = test.runIf(IS_LONG)

const root = join(import.meta.dirname, '../../..')
let app: TestApp
afterEach(() => app?.end())

const DATABASE = ['lectern.sqlite', 'lectern.sqlite-wal', 'lectern.sqlite-shm']
const inData = (name: string) => join(app.dataFolder, name)
const storedFiles = () => readdirSync(inData('files'), { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile())
/** As if all of it had been written two days ago. */
function age() {
  const then = Date.now() / 1000 - 2 * 24 * 3600
  for (const entry of storedFiles()) utimesSync(join(entry.parentPath, entry.name), then, then)
}
const lectern = (...words: string[]) => call(words, { env: { LECTERN_DATA: app.dataFolder }, workers })
const soundOf = (name: string) =>
  app.context.store.withLocalFile(name, (path) => app.context.media.run(['-f', 'flac', '-i', path, '-f', 's16le', 'pipe:1']))

longTest(
  'with the database gone and all files two days old, nothing goes, and the recordings come back as a lecture',
  async () => {
    app = await openTestApp()
    const lecture = await app.newLecture()
    const longer = await app.newLecture()
    for (const slide of longer.slides) await app.json('PATCH', `/api/slides/${slide.id}`, { title: `Slide of ${longer.id}` })
    await app.json('PATCH', `/api/lectures/${lecture.id}`, { title: 'Clouds for sailors' })
    for (const slide of lecture.slides) await app.record(slide.id, madeTake({ seed: slide.title.length }).samples)
    const before = await app.read<Lecture>(`/api/lectures/${lecture.id}`)
    await app.end(true)
    for (const name of DATABASE) rmSync(inData(name), { force: true })
    age()
    const files = storedFiles().length
    app = await openTestApp({ dataFolder: app.dataFolder })
    expect(await sweep(app.context)).toMatchObject({ laid: [], left: files })
    expect(storedFiles()).toHaveLength(files)

    const found = JSON.parse(built(['found-again', '--json'], { env: { LECTERN_DATA: app.dataFolder } }).stdout) as {
      recordings: { slide: string }[]
      lectureId: string
    }
    expect(found.recordings).toHaveLength(4)
    app.queue.look()
    await app.idle()
    const again = await app.read<Lecture>(`/api/lectures/${found.lectureId}`)
    expect(again.title).toBe('Found again')
    expect(again.slides.map((slide) => slide.title)).toEqual(before.slides.map((slide) => slide.title))
    expect(again.slides.map((slide) => keptTake(slide)?.sound)).toEqual(before.slides.map((slide) => keptTake(slide)!.sound))
    expect(again.slides.map((slide) => slide.card!.line)).toEqual(
      before.slides.map((_, i) => `Clouds for sailors, slide ${i + 1}`),
    )
    expect(again.slides.map((slide) => slide.takes[0]!.startedAt)).toEqual(
      before.slides.map((slide) => slide.takes[0]!.startedAt),
    )
    expect((await lectern('found-again')).stdout).toMatch(/Every recording in this folder belongs to a lecture/)
  },
)

test("with yesterday's database put back, the newer recording is laid in the trash and comes back, with what a camera saw of it", async () => {
  app = await openTestApp()
  const lecture = await app.newLecture()
  const slide = lecture.slides[0]!
  await app.record(slide.id, madeTake().samples)
  await app.end(true)
  mkdirSync(inData('backup'))
  for (const name of DATABASE) if (existsSync(inData(name))) copyFileSync(inData(name), inData(`backup/${name}`))
  app = await openTestApp({ dataFolder: app.dataFolder })
  const takeId = randomUUID()
  await app.begin(takeId, slide.id)
  const size = { width: 64, height: 36 }
  const footageId = await sendFootage(app, takeId, 'camera', size, recordedFrames({ frames: 60, ...size, first: 4800 }))
  const chunks = chunksOf(madeTake({ seed: 9 }).samples)
  for (const [i, chunk] of chunks.entries()) await app.sendChunk(takeId, i, chunk)
  await app.seal(takeId, chunks.length)
  await app.idle()
  const newer = (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[0]!.takes[0]!
  expect(newer.number).toBe(2)
  const sound = await soundOf(newer.sound!)
  await app.end(true)
  for (const name of DATABASE) rmSync(inData(name), { force: true })
  for (const name of readdirSync(inData('backup'))) renameSync(inData(`backup/${name}`), inData(name))
  age()
  app = await openTestApp({ dataFolder: app.dataFolder })
  await sweep(app.context)
  expect(await lostRecordings(app.context)).toMatchObject([{ takeId: newer.id, slide: slide.title, place: 1 }])
  const { lectureId } = JSON.parse((await lectern('found-again', '--json')).stdout) as { lectureId: string }
  const [found] = (await app.read<Lecture>(`/api/lectures/${lectureId}`)).slides
  expect(firstDifference(await soundOf(found!.takes[0]!.sound!), sound)).toBe(-1)
  app.queue.look()
  await app.idle()
  const [back] = (await app.read<Lecture>(`/api/lectures/${lectureId}`)).slides[0]!.takes
  const [{ footage, ...cut }] = newer.footage as [Lecture['slides'][number]['takes'][number]['footage'][number]]
  expect(cut).toEqual({ footageId, start: 4800, end: 4800 + 2 * 48_000, from: 0 })
  expect(back!.footage).toEqual([{ ...cut, footage }])
})

test('a sound that came as a file, and a long recording, are found by their names', async () => {
  app = await openTestApp()
  const { id, slides } = await app.newLecture()
  for (const path of [`/api/slides/${slides[0]!.id}/sounds`, `/api/lectures/${id}/recordings`]) {
    const form = new FormData()
    form.append('file', file('my talk.wav', writeWav(toInt16(madeTake().samples), 48_000)))
    const { job } = (await (await app.ask(path, { method: 'POST', body: form })).json()) as { job: { id: string } }
    await app.ended(job.id)
  }
  await app.idle()
  await app.end(true)
  for (const name of DATABASE) rmSync(inData(name), { force: true })
  app = await openTestApp({ dataFolder: app.dataFolder })
  const lost = await lostRecordings(app.context)
  expect(lost.map((recording) => recording.slide)).toEqual(['my talk.wav', 'my talk.wav'])
})

test('files that a database knows again come back out of the trash by themselves', async () => {
  app = await openTestApp()
  const lecture = await app.newLecture()
  const { picture } = lecture.slides[0]!.steps[0]!
  await app.context.store.trash.lay(picture, '2026-01-01')
  expect((await app.ask(`/api/files/${picture}.png`)).status).toBe(404)
  expect((await sweep(app.context)).broughtBack).toEqual([picture])
  expect((await app.ask(`/api/files/${picture}.png`)).status).toBe(200)
})

test('what was broken off and has no row any more is found in its journal', async () => {
  app = await openTestApp()
  const takeId = '22222222-2222-4222-8222-222222222222'
  const chunks = chunksOf(noise(0.1, seconds(2.5), 3))
  for (const [i, chunk] of chunks.entries()) await app.context.journals.append(takeId, i, chunk)
  const { lectureId } = JSON.parse((await lectern('found-again', '--json')).stdout) as { lectureId: string }
  const [slide] = (await app.read<Lecture>(`/api/lectures/${lectureId}`)).slides
  expect(slide!.takes[0]!.samples).toBe(seconds(2.5))
  expect(readdirSync(inData('recordings'))).toEqual([])
})

test('the journal of a recovered take is let go after a month; a browser that comes back with the rest even then loses nothing', async () => {
  app = await openTestApp()
  const slide = (await app.newLecture()).slides[0]!
  const takeId = '33333333-3333-4333-8333-333333333333'
  const sound = noise(0.1, seconds(4.3), 3)
  const chunks = chunksOf(sound)
  await app.begin(takeId, slide.id)
  for (let i = 0; i < 2; i++) await app.sendChunk(takeId, i, chunks[i]!)
  await app.end(true)
  app = await openTestApp({ dataFolder: app.dataFolder }) // put together from what there is
  await app.idle()
  expect(readdirSync(inData('recordings'))).toHaveLength(1)
  await letOldJournalsGo(app.context)
  expect(readdirSync(inData('recordings'))).toHaveLength(1)
  await letOldJournalsGo(app.context, -1000)
  expect(readdirSync(inData('recordings'))).toEqual([])
  const answers = []
  for (const [i, chunk] of chunks.entries())
    answers.push(((await (await app.sendChunk(takeId, i, chunk)).json()) as { next: number }).next)
  expect(answers).toEqual([2, 2, 3, 4, 5])
  expect((await app.seal(takeId, chunks.length)).status).toBe(200)
  await app.idle()
  const [row] = await app.context.db.read.select().from(takes)
  expect(row!.samples).toBe(seconds(4.3))
  const kept = new Int16Array(Uint8Array.from(await soundOf(row!.sound!)).buffer)
  expect(fromInt16(kept).every((value, i) => Math.abs(value - sound[i]!) < 1 / 20_000)).toBe(true)
})

test('a second app on the same folder is refused before it touches anything', async () => {
  app = await openTestApp()
  const slide = (await app.newLecture()).slides[0]!
  const takeId = '44444444-4444-4444-8444-444444444444'
  const chunks = chunksOf(noise(0.1, seconds(3), 3))
  await app.begin(takeId, slide.id)
  await app.sendChunk(takeId, 0, chunks[0]!)
  writeFileSync(join(app.context.store.scratch, 'in use'), '')
  const second = spawnSync('node', ['dist/server/main.js'], {
    cwd: root,
    encoding: 'utf8',
    env: { ...process.env, LECTERN_DATA: app.dataFolder, LECTERN_PORT: '0' },
    timeout: 20_000,
  })
  expect(second.status).toBe(1)
  expect(second.stderr).toMatch(/^Tidy Lectern is open already on “.*”.*\n$/)
  expect(readdirSync(app.context.store.scratch)).toEqual(expect.arrayContaining(['in use']))
  const [row] = await app.context.db.read.select().from(takes)
  expect(row!.state).toBe('recording')
})

test.each([
  ['a file in place of the folder', (folder: string) => writeFileSync(folder, 'x'), /is a file and no folder/],
  ['a folder where nothing can be written', () => {}, /Nothing can be written in “\/sys\/lectures”/],
  [
    'a damaged database',
    (folder: string) => {
      mkdirSync(folder)
      writeFileSync(join(folder, 'lectern.sqlite'), 'SQLite format 3\0'.padEnd(9000, 'broken'))
    },
    /is damaged and was not opened/,
  ],
  ['a wrong port', () => {}, /LECTERN_PORT must be a port number/],
])('%s: one sentence, exit 1, no stack', (what, make, sentence) => {
  const parent = mkdtempSync(join(tmpdir(), 'lectern-start-'))
  try {
    const folder = /nothing can be written/.test(what) ? '/sys/lectures' : join(parent, 'data')
    make(folder)
    const { status, stderr } = spawnSync('node', ['dist/server/main.js'], {
      cwd: root,
      encoding: 'utf8',
      env: { ...process.env, LECTERN_DATA: folder, LECTERN_PORT: what === 'a wrong port' ? 'eighty' : '0' },
      timeout: 20_000,
    })
    expect(stderr).toMatch(sentence)
    expect(stderr).not.toMatch(/\n\s+at /)
    expect(status).toBe(1)
  } finally {
    rmSync(parent, { recursive: true, force: true })
  }
})

test('a database of a newer version is left alone', async () => {
  app = await openTestApp()
  await app.context.db.write((tx) =>
    tx.run("INSERT INTO __drizzle_migrations (hash, created_at) VALUES ('later', 9999999999999)"),
  )
  await app.end(true)
  await expect(openTestApp({ dataFolder: app.dataFolder })).rejects.toThrow(/last opened by a newer Tidy Lectern/)
  rmSync(app.dataFolder, { recursive: true })
  app = await openTestApp()
})

test.each(['d#1', 'what?', 'per%20cent', '100%'])('a folder called %s is opened as it is called', async (name) => {
  const parent = mkdtempSync(join(tmpdir(), 'lectern-names-'))
  app = await openTestApp({ dataFolder: join(parent, name) })
  expect((await app.ask('/api/lectures')).status).toBe(200)
  expect(readdirSync(join(parent, name))).toContain('lectern.sqlite')
  expect(readdirSync(parent)).toEqual([name])
})
