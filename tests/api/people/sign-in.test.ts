/** Becoming one of the people, signing in and out, second proofs; and what strangers who guess are told. */
import { createHmac } from 'node:crypto'
import { asc, eq } from 'drizzle-orm'
import { expect, test } from 'vitest'
import { invitations, sessions } from '#server/db/people-schema.ts'
import { lectures } from '#server/db/schema.ts'
import { openTestApp } from '#tests/api/harness.ts'
import { seedLecture } from '#tests/support/seed.ts'
import { openSchoolApp, PASSWORD } from './school.ts'

const errorOf = async (answer: Response) => ((await answer.json()) as { error: string }).error

test('the first visitor with the code becomes the administrator, owns what was there, and invites others', async () => {
  const alone = await openTestApp()
  const lecture = await alone.newLecture()
  await alone.end(true)

  const app = await openSchoolApp({ dataFolder: alone.dataFolder })
  const first = app.browser()
  expect(await first.read('/api/me')).toEqual({ mode: 'school', person: null, needsSetUp: true, provider: null, hasMail: false })
  expect((await first.ask(`/api/lectures/${lecture.id}`)).status).toBe(401)
  const given = { name: 'First', email: 'First@school.example', password: PASSWORD }
  const guessed = await first.json('POST', '/api/set-up', { ...given, code: 'AAAAAAAA' })
  expect(guessed.status).toBe(422)
  expect(await errorOf(guessed)).toMatch(/not the code/)
  const short = await first.json('POST', '/api/set-up', { ...given, password: 'short', code: app.school.setUpCode() })
  expect(await errorOf(short)).toMatch(/ten characters/)
  expect((await first.json('POST', '/api/set-up', { ...given, code: app.school.setUpCode()!.toLowerCase() })).status).toBe(200)
  expect(await first.read('/api/me')).toMatchObject({ needsSetUp: false, person: { role: 'administrator', name: 'First' } })
  expect((await first.read<{ lectures: { id: string }[] }>('/api/lectures')).lectures.map(({ id }) => id)).toEqual([lecture.id])
  expect(app.school.setUpCode()).toBe(null)

  const invitation = { role: 'teacher', email: 'second@school.example', spaceId: null }
  const { token } = (await (await first.json('POST', '/api/invitations', invitation)).json()) as { token: string }
  const second = app.browser()
  expect(await second.read(`/api/invitations/${token}`)).toEqual({
    kind: 'join',
    role: 'teacher',
    email: 'second@school.example',
  })
  const joined = await second.json('POST', `/api/invitations/${token}`, { name: 'Second', email: '', password: PASSWORD })
  expect(joined.status, await joined.clone().text()).toBe(200)
  expect(await second.read('/api/me')).toMatchObject({ person: { role: 'teacher', email: 'second@school.example' } })
  // their things are kept apart
  expect(await second.read('/api/lectures')).toMatchObject({ lectures: [] })
  // an invitation lets one in, once
  const again = await app
    .browser()
    .json('POST', `/api/invitations/${token}`, { name: 'X', email: 'x@school.example', password: PASSWORD })
  expect(again.status).toBe(409)
  expect(await errorOf(again)).toMatch(/used already/)
  expect((await app.browser().ask('/api/invitations/none')).status).toBe(404)
  // one that came by the command line meanwhile is nobody's
  const brought = await seedLecture(app.context.db, app.context.store, 'brought')
  expect(await first.read<{ lectures: unknown[] }>('/api/lectures')).toMatchObject({ lectures: [{ id: lecture.id }] })
  await app.end(true)

  // started again: no code, the same people, and who was signed in still is
  const later = await openSchoolApp({ dataFolder: alone.dataFolder })
  expect(later.school.setUpCode()).toBe(null)
  const back = later.browser()
  for (const [name, value] of second.kept) back.kept.set(name, value)
  expect(await back.read('/api/me')).toMatchObject({ person: { name: 'Second' } })
  for (const [name, value] of first.kept) back.kept.set(name, value)
  const { lectures: own } = await back.read<{ lectures: { id: string }[] }>('/api/lectures')
  expect(own.map(({ id }) => id).sort()).toEqual([lecture.id, brought].sort())
  await later.end()
})

test('an invitation asks for a name and an address that are some; an old one opens nothing, and says so', async () => {
  const app = await openSchoolApp()
  const administrator = await app.person('administrator')
  const open = { role: 'teacher', email: '', spaceId: null }
  const made = (await (await administrator.json('POST', '/api/invitations', open)).json()) as { token: string }
  const join = (name: string, email: string) =>
    app.browser().json('POST', `/api/invitations/${made.token}`, { name, email, password: PASSWORD })
  for (const [name, email, said] of [
    ['', 'a@school.example', 'Say your name.'],
    ['Ada', 'nonsense', 'This is no e-mail address.'],
  ] as const) {
    const refused = await join(name, email)
    expect([refused.status, await errorOf(refused)]).toEqual([422, said])
  }
  expect((await join('Ada', 'a@school.example')).status).toBe(200)
  const { token } = (await (
    await administrator.json('POST', '/api/invitations', { role: 'reviewer', email: '', spaceId: null })
  ).json()) as { token: string }
  await app.context.db.write((tx) => tx.update(invitations).set({ expiresAt: Date.now() - 1 }))
  const answer = await app.browser().ask(`/api/invitations/${token}`)
  expect(answer.status).toBe(409)
  expect(await errorOf(answer)).toMatch(/too old/)
  await app.end()
})

test('a stranger who guesses is slowed from every address, and keeps nobody out of a device that signed in before', async () => {
  const app = await openSchoolApp({ publicUrl: 'http://localhost' })
  const teacher = await app.person('teacher')
  for (let i = 0; i < 10; i++)
    expect((await app.browser(`198.51.100.${i}`).signIn(teacher.email, 'a wrong long word')).status).toBe(401)
  const next = await app.browser('203.0.113.1').signIn(teacher.email)
  expect(next.status).toBe(429)
  expect(await errorOf(next)).toMatch(/Too many tries/)
  // an address nobody has is answered in the same words, after the same work
  const none = await app.browser().signIn('nobody@school.example')
  expect(none.status).toBe(401)
  expect(await errorOf(none)).toBe('Address or password is wrong.')
  // the device that knows the account has tries of its own
  for (const name of [...teacher.kept.keys()]) if (name !== 'lectern-device') teacher.kept.delete(name)
  expect((await teacher.signIn(teacher.email)).status).toBe(200)
  // and so many accounts from one address are too many as well
  const tired = app.browser('192.0.2.9')
  const statuses = []
  for (let i = 0; i < 52; i++) statuses.push((await tired.signIn(`guess${i}@school.example`, 'a wrong long word')).status)
  expect(statuses.slice(-2)).toEqual([429, 429])
  await app.end()
})

test('many tries at once are many tries', async () => {
  const app = await openSchoolApp({ publicUrl: 'http://localhost' })
  const teacher = await app.person('teacher')
  const wrong = Array.from({ length: 40 }, (_, i) => app.browser(`198.51.100.${i}`).signIn(teacher.email, 'a wrong long word'))
  const statuses = (await Promise.all(wrong)).map(({ status }) => status)
  expect([401, 429].map((status) => statuses.filter((one) => one === status).length)).toEqual([10, 30])
  // right ones count for nothing
  const other = await app.person('teacher')
  const right = await Promise.all(Array.from({ length: 15 }, () => app.browser().signIn(other.email)))
  expect(right.filter(({ ok }) => !ok)).toEqual([])
  await app.end()
})

test('a device that signed in keeps its own tries after it signed out', async () => {
  const app = await openSchoolApp({ publicUrl: 'http://localhost' })
  const teacher = await app.person('teacher')
  await teacher.json('POST', '/api/sign-out')
  for (let i = 0; i < 10; i++) await app.browser(`198.51.100.${i}`).signIn(teacher.email, 'a wrong long word')
  expect((await app.browser('203.0.113.1').signIn(teacher.email)).status).toBe(429)
  expect((await teacher.signIn(teacher.email)).status).toBe(200)
  await app.end()
})

test('a session that is used is prolonged, in the browser too; those that have run out are cleared away', async () => {
  const app = await openSchoolApp()
  const teacher = await app.person('teacher')
  await app.browser().signIn(teacher.email)
  const { db } = app.context
  const [first, second] = await db.read.select().from(sessions).orderBy(asc(sessions.createdAt))
  const inDays = (days: number) => new Date(Date.now() + days * 24 * 3600_000)
  await db.write(async (tx) => {
    await tx
      .update(sessions)
      .set({ expiresAt: inDays(5), updatedAt: inDays(-25) })
      .where(eq(sessions.id, first!.id))
    await tx
      .update(sessions)
      .set({ expiresAt: inDays(-1) })
      .where(eq(sessions.id, second!.id))
  })
  app.school.forget()
  const answer = await teacher.ask('/api/lectures')
  expect(answer.headers.getSetCookie().join()).toMatch(/session_token=.*max-age=2592000/i)
  const [prolonged] = await db.read.select().from(sessions).where(eq(sessions.id, first!.id))
  expect(prolonged!.expiresAt.getTime()).toBeGreaterThan(inDays(29).getTime())
  await app.end(true)
  const later = await openSchoolApp({ dataFolder: app.dataFolder })
  expect((await later.context.db.read.select().from(sessions)).map(({ id }) => id)).toEqual([first!.id])
  await later.end()
})

test('sessions are listed and ended one by one and everywhere, and who has left is out at once', async () => {
  const app = await openSchoolApp()
  const administrator = await app.person('administrator')
  const teacher = await app.person('teacher')
  const elsewhere = app.browser()
  await elsewhere.signIn(teacher.email)
  const proofs = await teacher.read<{ sessions: { id: string; isThis: boolean }[] }>('/api/me/proofs')
  expect(proofs.sessions).toHaveLength(2)
  await teacher.json('PUT', `/api/me/sessions/${proofs.sessions.find((s) => !s.isThis)!.id}/ended`)
  expect((await elsewhere.ask('/api/lectures')).status).toBe(401)
  await elsewhere.signIn(teacher.email)
  await teacher.json('POST', '/api/me/sessions/ended')
  expect((await elsewhere.ask('/api/lectures')).status).toBe(401)
  expect((await teacher.ask('/api/lectures')).status).toBe(200)

  await administrator.json('PUT', `/api/people/${teacher.id}/left`, { left: true })
  expect((await teacher.ask('/api/lectures')).status).toBe(401)
  expect((await app.browser().signIn(teacher.email)).status).toBe(401)
  await administrator.json('PUT', `/api/people/${teacher.id}/left`, { left: false })
  expect((await app.browser().signIn(teacher.email)).status).toBe(200)

  await elsewhere.signIn(teacher.email)
  await elsewhere.json('POST', '/api/sign-out')
  expect((await elsewhere.ask('/api/lectures')).status).toBe(401)
  await app.end()
})

test('a password is changed by who knows it, and chosen anew by an administrator’s link, which works once', async () => {
  const app = await openSchoolApp()
  const administrator = await app.person('administrator')
  const teacher = await app.person('teacher')
  const next = 'another long word'
  expect((await teacher.json('POST', '/api/me/password', { current: 'not this one', next })).status).toBe(422)
  expect((await teacher.json('POST', '/api/me/password', { current: PASSWORD, next })).status).toBe(200)
  expect((await teacher.ask('/api/lectures')).status).toBe(200)
  expect((await app.browser().signIn(teacher.email)).status).toBe(401)
  expect((await app.browser().signIn(teacher.email, next)).status).toBe(200)

  const link = async () =>
    ((await (await administrator.json('POST', `/api/people/${teacher.id}/reset`)).json()) as { token: string }).token
  const [old, token] = [await link(), await link()]
  const third = { name: '', email: '', password: 'a third long word' }
  expect((await app.browser().json('POST', `/api/invitations/${old}`, third)).status).toBe(409)
  expect((await app.browser().json('POST', `/api/invitations/${token}`, third)).status).toBe(200)
  // whoever was in by the old one is out
  expect((await teacher.ask('/api/lectures')).status).toBe(401)
  expect((await app.browser().signIn(teacher.email, third.password)).status).toBe(200)
  await app.end()
})

/** One-time code of RFC 6238 with its usual values (SHA-1, 30 s, 6 digits), made here by the standard's own steps. */
function codeOf(uri: string, at = Date.now()): string {
  const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ234567'
  const bits = [...new URL(uri).searchParams.get('secret')!].map((c) => letters.indexOf(c).toString(2).padStart(5, '0')).join('')
  const key = Buffer.from(bits.match(/.{8}/g)!.map((byte) => Number.parseInt(byte, 2)))
  const counter = Buffer.alloc(8)
  counter.writeBigUInt64BE(BigInt(Math.floor(at / 30_000)))
  const mac = createHmac('sha1', key).update(counter).digest()
  const offset = mac[19]! & 15
  return String((mac.readUInt32BE(offset) & 0x7fffffff) % 1_000_000).padStart(6, '0')
}

test('one-time codes are made by RFC 6238, as its own example has them', () => {
  // appendix B: the secret of 20 digits in base32, at 59 s, of eight digits 94287082
  expect(codeOf('otpauth://totp/x?secret=GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ', 59_000)).toBe('287082')
})

test('a second proof is asked for once it is set up: a code of the moment, or one of those kept for bad days', async () => {
  const app = await openSchoolApp()
  const teacher = await app.person('teacher')
  expect((await teacher.json('POST', '/api/me/codes', { password: 'not this one' })).status).toBe(422)
  const { totpUri, backupCodes } = (await (await teacher.json('POST', '/api/me/codes', { password: PASSWORD })).json()) as {
    totpUri: string
    backupCodes: string[]
  }
  // until a code was typed once nothing is asked for
  expect(await (await app.browser().signIn(teacher.email)).json()).toEqual({ needsSecondProof: false })
  expect((await teacher.json('POST', '/api/me/codes/confirmed', { code: '000000' })).status).toBe(422)
  expect((await teacher.json('POST', '/api/me/codes/confirmed', { code: codeOf(totpUri) })).status).toBe(200)

  const next = app.browser()
  expect(await (await next.signIn(teacher.email)).json()).toEqual({ needsSecondProof: true })
  expect((await next.ask('/api/lectures')).status).toBe(401)
  const wrong = await next.json('POST', '/api/sign-in/second-proof', { code: '123456' })
  expect(wrong.status).toBe(401)
  expect((await next.json('POST', '/api/sign-in/second-proof', { code: codeOf(totpUri) })).status).toBe(200)
  expect((await next.ask('/api/lectures')).status).toBe(200)

  const lost = app.browser()
  await lost.signIn(teacher.email)
  const backup = { code: backupCodes[0], isBackup: true }
  expect((await lost.json('POST', '/api/sign-in/second-proof', backup)).status).toBe(200)
  const twice = app.browser()
  await twice.signIn(teacher.email)
  expect((await twice.json('POST', '/api/sign-in/second-proof', backup)).status).toBe(401)
  await app.end()
})

test('many sign-ins beside other writes lose none', async () => {
  const app = await openSchoolApp()
  const teacher = await app.person('teacher')
  const lectureId = await app.lectureOf(teacher.id)
  const writes = Array.from({ length: 40 }, (_, i) =>
    app.context.db.write(async (tx) => {
      await tx
        .update(lectures)
        .set({ title: `Title ${i}` })
        .where(eq(lectures.id, lectureId))
    }),
  )
  const signed = await Promise.all(Array.from({ length: 20 }, () => app.browser().signIn(teacher.email)))
  await Promise.all(writes)
  expect(signed.map(({ status }) => status)).toEqual(Array.from({ length: 20 }, () => 200))
  expect((await teacher.read<{ sessions: unknown[] }>('/api/me/proofs')).sessions).toHaveLength(21)
  await app.end()
})
