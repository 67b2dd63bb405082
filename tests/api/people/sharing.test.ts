/** Sharing by name and by space, handing over, leaving and being erased; comments; links for people of the school; what an administrator sees. */
import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { expect, test } from 'vitest'
import type { Comment } from '#core/people/comment.ts'
import { auditEntries, people } from '#server/db/people-schema.ts'
import { editions, jobs, slides, takes } from '#server/db/schema.ts'
import { makeLink } from '#server/watch/links.ts'
import { type Browser, openSchoolApp } from './school.ts'

const titles = async (who: Browser) =>
  (await who.read<{ lectures: { id: string; right: string; owner: string }[] }>('/api/lectures')).lectures
const idOf = async (answer: Response) => ((await answer.json()) as { id: string }).id
const errorOf = async (answer: Response) => ((await answer.json()) as { error: string }).error

test('a lecture in a space is for its people as far as each may, and no more once it is taken out or the space is closed', async () => {
  const app = await openSchoolApp()
  const [mira, jonas, tove] = [await app.person('teacher'), await app.person('teacher'), await app.person('reviewer')]
  const lectureId = await app.lectureOf(mira.id)
  const space = await idOf(await mira.json('POST', '/api/spaces', { name: 'Weather' }))
  await mira.json('PUT', `/api/spaces/${space}/members/${jonas.id}`, { right: 'edit' })
  await mira.json('PUT', `/api/spaces/${space}/members/${tove.id}`, { right: 'edit' })
  expect(await titles(jonas)).toEqual([])
  await mira.json('PUT', `/api/lectures/${lectureId}/space`, { spaceId: space })
  expect(await titles(jonas)).toMatchObject([{ id: lectureId, right: 'edit', owner: mira.name }])
  // a reviewer never changes anything, whatever was given
  expect(await titles(tove)).toMatchObject([{ right: 'comment' }])
  const change = await tove.json('PATCH', `/api/lectures/${lectureId}`, { title: 'Mine' })
  expect([change.status, await errorOf(change)]).toEqual([403, 'You may watch this lecture, but not change it. Ask who owns it.'])
  // who does not manage it says nothing of its people, and whoever does not belong to it lays nothing into it
  expect((await jonas.json('PUT', `/api/spaces/${space}/members/${tove.id}`, { right: null })).status).toBe(403)
  const other = await app.person('teacher')
  const theirs = await app.lectureOf(other.id)
  expect((await other.json('PUT', `/api/lectures/${theirs}/space`, { spaceId: space })).status).toBe(403)
  await mira.json('PUT', `/api/lectures/${lectureId}/space`, { spaceId: null })
  expect(await titles(jonas)).toEqual([])
  await mira.json('PUT', `/api/lectures/${lectureId}/space`, { spaceId: space })
  await mira.json('PATCH', `/api/spaces/${space}`, { deleted: true })
  expect(await titles(jonas)).toEqual([])
  expect(await titles(mira)).toHaveLength(1)
  await app.end()
})

test('lectures are handed over before somebody is erased, and what was done stays without their name', async () => {
  const app = await openSchoolApp()
  const { db } = app.context
  const administrator = await app.person('administrator')
  const [mira, jonas] = [await app.person('teacher'), await app.person('teacher')]
  const lectureId = await app.lectureOf(mira.id)
  expect((await administrator.ask(`/api/lectures/${lectureId}`)).status).toBe(404)
  const early = await administrator.json('POST', `/api/people/${mira.id}/erased`)
  expect([early.status, await errorOf(early)]).toEqual([409, '1 lecture is still theirs. Hand them over first.'])
  await mira.json('PUT', `/api/lectures/${lectureId}/members/${jonas.id}`, { right: 'see' })
  const owner = await mira.json('PUT', `/api/lectures/${lectureId}/members/${mira.id}`, { right: 'see' })
  expect(owner.status).toBe(409)
  expect(await (await administrator.json('POST', `/api/people/${mira.id}/lectures`, { to: jonas.id })).json()).toEqual({
    count: 1,
  })
  expect(await titles(jonas)).toMatchObject([{ right: 'own' }])
  expect(await titles(mira)).toMatchObject([{ right: 'edit', owner: jonas.name }])
  // all that is known of somebody, before it goes
  expect(await mira.read('/api/me/data')).toMatchObject({ person: { email: mira.email }, lectures: [{ id: lectureId }] })
  expect((await administrator.json('POST', `/api/people/${mira.id}/erased`)).status).toBe(200)
  expect((await mira.ask('/api/lectures')).status).toBe(401)
  expect(await db.read.$count(people, eq(people.id, mira.id))).toBe(0)
  expect(await db.read.$count(auditEntries, eq(auditEntries.personId, mira.id))).toBe(0)
  const { entries } = await administrator.read<{ entries: { act: string; name: string | null }[] }>('/api/audit')
  expect(entries.map(({ act }) => act)).toEqual(expect.arrayContaining(['erased', 'handed-over', 'shared', 'signed-in']))
  const csv = await (await administrator.ask('/api/audit/csv')).text()
  expect(csv.split('\r\n')[0]).toBe('id,at,person,act,thing')
  // a name that begins like a formula is none in a spreadsheet
  const formula = await app.person('teacher', '=1+1')
  await formula.json('POST', '/api/spaces', { name: 'Space' })
  expect(await (await administrator.ask('/api/audit/csv')).text()).toContain("'=1+1")
  expect(csv).not.toContain(mira.email)
  // who owns lectures does not become a reviewer, who could do nothing to them
  const demoted = await administrator.json('PATCH', `/api/people/${jonas.id}`, { role: 'reviewer' })
  expect([demoted.status, await errorOf(demoted)]).toEqual([409, expect.stringMatching(/^1 lecture is still theirs/)])
  // the last administrator stays one
  for (const answer of [
    await administrator.json('PATCH', `/api/people/${administrator.id}`, { role: 'teacher' }),
    await administrator.json('PUT', `/api/people/${administrator.id}/left`, { left: true }),
    await administrator.json('POST', `/api/people/${administrator.id}/erased`),
  ])
    expect(answer.status).toBe(409)
  await app.end()
})

test('comments stand at a moment of a take, are answered and settled, and only who wrote one takes it away', async () => {
  const app = await openSchoolApp()
  const { db } = app.context
  const [mira, tove, other] = [await app.person('teacher'), await app.person('reviewer'), await app.person('teacher')]
  const lectureId = await app.lectureOf(mira.id)
  await mira.json('PUT', `/api/lectures/${lectureId}/members/${tove.id}`, { right: 'comment' })
  await mira.json('PUT', `/api/lectures/${lectureId}/members/${other.id}`, { right: 'see' })
  const [slide, second] = await db.read.select().from(slides).where(eq(slides.lectureId, lectureId))
  const take = randomUUID()
  const row = { id: take, slideId: slide!.id, number: 1, state: 'sealed' as const, startedAt: 0, microphone: '' }
  await db.write((tx) => tx.insert(takes).values(row))
  const at = { slideId: slide!.id, takeId: take, at: 2.5, answerTo: null }
  const say = (who: Browser, given: object) => who.json('POST', `/api/lectures/${lectureId}/comments`, given)
  const first = await idOf(await say(tove, { ...at, text: ' Slower here. ' }))
  await say(mira, { ...at, text: 'I will.', answerTo: first })
  const read = async () => (await other.read<{ comments: Comment[] }>(`/api/lectures/${lectureId}/comments`)).comments
  expect(await read()).toMatchObject([
    { id: first, text: 'Slower here.', at: 2.5, takeId: take, name: tove.name, answerTo: null, settledAt: null },
    { text: 'I will.', name: mira.name, answerTo: first },
  ])
  // what does not belong together is refused
  expect((await say(tove, { ...at, text: '  ' })).status).toBe(422)
  expect((await say(tove, { ...at, slideId: second!.id, text: 'Here' })).status).toBe(404)
  expect((await say(tove, { ...at, text: 'Of what?', answerTo: randomUUID() })).status).toBe(404)
  expect((await say(other, { ...at, text: 'May I?' })).status).toBe(403)
  await mira.json('PUT', `/api/comments/${first}/settled`, { settled: true })
  expect((await read()).every(({ settledAt }) => settledAt !== null)).toBe(true)
  // who answers has more to say of it
  await say(tove, { ...at, text: 'Still too fast.', answerTo: first })
  expect((await read())[0]!.settledAt).toBe(null)
  expect((await mira.json('PUT', `/api/comments/${first}/deleted`, { deleted: true })).status).toBe(403)
  await tove.json('PUT', `/api/comments/${first}/deleted`, { deleted: true })
  expect((await read()).map(({ id }) => id)).not.toContain(first)
  await tove.json('PUT', `/api/comments/${first}/deleted`, { deleted: false })
  expect((await read()).map(({ id }) => id)).toContain(first)
  await app.end()
})

test('a link for people of the school opens for who signed in, and tells others so', async () => {
  const app = await openSchoolApp()
  const { db } = app.context
  const [mira, other] = [await app.person('teacher'), await app.person('reviewer')]
  const lectureId = await app.lectureOf(mira.id)
  const manifest = { title: 'Clouds', language: 'en', lengthSamples: 1, chapters: [], captions: [], checks: [] }
  await db.write((tx) => tx.insert(editions).values({ id: randomUUID(), lectureId, number: 1, createdAt: 0, manifest }))
  const token = await makeLink(db, lectureId, 'Class')
  const stranger = app.browser()
  expect((await stranger.ask(`/watch/${token}/edition`)).status).toBe(200)
  await mira.json('PATCH', `/api/links/${token}`, { needsSignIn: true })
  const refused = await stranger.ask(`/watch/${token}/edition`)
  expect([refused.status, await refused.json()]).toMatchObject([401, { needsSignIn: true }])
  // what is behind it is not told to programs that draw a card of a link either
  expect(await (await stranger.ask(`/watch/${token}`)).text()).not.toContain('Clouds')
  expect((await other.ask(`/watch/${token}/edition`)).status).toBe(200)
  await app.end()
})

test('an administrator sees what failed and why, what waits, and who uses how much, and no titles', async () => {
  const app = await openSchoolApp()
  const { db } = app.context
  const [administrator, mira] = [await app.person('administrator'), await app.person('teacher', 'Mira')]
  const lectureId = await app.lectureOf(mira.id)
  await mira.json('PATCH', `/api/lectures/${lectureId}`, { title: 'A secret title' })
  const [slide] = await db.read.select().from(slides).where(eq(slides.lectureId, lectureId))
  const now = Date.now()
  await db.write(async (tx) => {
    const take = { id: randomUUID(), slideId: slide!.id, number: 1, state: 'sealed' as const, startedAt: 0, microphone: '' }
    await tx.insert(takes).values({ ...take, samples: 48_000 * 1800 })
    const job = { lectureId, payload: {}, createdAt: now - 9000, endedAt: now }
    await tx.insert(jobs).values({ id: randomUUID(), kind: 'publish', state: 'failed', error: 'The disk was full.', ...job })
    await tx.insert(jobs).values({ id: randomUUID(), kind: 'tidy', state: 'done', ...job })
    const old = { ...job, createdAt: 0, endedAt: now - 8 * 24 * 3600_000 }
    await tx.insert(jobs).values({ id: randomUUID(), kind: 'bed', state: 'failed', error: 'Long ago', ...old })
  })
  const answer = await (await administrator.ask('/api/upkeep')).text()
  expect(answer).not.toContain('A secret title')
  expect(JSON.parse(answer)).toMatchObject({
    work: [],
    failed: [{ kind: 'publish', owner: 'Mira', error: { id: 'The disk was full.' } }],
    slow: [{ kind: 'tidy', count: 1, meanMs: 9000, mostMs: 9000 }],
    usedBy: expect.arrayContaining([expect.objectContaining({ name: 'Mira', recordedSeconds: 1800, editionsBytes: 0 })]),
  })
  await app.end()
})
