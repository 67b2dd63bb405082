import { sql } from 'drizzle-orm'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import { lectures } from '#server/db/schema.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { madeTake } from '#tests/made/sound.ts'

let app: TestApp
let lecture: Lecture
beforeAll(async () => {
  app = await openTestApp()
  lecture = await app.newLecture()
})
afterAll(() => app.end())

const again = async () => app.read<Lecture>(`/api/lectures/${lecture.id}`)
const change = (id: string, body: unknown) => app.json('PATCH', `/api/slides/${id}`, body)
const script = 'Clouds have names. High ones are thin and white.'

test('a script makes captions as soon as there is a voice, and follows each change', async () => {
  const { id } = lecture.slides[0]!
  await change(id, { script })
  await app.record(id, madeTake().samples)
  const cues = (l: Lecture) => l.captionTracks[0]!.cues.map((cue) => cue.text.replace('\n', ' '))
  expect(cues(await again())).toEqual(['Clouds have names.', 'High ones are thin and white.'])
  await change(id, { script: 'Only this now.' })
  expect(cues(await again())).toEqual(['Only this now.'])
})

test('slides are put in another order and back', async () => {
  const order = lecture.slides.map((s) => s.id)
  const turned = [...order].reverse()
  expect((await app.json('PUT', `/api/lectures/${lecture.id}/order`, { order: turned })).status).toBe(200)
  expect((await again()).slides.map((s) => s.id)).toEqual(turned)
  await app.json('PUT', `/api/lectures/${lecture.id}/order`, { order })
  const stale = await app.json('PUT', `/api/lectures/${lecture.id}/order`, { order: order.slice(1) })
  expect(stale.status).toBe(409)
})

test('a deleted slide comes back with all it had', async () => {
  const before = (await again()).slides[0]!
  await app.json('PUT', `/api/slides/${before.id}/deleted`, { deleted: true })
  expect((await again()).slides).toHaveLength(3)
  await app.json('PUT', `/api/slides/${before.id}/deleted`, { deleted: false })
  expect((await again()).slides[0]).toEqual(before)
})

test('deleting the kept take keeps another, and undoing brings it back', async () => {
  const { id } = lecture.slides[1]!
  const one = await app.record(id, madeTake({ seed: 1 }).samples)
  const two = await app.record(id, madeTake({ seed: 2 }).samples)
  const kept = async () => (await again()).slides[1]!.keptTakeId
  expect(await kept()).toBe(two)
  await app.json('PUT', `/api/takes/${two}/deleted`, { deleted: true })
  expect(await kept()).toBe(one)
  await app.json('PUT', `/api/takes/${two}/deleted`, { deleted: false })
  await change(id, { keptTakeId: two })
  expect(await kept()).toBe(two)
})

test('a changed recipe renders another clip, and the first one is found again', async () => {
  const { id } = lecture.slides[2]!
  const takeId = await app.record(id, madeTake().samples)
  const take = async () => (await again()).slides[2]!.takes[0]!
  const before = await take()
  const shorter = { ...before.tidyUp!, cuts: [{ start: 125_000, end: 150_000 }] }
  await app.json('PUT', `/api/takes/${takeId}/tidyUp`, shorter)
  await app.idle()
  expect((await take()).clip!.samples).toBe(before.clip!.samples - 25_000)
  await app.json('PUT', `/api/takes/${takeId}/tidyUp`, before.tidyUp)
  expect((await take()).clip).toEqual(before.clip)
})

test('a wrong request gets a sentence in the one shape errors have', async () => {
  const answer = await change(lecture.slides[0]!.id, { script: 7 })
  expect(answer.status).toBe(422)
  expect(await answer.json()).toMatchObject({ error: expect.stringContaining('script') })
  expect((await app.ask('/api/lectures/none')).status).toBe(404)
})

test('fifty transactions at once: none lost, none failed', async () => {
  const { db } = app.context
  const count = async () => (await db.read.select({ n: sql<number>`count(*)` }).from(lectures))[0]!.n
  const before = await count()
  const row = (i: number) => ({
    id: `many-${i}`,
    title: String(i),
    language: 'en',
    timing: lecture.timing,
    createdAt: 1,
    updatedAt: 1,
    deletedAt: 1,
  })
  await Promise.all(
    Array.from({ length: 50 }, (_, i) =>
      db.write(async (tx) => {
        await tx.insert(lectures).values(row(i))
        await new Promise((resolve) => setTimeout(resolve, i % 3))
        await tx
          .update(lectures)
          .set({ title: `done ${i}` })
          .where(sql`id = ${`many-${i}`}`)
      }),
    ),
  )
  expect(await count()).toBe(before + 50)
  const failed = db.write(async (tx) => {
    await tx.insert(lectures).values(row(99))
    throw new Error('no')
  })
  await expect(failed).rejects.toThrow('no')
  expect(await count()).toBe(before + 50)
})
