/** Launches from a learning platform: what is believed, what is refused, what is chosen and what is told. Signatures by an independent library. */
import type { AddressInfo } from 'node:net'
import { serve } from '@hono/node-server'
import { exportJWK, generateKeyPair, type JWTPayload } from 'jose'
import { afterEach, beforeEach, describe, expect, test } from 'vitest'
import { packListening } from '#core/packages/listening.ts'
import { CLIENT_ID, PEOPLE } from '#demo/platform/lti/lti-platform.ts'
import { platformApp } from '#demo/platform/platform.ts'
import { editions } from '#server/db/schema.ts'
import { scoresAddress, sendGrades, waitAfter } from '#server/lti/grades.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { makeLink } from '../voices/by-link.ts'

let app: TestApp
let tool: { address: string; close(): void }
let own: string
let lti: ReturnType<typeof platformApp>['lti']
let platform: { close(): void }
let lectureId: string

const listening = async (fetch: Parameters<typeof serve>[0]['fetch']) => {
  const server = serve({ fetch, port: 0, hostname: '127.0.0.1' })
  await new Promise((resolve) => server.once('listening', resolve))
  return { address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, close: () => server.close() }
}

beforeEach(async () => {
  app = await openTestApp()
  tool = await listening(app.app.fetch)
  const made = platformApp(tool.address)
  lti = made.lti
  const opened = await listening(made.app.fetch)
  own = opened.address
  platform = opened
  lectureId = (await app.newLecture()).id
  const manifest = { title: 'Clouds', language: 'en', lengthSamples: 48_000, chapters: [], captions: [], checks: [] }
  await app.context.db.write((tx) =>
    tx.insert(editions).values({ id: 'edition', lectureId, number: 1, createdAt: 1, manifest } as never),
  )
  expect((await app.json('POST', '/api/platforms', lti.registration(own))).status).toBe(200)
})
afterEach(async () => {
  tool.close()
  platform.close()
  await app.end()
})

const form = (path: string, fields: Record<string, string>, headers: Record<string, string> = {}) =>
  fetch(`${tool.address}${path}`, { method: 'POST', body: new URLSearchParams(fields), redirect: 'manual', headers })
const [teacher, learner] = PEOPLE as [(typeof PEOPLE)[number], (typeof PEOPLE)[number]]
const learnerMessage = (placed: string | null = null) => ({ message: 'LtiResourceLinkRequest' as const, placed })

/** Begins a launch. @returns what the platform is asked, and the cookie of the browser */
async function begin(who = learner, hint: Parameters<typeof lti.loginFields>[2] = learnerMessage()) {
  const answer = await form('/lti/login', lti.loginFields(own, who, hint))
  expect(answer.status).toBe(302)
  const query = Object.fromEntries(new URL(answer.headers.get('location')!).searchParams)
  return { query, cookie: answer.headers.get('set-cookie')!.split(';')[0]! }
}

/** The whole way of a launch, as a browser goes it. */
async function launch(who = learner, hint: Parameters<typeof lti.loginFields>[2] = learnerMessage()) {
  const { query, cookie } = await begin(who, hint)
  const answer = await lti.authorize(own, query)
  if (typeof answer === 'string') throw new Error(answer)
  return fetch(answer.action, {
    method: 'POST',
    body: new URLSearchParams(answer.fields),
    redirect: 'manual',
    headers: { cookie },
  })
}

/** A teacher puts something into the course. */
async function choose(choice: string, share = '0.9') {
  const page = await (await launch(teacher, { message: 'LtiDeepLinkingRequest', placed: null })).text()
  const picking = /name="picking" value="([^"]+)"/.exec(page)![1]!
  const answer = await (await form('/lti/choice', { picking, choice, share }, { origin: 'null' })).text()
  const token = /name="JWT" value="([^"]+)"/.exec(answer)![1]!
  expect(await lti.choose(own, token)).toBeNull()
  return { page, placed: lti.placed.at(-1)! }
}

describe('a launch', () => {
  test('goes from the choice of a teacher to the page of a learner, in a frame of the platform alone', async () => {
    const { page, placed } = await choose(`lecture ${lectureId}`, '0.8')
    expect(page).toContain('clouds')
    expect(placed).toMatchObject({ title: 'clouds', hasLineItem: true, custom: { share: '0.8' } })
    const answer = await launch(learner, learnerMessage(placed.id))
    expect(answer.status).toBe(303)
    const [, token, id] = /^\/watch\/([\w-]+)\?launch=([\w-]+)$/.exec(answer.headers.get('location')!)!
    expect(token).toBe(placed.custom.link)
    const watch = await app.ask(`/watch/${token}`)
    expect(watch.headers.get('content-security-policy')).toContain(`frame-ancestors ${own}`)
    expect(await app.read(`/watch/${token}/launches/${id}`)).toEqual({ heard: '', share: 0.8, isCompleted: false })
    // the same learner is the same one when they come again
    expect((await launch(learner, learnerMessage(placed.id))).headers.get('location')).toBe(answer.headers.get('location'))
    expect(lti.faults).toEqual([])
  })

  /** A message that is otherwise than it should be. @returns status and sentence of what the browser is shown */
  async function sent(
    change: (claims: JWTPayload) => JWTPayload,
    { expires = '5m', key, cookie: shown, state }: { expires?: string; key?: CryptoKey; cookie?: string; state?: string } = {},
  ) {
    const { query, cookie } = await begin()
    const claims = change(lti.claims(own, learner, learnerMessage(), query.nonce!))
    const id_token = await lti.sign(own, claims, expires, key)
    const answer = await form('/lti/launch', { state: state ?? query.state!, id_token }, { cookie: shown ?? cookie })
    return [answer.status, await answer.text()] as const
  }
  const same = (claims: JWTPayload) => claims
  const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim'

  test('whose key is another one’s is refused', async () => {
    const { privateKey } = await generateKeyPair('RS256')
    expect(await sent(same, { key: privateKey as CryptoKey })).toEqual([
      403,
      expect.stringContaining('its signature is not the platform’s'),
    ])
  })

  test.each([
    ['has expired', same, { expires: '-2m' }, 'it has expired'],
    ['has another nonce', (claims: JWTPayload) => ({ ...claims, nonce: 'another' }), {}, 'it belongs to another opening'],
    ['has an unknown state', same, { state: 'unknown' }, 'it was used before, or comes too late'],
    ['comes from another browser', same, { cookie: 'lectern-lti-state=another' }, 'it was begun in another browser'],
    [
      'is of another deployment',
      (claims: JWTPayload) => ({ ...claims, [`${CLAIM}/deployment_id`]: 'x' }),
      {},
      'its deployment is not registered',
    ],
    [
      'is of another version',
      (claims: JWTPayload) => ({ ...claims, [`${CLAIM}/version`]: '1.1' }),
      {},
      'it lacks what LTI 1.3 asks for',
    ],
    ['says nothing of a lecture', same, {}, 'The platform does not say which lecture this is.'],
  ] as const)('that %s is refused in words', async (_, change, how, words) => {
    const [status, text] = await sent(change, how)
    expect(status).toBeGreaterThanOrEqual(403)
    expect(text).toContain(words)
  })

  test('is good once', async () => {
    const { placed } = await choose(`lecture ${lectureId}`)
    const { query, cookie } = await begin(learner, learnerMessage(placed.id))
    const answer = await lti.authorize(own, query)
    if (typeof answer === 'string') throw new Error(answer)
    const send = () => form('/lti/launch', answer.fields, { cookie })
    expect((await send()).status).toBe(303)
    expect((await send()).status).toBe(403)
  })

  test('of a platform that is not registered, or not any more, opens nothing', async () => {
    expect(
      (await form('/lti/login', { ...lti.loginFields(own, learner, learnerMessage()), iss: 'https://elsewhere.example' })).status,
    ).toBe(403)
    const { platforms } = await app.read<{ platforms: { id: string }[] }>('/api/platforms')
    const { query, cookie } = await begin()
    const answer = await lti.authorize(own, query)
    await app.json('PUT', `/api/platforms/${platforms[0]!.id}/deleted`, { deleted: true })
    expect((await form('/lti/login', lti.loginFields(own, learner, learnerMessage()))).status).toBe(403)
    expect((await form('/lti/launch', (answer as { fields: Record<string, string> }).fields, { cookie })).status).toBe(403)
  })

  test('waits for no platform whose keys cannot be had', async () => {
    lti.isDown = true
    const [status, text] = await sent(same)
    expect([status, text]).toEqual([503, expect.stringContaining('does not answer when it is asked for its keys')])
  })

  test('to a class’s link makes the learner known by their name, the same one each time', async () => {
    const lecture = await app.read<{ slides: { id: string }[] }>(`/api/lectures/${lectureId}`)
    const record = await makeLink(app, lectureId, 'class', [lecture.slides[0]!.id])
    const { placed } = await choose(`class ${record}`)
    const addressOf = async () => /href="([^"]+)"/.exec(await (await launch(learner, learnerMessage(placed.id))).text())![1]!
    const address = await addressOf()
    const [page, key] = address.split('#') as [string, string]
    expect(page).toBe(`${tool.address}/record/${record}`)
    const booth = await app.ask(`/record/${record}/booth`, { headers: { 'x-voice': key } })
    expect(await booth.json()).toMatchObject({ voice: { name: 'Ada Example' } })
    expect(await addressOf()).toBe(address)
    // one that has run out is nothing to put into a course
    await app.json('PATCH', `/api/voiceLinks/${record}`, { expiresAt: Date.now() - 1000 })
    const choices = await (await launch(teacher, { message: 'LtiDeepLinkingRequest', placed: null })).text()
    expect(choices).toContain(`lecture ${lectureId}`)
    expect(choices).not.toContain(record)
  })
})

describe('a result', () => {
  async function opened() {
    const { placed } = await choose(`lecture ${lectureId}`)
    const [, token, id] = /^\/watch\/([\w-]+)\?launch=([\w-]+)$/.exec(
      (await launch(learner, learnerMessage(placed.id))).headers.get('location')!,
    )!
    const tell = async (result: number, isCompleted = false) => {
      const heard = packListening({ place: 1, heard: [], isCompleted }, 10, 4096)
      expect((await app.json('PUT', `/watch/${token}/launches/${id}`, { heard, result, isCompleted })).status).toBe(200)
      await sendGrades(app.context)
    }
    const told = () =>
      (lti.scores.get(placed.id) ?? []).map(({ scoreGiven, activityProgress, gradingProgress }) => [
        scoreGiven,
        activityProgress,
        gradingProgress,
      ])
    return { tell, told, token, id }
  }

  test('is told as far as it has come, and never falls', async () => {
    const { tell, told, token, id } = await opened()
    await tell(0.4)
    await tell(0.2)
    await tell(1, true)
    await tell(1, true)
    expect(told()).toEqual([
      [40, 'InProgress', 'Pending'],
      [100, 'Completed', 'FullyGraded'],
    ])
    expect(lti.faults).toEqual([])
    expect((await app.read<{ isCompleted: boolean }>(`/watch/${token}/launches/${id}`)).isCompleted).toBe(true)
  })

  test('waits where the platform does not answer, and is told later', async () => {
    const { tell, told } = await opened()
    lti.isDown = true
    await tell(0.5)
    expect(told()).toEqual([])
    lti.isDown = false
    // not at once: a platform that is down is left alone for a while
    await sendGrades(app.context)
    expect(told()).toEqual([])
    await sendGrades(app.context, Date.now() + waitAfter(1) + 1000)
    expect(told()).toEqual([[50, 'InProgress', 'Pending']])
  })

  test('of nobody that is known is refused, and one that is no result', async () => {
    const { token } = await opened()
    expect((await app.json('PUT', `/watch/${token}/launches/unknown`, { heard: '', result: 1, isCompleted: true })).status).toBe(
      404,
    )
    const { id } = await opened()
    expect((await app.json('PUT', `/watch/${token}/launches/${id}`, { heard: '', result: 7, isCompleted: true })).status).toBe(
      422,
    )
  })

  test('waits longer and longer, six hours at most; its address keeps the query of the line item', () => {
    expect([1, 2, 3, 30].map(waitAfter)).toEqual([30_000, 60_000, 120_000, 6 * 3600_000])
    // AGS 2.0, §3.4.1: the path is extended, the query stays
    expect(scoresAddress('https://lms.example/items/1?type_id=4')).toBe('https://lms.example/items/1/scores?type_id=4')
  })
})

test('the app tells its public key and nothing of the private one; what it signs names the client', async () => {
  const { keys } = (await (await fetch(`${tool.address}/lti/keys`)).json()) as { keys: Record<string, string>[] }
  expect(Object.keys(keys[0]!).sort()).toEqual(['alg', 'e', 'kid', 'kty', 'n', 'use'])
  expect(Object.keys(await exportJWK((await generateKeyPair('RS256', { extractable: true })).privateKey))).toContain('d')
  expect(CLIENT_ID).toBe(lti.registration(own).clientId)
})
