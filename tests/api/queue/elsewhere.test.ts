/** Heavy work on other machines: over a real Redis, with files in a real store, by worker processes that are killed. */
import { randomUUID } from 'node:crypto'
import { readdirSync, readFileSync } from 'node:fs'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import type { StoreSetting } from '#server/config/store-setting.ts'
import { segments } from '#server/db/schema.ts'
import type { JobView } from '#server/events/job-view.ts'
import type { BucketStore } from '#server/storage/bucket/bucket-store.ts'
import { VERSION_KEY } from '#server/tasks/redis/roll.ts'
import { demoFile, file, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { madeTake } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'
import { type RedisServer, startRedis } from '#tests/support/processes/redis.ts'
import { type S3Server, startS3Server } from '#tests/support/processes/s3/server.ts'
import { type WorkerProcess, workerProcess } from '#tests/support/processes/worker-process.ts'

const longTest = test.runIf(IS_LONG)
let s3: S3Server
let redis: RedisServer
let setting: StoreSetting & { text: string }
let app: TestApp
/** Where everything is worked on one machine, to compare with. */
let alone: TestApp
let lecture: Lecture
const workers: WorkerProcess[] = []

const tasks = () => app.context.tasks
async function newWorker() {
  const worker = await workerProcess({ LECTERN_QUEUE: redis.url, LECTERN_STORE: setting.text })
  workers.push(worker)
  return worker
}
const hasWorkers = (slots: number) => expect.poll(() => tasks().elsewhere(), { timeout: 15_000 }).toBe(slots)
/** How many tasks other machines have ended. */
async function endedElsewhere() {
  const keys = await redis.client.keys('bull:lectern-tasks-*:completed')
  return (await Promise.all(keys.map((key) => redis.client.zcard(key)))).reduce((sum, count) => sum + count, 0)
}
const seen = (of: TestApp, id: string) => of.read<Lecture>(`/api/lectures/${id}`)

async function retidied(of: TestApp, lectureId: string, cleaning: number) {
  const { id, tidyUp } = (await seen(of, lectureId)).slides[0]!.takes[0]!
  const answer = await of.json('PUT', `/api/takes/${id}/tidyUp`, { ...tidyUp, cleaning })
  expect(answer.status).toBe(200)
  await of.idle()
  return (await seen(of, lectureId)).slides[0]!.takes[0]!.clip
}
async function publish(of: TestApp, lectureId: string): Promise<JobView> {
  const { job } = (await (await of.json('POST', `/api/lectures/${lectureId}/editions`, {})).json()) as { job: JobView }
  return job
}
async function exportAs(exportSettings: object) {
  const answer = await app.json('PATCH', `/api/lectures/${lecture.id}`, { exportSettings })
  expect(answer.status).toBe(200)
}
const segmentsOf = async (of: TestApp) =>
  (await of.context.db.read.select().from(segments)).map(({ key, file: name }) => `${key} ${name}`).sort()

/** The same slides and the same take in both. */
async function teach(of: TestApp) {
  const { lecture: made } = await of.imported(file('Clouds.pdf', demoFile('clouds-by-their-shapes.pdf')))
  await of.json('PATCH', `/api/slides/${made.slides[0]!.id}`, { script: 'Clouds have names. High ones are thin and white.' })
  await of.record(made.slides[0]!.id, madeTake().samples)
  return made
}

beforeAll(async () => {
  ;[s3, redis] = await Promise.all([startS3Server(), startRedis()])
  setting = await s3.newBucket()
  app = await openTestApp({ store: setting, queue: redis.url })
  alone = await openTestApp()
  lecture = await teach(app)
}, 120_000)
afterAll(async () => {
  for (const worker of workers) {
    await worker.kill()
    worker.remove()
  }
  await app.end()
  await alone.end()
  await redis.close()
  await s3.close()
}, 60_000)

test('without other machines all is worked here; with one, there, and what comes of it is the same', async () => {
  expect(tasks().elsewhere()).toBe(0)
  const other = await teach(alone)
  expect(await endedElsewhere()).toBe(0)
  const worker = await newWorker()
  await hasWorkers(1)
  expect(tasks().state()!.machines).toMatchObject([{ slots: 1, isSame: true }])

  const clip = await retidied(app, lecture.id, 0.3)
  expect(await endedElsewhere()).toBe(1)
  expect(clip).toEqual(await retidied(alone, other.id, 0.3))
  // what another machine made is in the store, and is brought here when somebody listens
  const store = app.context.store as BucketStore
  expect(await store.local.has(clip!.sound)).toBe(false)
  expect((await app.ask(`/api/files/${clip!.sound}.flac`)).status).toBe(200)

  // captions are timed there too
  for (const of of [app, alone]) {
    const { id, slides } = await seen(of, of === app ? lecture.id : other.id)
    expect(id).toBeTruthy()
    await of.json('PATCH', `/api/slides/${slides[0]!.id}`, { script: 'Clouds have names. The high ones are white and thin.' })
    await of.idle()
  }
  expect(await endedElsewhere()).toBe(2)

  const [job, same] = [await publish(app, lecture.id), await publish(alone, other.id)]
  expect((await app.ended(job.id)).state).toBe('done')
  expect((await alone.ended(same.id)).state).toBe('done')
  expect(await endedElsewhere()).toBeGreaterThan(2)
  expect(await segmentsOf(app)).toEqual(await segmentsOf(alone))
  // asked to end, it ends, and is not counted on any more
  expect(await worker.end()).toBe(0)
  await hasWorkers(0)
}, 120_000)

/** Programs that a process has started, and those that they have. */
function below(pid: number): number[] {
  try {
    const threads = readdirSync(`/proc/${pid}/task`)
    const own = threads.flatMap((thread) => readFileSync(`/proc/${pid}/task/${thread}/children`, 'utf8').split(' '))
    return own.filter(Boolean).flatMap((child) => [Number(child), ...below(Number(child))])
  } catch {
    // it ended meanwhile
    return []
  }
}
const nameOf = (pid: number) => {
  try {
    return readFileSync(`/proc/${pid}/comm`, 'utf8').trim()
  } catch {
    return ''
  }
}
const isThere = (pid: number) => {
  try {
    return process.kill(pid, 0)
  } catch {
    return false
  }
}

longTest(
  'a machine that is killed leaves nothing running and nothing undone',
  async () => {
    const [doomed, other] = [await newWorker(), await newWorker()]
    await hasWorkers(2)
    const before = await endedElsewhere()
    await exportAs({ presets: ['everywhere', 'open'], height: 2160 })
    const job = await publish(app, lecture.id)
    await expect.poll(() => tasks().state()!.away, { timeout: 15_000 }).toBe(2)
    const started = below(doomed.pid())
    await doomed.kill()
    expect((await app.ended(job.id)).state).toBe('done')
    expect(await endedElsewhere()).toBeGreaterThan(before)
    await expect.poll(() => started.filter(isThere), { timeout: 5000 }).toEqual([])
    // once each, under its name: what the store holds is what the database knows
    await app.context.sending!.settled()
    const rows = (await (app.context.store as BucketStore).sent.all()).map(({ name }) => name).sort()
    expect((await s3.keys(setting)).map((key) => key.split('/').at(-1)!).sort()).toEqual(rows)
    await other.kill()
    await hasWorkers(0)
  },
  120_000,
)

test('Redis away: work goes on here, and elsewhere again when it is back; nothing that was under way is lost', async () => {
  await newWorker()
  await hasWorkers(1)
  await exportAs({ presets: ['standard'], height: 720 })
  const job = await publish(app, lecture.id)
  await expect.poll(() => tasks().state()!.away, { timeout: 15_000 }).toBe(1)
  await redis.stop()
  expect((await app.ended(job.id)).state).toBe('done')
  expect(tasks().state()!.isUp).toBe(false)
  expect(await retidied(app, lecture.id, 0.4)).not.toBeNull()
  await redis.start()
  await hasWorkers(1)
  expect(await retidied(app, lecture.id, 0.5)).not.toBeNull()
  expect(await endedElsewhere()).toBe(1)
}, 120_000)

test('what is cancelled ends on the other machine as well', async () => {
  const worker = workers.at(-1)!
  await hasWorkers(1)
  await exportAs({ presets: ['open'], height: 2160 })
  const job = await publish(app, lecture.id)
  const programs = () => below(worker.pid()).map(nameOf)
  await expect.poll(programs, { timeout: 15_000 }).toContain('ffmpeg')
  await app.json('POST', `/api/jobs/${job.id}/cancel`, {})
  expect((await app.ended(job.id)).state).toBe('cancelled')
  await expect.poll(programs, { timeout: 5000 }).not.toContain('ffmpeg')
  // and is not tried again
  await new Promise((resolve) => setTimeout(resolve, 2000))
  expect(programs()).not.toContain('ffmpeg')
}, 60_000)

test('a machine of another version is refused with words, one that is there already ends, and neither is counted on', async () => {
  const there = workers.at(-1)!
  const version = await redis.client.get(VERSION_KEY)
  await redis.client.set(VERSION_KEY, randomUUID())
  const refused = await workerProcess({ LECTERN_QUEUE: redis.url, LECTERN_STORE: setting.text })
  workers.push(refused)
  expect(refused.code()).toBe(1)
  expect(refused.said()).toContain('Bring both to the same version')
  await expect.poll(() => there.code(), { timeout: 15_000 }).toBe(1)
  expect(there.said()).toContain('Bring both to the same version')
  await redis.client.set(VERSION_KEY, version!)
  const without = await workerProcess({ LECTERN_QUEUE: '', LECTERN_STORE: setting.text })
  workers.push(without)
  expect(without.said()).toContain('LECTERN_QUEUE and LECTERN_STORE')
}, 60_000)
