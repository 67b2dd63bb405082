/** The school's own sign-in by OpenID Connect, against a provider that runs here; and one that answers nonsense. */
import { once } from 'node:events'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { expect, test } from 'vitest'
import { configFrom } from '#server/config/config.ts'
import { createPerson } from '#server/people/people.ts'
import { type ProviderPerson, signInAtProvider, startIdentityProvider } from './identity-provider.ts'
import { type Browser, openSchoolApp, PASSWORD } from './school.ts'

const BACK = 'http://localhost/api/sign-in/callback/school'
const PEOPLE: Record<string, ProviderPerson> = {
  ada: { name: 'Ada', email: 'Ada@school.example', groups: ['staff'] },
  ben: { name: 'Ben', email: 'ben@school.example', groups: ['it', 'staff'] },
  dora: { name: 'Dora', email: 'dora@school.example', groups: ['staff'] },
  cleo: { name: 'Cleo', email: 'cleo@school.example', groups: ['pupils'] },
}
const settings = (issuer: string) => ({
  ...{ issuer, clientId: 'lectern', clientSecret: 'a secret between two servers', name: 'The school' },
  roleClaim: 'groups',
  roles: { it: 'administrator', staff: 'teacher', pupils: 'reviewer' } as const,
})

async function openWithProvider() {
  const provider = await startIdentityProvider(PEOPLE, BACK)
  const app = await openSchoolApp({ publicUrl: 'http://localhost', identityProvider: settings(provider.issuer) })
  const begin = async (browser: Browser) => {
    const answer = await browser.json('POST', '/api/sign-in/school')
    return ((await answer.json()) as { url: string }).url
  }
  const enter = async (browser: Browser, login: string) => {
    const back = new URL(await signInAtProvider(await begin(browser), login, BACK))
    return { answer: await browser.ask(back.pathname + back.search), back }
  }
  return { ...app, provider, begin, enter }
}

test('people of the provider come in with the role their claims mean, and who has an account by that address keeps it', async () => {
  const app = await openWithProvider()
  const known = { name: 'Ada', email: 'ada@school.example', role: 'teacher' as const, password: PASSWORD, isVouched: true }
  const { id } = await createPerson(app.school.library, app.context.db, known)
  const person = async (login: string) => {
    const browser = app.browser()
    const { answer } = await app.enter(browser, login)
    expect([answer.status, answer.headers.get('location')]).toEqual([302, expect.stringMatching(/\/$/)])
    return (await browser.read<{ person: { id: string } }>('/api/me')).person
  }
  // until somebody looks after the server it can be set up, whoever has come
  const code = app.school.setUpCode()
  expect(code).not.toBe(null)
  expect(await person('ada')).toMatchObject({ name: 'Ada', email: 'ada@school.example', role: 'teacher' })
  expect(await person('ben')).toMatchObject({ role: 'administrator' })
  expect(await person('cleo')).toMatchObject({ role: 'reviewer' })
  // who looks after it by what the provider says leaves nothing to set up
  expect(await app.browser().read('/api/me')).toMatchObject({ needsSetUp: false, provider: 'The school' })
  const late = { name: 'Late', email: 'late@school.example', password: PASSWORD, code }
  expect((await app.browser().json('POST', '/api/set-up', late)).status).toBe(409)
  // the second time they are the same person
  expect((await person('ada')).id).toBe(id)
  expect((await person('ben')).id).toBe((await person('ben')).id)
  // whoever typed somebody's address themselves does not wait there for them
  const typed = { name: 'Not Dora', email: 'dora@school.example', role: 'teacher' as const, password: PASSWORD }
  await createPerson(app.school.library, app.context.db, typed)
  const dora = app.browser()
  const { answer } = await app.enter(dora, 'dora')
  expect(answer.headers.get('location')).toMatch(/sign-in=failed/)
  expect(await dora.read('/api/me')).toMatchObject({ person: null })
  await app.end()
  app.provider.close()
})

test('a callback that is sent twice, or to another browser, lets nobody in', async () => {
  const app = await openWithProvider()
  const browser = app.browser()
  const { back } = await app.enter(browser, 'ada')
  const me = async (who: Browser) => (await who.read<{ person: unknown }>('/api/me')).person
  const other = app.browser()
  await other.ask(back.pathname + back.search)
  expect(await me(other)).toBe(null)
  // begun by one, ended by another
  const url = await app.begin(app.browser())
  const stolen = new URL(await signInAtProvider(url, 'ben', BACK))
  await other.ask(stolen.pathname + stolen.search)
  expect(await me(other)).toBe(null)
  // who has left is not let in by the provider either
  const { id } = (await me(browser)) as { id: string }
  const administrator = await app.person('administrator')
  await administrator.json('PUT', `/api/people/${id}/left`, { left: true })
  const again = app.browser()
  await app.enter(again, 'ada')
  expect(await me(again)).toBe(null)
  await app.end()
  app.provider.close()
})

test('a provider that is not there, or answers nonsense, is told of in words, and passwords go on', async () => {
  const nonsense = createServer((_, response) => response.end('<h1>It works</h1>')).listen(0, '127.0.0.1')
  await once(nonsense, 'listening')
  const { port } = nonsense.address() as AddressInfo
  for (const issuer of [`http://localhost:${port}`, 'http://localhost:1']) {
    const app = await openSchoolApp({ publicUrl: 'http://localhost', identityProvider: settings(issuer) })
    const teacher = await app.person('teacher')
    const answer = await app.browser().json('POST', '/api/sign-in/school')
    expect(answer.ok).toBe(false)
    expect(((await answer.json()) as { error: string }).error).toMatch(/The school does not answer as it should/)
    expect((await teacher.ask('/api/lectures')).status).toBe(200)
    await app.end()
  }
  nonsense.close()
})

test('settings of the provider are all there or none, and roles are those we know', () => {
  const all = { LECTERN_OIDC_ISSUER: 'https://id.example', LECTERN_OIDC_CLIENT_ID: 'a', LECTERN_OIDC_CLIENT_SECRET: 'b' }
  expect(configFrom({ ...all, LECTERN_OIDC_ROLES: 'it=administrator, staff = teacher' }, '').identityProvider).toMatchObject({
    name: 'id.example',
    roles: { it: 'administrator', staff: 'teacher' },
  })
  expect(() => configFrom({ ...all, LECTERN_OIDC_CLIENT_SECRET: '' }, '')).toThrow(/all three/)
  expect(() => configFrom({ ...all, LECTERN_OIDC_ROLES: 'it=boss' }, '')).toThrow(/“it=boss” does not/)
  expect(() => configFrom({ LECTERN_MODE: 'both' }, '')).toThrow(/alone or school/)
  expect(() => configFrom({ LECTERN_PUBLIC_URL: 'https://a.example/x' }, '')).toThrow(/without a path/)
})
