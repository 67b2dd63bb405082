/** How much people and spaces may use: said before, asked before files are brought in and editions are made, never before a recording. */
import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { expect, test, vi } from 'vitest'
import { NO_QUOTA } from '#core/people/quota.ts'
import { editionFiles, editions, slides, takes } from '#server/db/schema.ts'
import { type Browser, openSchoolApp } from './school.ts'

const HOUR = 3600 * 48_000
const errorOf = async (answer: Response) => ((await answer.json()) as { error: string }).error

type App = Awaited<ReturnType<typeof openSchoolApp>>

/** A take of so many hours, that nobody hears. */
async function layTake({ context: { db } }: App, lectureId: string, hours: number, number = 1) {
  const [slide] = await db.read.select().from(slides).where(eq(slides.lectureId, lectureId))
  const take = { id: randomUUID(), slideId: slide!.id, number, state: 'sealed' as const, startedAt: 1, microphone: '' }
  await db.write((tx) => tx.insert(takes).values({ ...take, samples: Math.round(hours * HOUR) }))
  return { takeId: take.id, slideId: slide!.id }
}

async function layEdition({ context: { db } }: App, lectureId: string, number: number, gigabytes: number) {
  const id = randomUUID()
  const manifest = { title: 'Clouds', language: 'en', lengthSamples: 48_000, chapters: [], captions: [], checks: [] }
  await db.write(async (tx) => {
    await tx.insert(editions).values({ id, lectureId, number, createdAt: 1, manifest })
    const row = { editionId: id, name: 'video.mp4', file: 'f'.repeat(64), bytes: gigabytes * 1e9, contentType: 'video/mp4' }
    await tx.insert(editionFiles).values(row)
  })
}

const bring = (who: Browser, slideId: string) => {
  const body = new FormData()
  body.append('file', new File(['no sound at all'], 'a.wav'))
  return who.ask(`/api/slides/${slideId}/sounds`, { method: 'POST', body })
}

test('who has used all their hours brings in no more sound, and records on', async () => {
  const app = await openSchoolApp()
  const administrator = await app.person('administrator')
  const mira = await app.person('teacher')
  const lectureId = await app.lectureOf(mira.id)
  const { slideId } = await layTake(app, lectureId, 3)
  const bound = (of: string, quota: object) => administrator.json('PUT', `/api/quotas/${of}`, { ...NO_QUOTA, ...quota })
  expect((await bring(mira, slideId)).status).toBe(202)
  expect((await bound('everybody', { recordedHours: 2 })).status).toBe(200)
  expect(await mira.read('/api/me/room')).toMatchObject({ use: { recordedSeconds: 3 * 3600 }, quota: { recordedHours: 2 } })
  const refused = await bring(mira, slideId)
  expect([refused.status, await errorOf(refused)]).toEqual([
    409,
    expect.stringMatching(/^All the hours of recordings that the owner/),
  ])
  // what is said cannot be said again
  const take = randomUUID()
  const opened = await mira.json('PUT', `/api/takes/${take}`, { slideId, startedAt: Date.now(), microphone: 'A microphone' })
  expect(opened.status, await opened.clone().text()).toBeLessThan(300)
  // more for one of them
  await bound(mira.id, { recordedHours: 5 })
  expect((await bring(mira, slideId)).status).toBe(202)
  await bound(mira.id, {})
  expect((await bring(mira, slideId)).status).toBe(409)
  // who may change it brings in nothing either: it counts for the owner
  const jonas = await app.person('teacher')
  await mira.json('PUT', `/api/lectures/${lectureId}/members/${jonas.id}`, { right: 'edit' })
  expect((await bring(jonas, slideId)).status).toBe(409)
  expect(await administrator.read('/api/quotas')).toEqual({ quotas: { everybody: { ...NO_QUOTA, recordedHours: 2 } } })
  for (const wrong of [
    { recordedHours: 0 },
    { recordedHours: -1 },
    { editionsKept: 1 },
    { editionsKept: 2.5 },
    { editionsGigabytes: 'x' },
  ])
    expect((await bound('everybody', wrong)).status, JSON.stringify(wrong)).toBe(422)
  expect((await bound('nobody', {})).status).toBe(404)
  await app.end()
})

test('a space that is full takes no further edition, whoever makes it; its room is told to administrators', async () => {
  const app = await openSchoolApp()
  const administrator = await app.person('administrator')
  const mira = await app.person('teacher')
  const lectureId = await app.lectureOf(mira.id)
  const { id: space } = (await (await mira.json('POST', '/api/spaces', { name: 'Weather' })).json()) as { id: string }
  await mira.json('PUT', `/api/lectures/${lectureId}/space`, { spaceId: space })
  await layEdition(app, lectureId, 1, 4)
  await administrator.json('PUT', `/api/quotas/${space}`, { ...NO_QUOTA, editionsGigabytes: 4 })
  const refused = await mira.json('POST', `/api/lectures/${lectureId}/editions`)
  expect([refused.status, await errorOf(refused)]).toEqual([
    409,
    expect.stringMatching(/^All the room for editions that the space/),
  ])
  const { usedBySpaces } = await administrator.read<{ usedBySpaces: unknown[] }>('/api/upkeep')
  expect(usedBySpaces).toEqual([{ id: space, name: 'Weather', recordedSeconds: 0, editionsBytes: 4e9 }])
  await mira.json('PUT', `/api/lectures/${lectureId}/space`, { spaceId: null })
  expect((await mira.json('POST', `/api/lectures/${lectureId}/editions`)).status).toBe(202)
  await app.end()
})

test('of more editions than are kept the oldest go to the trash, which is told before, and come back from it', async () => {
  const app = await openSchoolApp()
  const administrator = await app.person('administrator')
  const mira = await app.person('teacher')
  const lectureId = await app.lectureOf(mira.id)
  for (const number of [1, 2, 3]) await layEdition(app, lectureId, number, 0)
  const shown = () =>
    mira.read<{ editions: { id: string; number: number }[]; kept: number | null }>(`/api/lectures/${lectureId}/editions`)
  const [, , oldest] = (await shown()).editions
  expect((await shown()).kept).toBe(null)
  await administrator.json('PUT', `/api/quotas/${mira.id}`, { ...NO_QUOTA, editionsKept: 2 })
  // nothing goes before another is made
  expect(await shown()).toMatchObject({ kept: 2, editions: [{ number: 3 }, { number: 2 }, { number: 1 }] })
  const { job } = (await (await mira.json('POST', `/api/lectures/${lectureId}/editions`)).json()) as { job: { id: string } }
  const state = async () =>
    (await mira.read<{ jobs: { id: string; state: string }[] }>('/api/jobs')).jobs.find(({ id }) => id === job.id)?.state
  await vi.waitFor(async () => expect(await state()).toBe('done'), { timeout: 60_000 })
  expect((await shown()).editions.map(({ number }) => number)).toEqual([4, 3])
  await mira.json('PUT', `/api/editions/${oldest!.id}/deleted`, { deleted: false })
  expect((await shown()).editions.map(({ number }) => number)).toEqual([4, 3, 1])
  await app.end()
})
