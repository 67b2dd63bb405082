/** What a server tells those who look after it: whether it is there, whether it can work, its figures, and what happened. */
import { afterAll, beforeAll, expect, test } from 'vitest'
import { configFrom } from '#server/config/config.ts'
import { serverLog } from '#server/operation/log.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { madeTake } from '#tests/made/sound.ts'

let app: TestApp
beforeAll(async () => {
  app = await openTestApp()
  const { slides } = await app.newLecture()
  await app.record(slides[0]!.id, madeTake().samples)
})
afterAll(() => app.end())

test('it is there and ready, for this machine only', async () => {
  expect(await (await app.ask('/healthz')).text()).toBe('ok')
  const ready = await app.ask('/readyz')
  expect(ready.status).toBe(200)
  expect(await ready.json()).toEqual({ ready: true, problems: [] })
  for (const path of ['/healthz', '/readyz', '/metrics']) {
    expect((await app.ask(path, { headers: { host: 'elsewhere.example' } }, '10.0.0.7')).status).toBe(404)
    expect((await app.ask(path, { headers: { 'x-forwarded-for': '10.0.0.7' } })).status).toBe(404)
  }
})

/** Prometheus' text format, version 0.0.4: name{labels} value, as Go's ParseFloat reads one (from memory: in letters of any size). */
const LINE =
  /^[a-zA-Z_:][a-zA-Z0-9_:]*(\{[a-zA-Z_][a-zA-Z0-9_]*="[^"]*"(,[a-zA-Z_][a-zA-Z0-9_]*="[^"]*")*\})? (nan|[+-]?(inf|[0-9.e+-]+))$/i

test('its figures are in the form of Prometheus, by routes and not by addresses, and know jobs, disk and process', async () => {
  const { id } = await app.newLecture()
  await app.ask(`/api/lectures/${id}`)
  await app.ask('/api/lectures/trash')
  const answer = await app.ask('/metrics')
  expect(answer.headers.get('content-type')).toMatch(/^text\/plain; version=0\.0\.4/)
  const text = await answer.text()
  for (const line of text.split('\n')) if (line !== '' && !line.startsWith('#')) expect(line).toMatch(LINE)
  expect(text).not.toContain(id)
  expect(text).toMatch(/lectern_http_request_seconds_count\{method="GET",route="\/api\/lectures\/:id",status="200"\} [1-9]/)
  // of routes that both match, the one that answered
  expect(text).toMatch(/lectern_http_request_seconds_count\{method="GET",route="\/api\/lectures\/trash",status="200"\} 1/)
  expect(text).toMatch(/lectern_jobs\{kind="tidy",state="done"\} 1/)
  expect(text).toMatch(/lectern_lectures 2/)
  expect(text).toMatch(/lectern_takes 1/)
  expect(Number(/^lectern_disk_free_bytes (\S+)/m.exec(text)![1])).toBeGreaterThan(1e6)
  expect(text).toMatch(/process_resident_memory_bytes \d/)
})

test('what happened is a line of JSON, by a number that the answer bears, and nothing of a person is in it', async () => {
  const lines: string[] = []
  const log = serverLog('json', { write: (line) => void lines.push(line) })
  log.request({ requestId: 'one', method: 'GET', route: '/watch/:token', status: 200, ms: 3 })
  log.failure(new Error('the disk went away'), 'one')
  const [request, failure] = lines.map((line) => JSON.parse(line))
  expect(request).toMatchObject({ requestId: 'one', route: '/watch/:token', status: 200, ms: 3 })
  expect(failure).toMatchObject({ requestId: 'one', err: { message: 'the disk went away', stack: expect.any(String) } })
  expect((await app.ask('/healthz')).headers.get('x-request-id')).toMatch(/^[0-9a-f-]{36}$/)
  expect(configFrom({ LECTERN_LOG: 'json' }, '').log).toBe('json')
  expect(() => configFrom({ LECTERN_LOG: 'loud' }, '')).toThrow('LECTERN_LOG must be text or json')
})
