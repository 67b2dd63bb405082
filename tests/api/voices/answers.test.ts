/** What a class sends: apart from the lecture, tidied, listened to word by word, and taken away with a table. */
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { afterEach, beforeEach, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import { DEMO_SLIDES } from '#demo/lecture.ts'
import { takes } from '#server/db/schema.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { readSound } from '#server/media/read-sound.ts'
import type { Answer } from '#server/voices/answers.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { makeLink, visitor } from './by-link.ts'

let app: TestApp
let lecture: Lecture
let token: string
beforeEach(async () => {
  app = await openTestApp({ publicHosts: ['lectern.example'] })
  lecture = await app.newLecture()
  token = await makeLink(app, lecture.id, 'class', [lecture.slides[0]!.id])
})
afterEach(() => app.end())

const answers = async () => (await app.read<{ answers: Answer[] }>(`/api/voiceLinks/${token}/answers`)).answers
/** A made-up voice that reads the script of the demo's third slide. */
const reading = async () =>
  (await readSound(ffmpegAt('ffmpeg'), join(import.meta.dirname, '../../../demo/files/take-3a.flac'))).samples

test('a reading is heard word by word: two words of the script that were not said are told, and nothing of it is in the lecture', async () => {
  const slide = lecture.slides[0]!.id
  const script = DEMO_SLIDES[2]!.script
  const longer = script.replace('from walls', 'from concrete walls').replace('small tree', 'small umbrella tree')
  expect(longer.split(' ')).toHaveLength(script.split(' ').length + 2)
  await app.json('PATCH', `/api/slides/${slide}`, { script: longer })
  const pupil = visitor(app, token)
  await pupil.join('Ada Example')
  const id = await pupil.record(slide, await reading())
  expect(await answers()).toEqual([])
  await pupil.send(id)
  const [answer] = await answers()
  expect(answer).toMatchObject({ id, name: 'Ada Example', attempt: 1, isScriptChanged: false })
  expect(answer!.clip).not.toBeNull()
  const { report } = answer!
  expect(report!.isSure).toBe(true)
  const leftOut = report!.events.filter(({ kind }) => kind === 'left-out').map(({ text }) => text)
  expect(leftOut).toEqual(['concrete', 'umbrella'])
  expect(report!.correct).toBe(script.split(' ').length)
  expect(report!.correctPerMinute).toBeGreaterThan(140)
  // no slide shows it, and nothing of the lecture is kept or timed by it
  const [now] = (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides
  expect(now).toMatchObject({ takes: [], keptTakeId: null })
  await app.json('PATCH', `/api/slides/${slide}`, { script })
  expect((await answers())[0]!.isScriptChanged).toBe(true)
  // a word too short to be heard that was not found, and a reading of something else, are answers as well
  const [row] = await app.context.db.read.select().from(takes)
  const { path, ...found } = row!.reading!
  const keep = (other: typeof path) => app.context.db.write((tx) => tx.update(takes).set({ reading: { ...found, path: other } }))
  const short = path.script.map((word, i) => (i === 4 ? { ...word, seconds: 0.05 } : word))
  await keep({ ...path, script: short, read: path.read.filter(({ word }) => word !== 4) })
  expect((await answers())[0]!.report).toMatchObject({ isSure: true })
  await keep({ ...path, read: [] })
  expect((await answers())[0]!.report).toMatchObject({ isSure: false, events: [] })
})

test('answers are taken away as sounds with names that sort and a table, two of one name told apart', async () => {
  const slide = lecture.slides[0]!.id
  expect((await app.ask(`/api/voiceLinks/${token}/folder`)).status).toBe(422)
  const sound = (await reading()).subarray(0, 4 * 48_000)
  for (const name of ['Bo, jr.', 'Ada', 'Ada']) {
    const pupil = visitor(app, token)
    await pupil.join(name)
    await pupil.send(await pupil.record(slide, sound))
  }
  const zip = await app.ask(`/api/voiceLinks/${token}/folder?format=mp3`)
  const files = unzipSync(new Uint8Array(await zip.arrayBuffer()))
  expect(Object.keys(files).sort()).toEqual(['Ada 01.mp3', 'Ada 2 01.mp3', 'Bo, jr 01.mp3', 'answers.csv'])
  expect(files['Ada 01.mp3']!.length).toBeGreaterThan(10_000)
  const lines = Buffer.from(files['answers.csv']!).toString('utf8').trim().split('\r\n')
  expect(lines).toHaveLength(4)
  expect(lines[0]).toContain('words correct per minute')
  expect(lines[3]).toMatch(/^"Bo, jr\.",1,1,\d{4}-/)
})

test('an answer is deleted and brought back by its teacher, and withdrawn by who made it', async () => {
  const pupil = visitor(app, token)
  await pupil.join('Ada')
  const id = await pupil.record(lecture.slides[0]!.id, (await reading()).subarray(0, 3 * 48_000))
  await pupil.send(id)
  expect((await app.ask(`/api/answers/${id}/sound.flac`)).status).toBe(200)
  await app.json('PUT', `/api/answers/${id}/deleted`, { deleted: true })
  expect(await answers()).toEqual([])
  await app.json('PUT', `/api/answers/${id}/deleted`, { deleted: false })
  expect(await answers()).toHaveLength(1)
  await pupil.withdraw(id)
  expect(await answers()).toEqual([])
  expect((await app.ask(`/api/answers/${id}/sound.flac`)).status).toBe(404)
  expect((await app.json('PUT', `/api/answers/${id}/deleted`, { deleted: false })).status).toBe(404)
})
