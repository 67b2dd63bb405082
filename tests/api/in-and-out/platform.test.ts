/** The practice platform itself: the rules it knows, and what it must refuse. */
import { randomUUID } from 'node:crypto'
import type { AddressInfo } from 'node:net'
import { serve } from '@hono/node-server'
import { strToU8, zipSync } from 'fflate'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { type Cmi5Session, cmi5Faults, SESSION } from '#demo/platform/cmi5-rules.ts'
import { platformApp } from '#demo/platform/platform.ts'
import { faultsOf, type Json, StatementStore } from '#demo/platform/statement-store.ts'

const { app, courses } = platformApp()
let server: ReturnType<typeof serve>
let origin: string
beforeAll(async () => {
  server = serve({ fetch: app.fetch, port: 0, hostname: '127.0.0.1' })
  await new Promise((resolve) => server.once('listening', resolve))
  origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
})
afterAll(() => {
  server.close()
  for (const course of courses) course.end()
})

const SAID: Cmi5Session = { registration: randomUUID(), sessionId: 's', activityId: 'urn:x:1' }
const statement = (verb: string, more: Json = {}, categories = ['cmi5']): Json => ({
  id: randomUUID(),
  actor: { mbox: 'mailto:a@b.example' },
  verb: { id: `http://adlnet.gov/expapi/verbs/${verb}` },
  object: { id: SAID.activityId },
  context: {
    registration: SAID.registration,
    extensions: { [SESSION]: 's' },
    contextActivities: { category: categories.map((id) => ({ id: `https://w3id.org/xapi/cmi5/context/categories/${id}` })) },
  },
  ...more,
})
const ended = { result: { duration: 'PT5S' } }

test('each rule that is broken is named', () => {
  const right = [
    statement('initialized'),
    statement('completed', { result: { completion: true, duration: 'PT5S' } }, ['cmi5', 'moveon']),
    statement('terminated', ended),
  ]
  expect(cmi5Faults(right, SAID)).toEqual([])
  const clauses = (statements: Json[]) => cmi5Faults(statements, SAID).map((fault) => fault.split(':')[0])
  expect(clauses(right.slice(1))).toContain('§9.3.2')
  expect(clauses([...right, statement('initialized')])).toEqual(expect.arrayContaining(['§9.3.2', '§9.3.8']))
  expect(clauses([right[0]!, right[1]!, right[1]!])).toContain('§9.3.3')
  expect(clauses([right[0]!, statement('terminated')])).toEqual(['§9.5.4'])
  expect(clauses([right[0]!, statement('completed', { result: { completion: true, duration: 'PT5S' } })])).toEqual(['§9.6.2.2'])
  expect(clauses([{ ...right[0]!, object: { id: 'urn:other' } }])).toEqual(['§9.4'])
})

test('the store takes what is a statement, once, and says what is wrong with what is none', () => {
  const store = new StatementStore()
  const one = statement('initialized')
  expect(store.add([one])).toEqual({ status: 200, ids: [one.id] })
  expect(store.add([one]).status).toBe(200)
  expect(store.add([{ ...one, verb: { id: 'urn:other' } }]).status).toBe(409)
  expect(store.all()).toHaveLength(1)
  expect(faultsOf({ ...one, id: 'x', actor: {}, timestamp: 'yesterday', result: { duration: '5 s' } })).toHaveLength(4)
})

test('who shows no token of a session is let in nowhere; what is no package is refused', async () => {
  const version = { 'x-experience-api-version': '1.0.3' }
  expect((await fetch(`${origin}/xapi/statements`)).status).toBe(400)
  expect((await fetch(`${origin}/xapi/statements`, { headers: version })).status).toBe(401)
  const form = new FormData()
  form.append('file', new File([zipSync({ 'readme.txt': strToU8('x') }) as BlobPart], 'x.zip'))
  const answer = await fetch(`${origin}/packages`, { method: 'POST', body: form })
  expect([answer.status, await answer.text()]).toEqual([415, expect.stringContaining('no manifest of one stands at its root')])
  expect((await fetch(`${origin}/packages/unknown`)).status).toBe(404)
})
