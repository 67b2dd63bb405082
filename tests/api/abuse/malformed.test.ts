/** Requests that are wrong in some way are the asker's mistake and are answered as such. Thousands more: `npm run bench -- abuse`. */
import { afterAll, beforeAll, expect, test, vi } from 'vitest'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { malformedRequest, type Target } from '#tests/made/malformed-requests.ts'
import { IS_LONG } from '#tests/support/long.ts'
import { targetIn } from '#tests/support/target.ts'

const ROUNDS = Number(process.env.FUZZ_ROUNDS ?? (IS_LONG ? 60 : 3)) * 30
let app: TestApp
let target: Target
beforeAll(async () => {
  app = await openTestApp()
  target = await targetIn(app)
})
afterAll(() => app.end())

/** null for what cannot be put into a request at all, by a browser neither. */
async function sent(path: string, init: RequestInit): Promise<Response | null> {
  try {
    new Request(`http://localhost${path}`, init)
  } catch {
    return null
  }
  return app.ask(path, init)
}

test('no malformed request is answered with 500, and the lecture is still whole', async () => {
  const said = vi.spyOn(console, 'error').mockImplementation(() => {})
  const fell: string[] = []
  for (let seed = 1; seed <= ROUNDS; seed++) {
    const { method, path, headers, body } = malformedRequest(target, seed)
    const init: RequestInit = { method, headers, ...(body === null ? {} : { body: body as BodyInit }) }
    const answer = await sent(path, init)
    if (answer && answer.status >= 500)
      fell.push(
        `${seed}: ${method} ${path.slice(0, 120)} ${String(body).slice(0, 200)} → ${answer.status} ${said.mock.calls.at(-1)}`,
      )
    await answer?.body?.cancel()
  }
  said.mockRestore()
  expect(fell.join('\n')).toBe('')
  await app.idle()
  expect((await app.ask(`/api/lectures/${target.lectureId}`)).status).toBe(200)
}, 300_000)

test.each([
  ['malformed JSON', 'PATCH', (t: Target) => `/api/lectures/${t.lectureId}`, '{"title":', 400],
  ['an empty change of a slide', 'PATCH', (t: Target) => `/api/slides/${t.slideId}`, '{}', 422],
  ['an empty change of a bed', 'PATCH', (t: Target) => `/api/beds/${t.bedId}`, '{}', 422],
  ['an empty change of a track', 'PATCH', (t: Target) => `/api/captions/${t.trackId}`, '{}', 422],
  ['a language that is none', 'PATCH', (t: Target) => `/api/lectures/${t.lectureId}`, '{"language":"en-a"}', 422],
])('%s is answered as such', async (_, method, path, body, status) => {
  const answer = await app.ask(path(target), { method, headers: { 'content-type': 'application/json' }, body })
  expect(answer.status).toBe(status)
  expect(((await answer.json()) as { error: string }).error).toMatch(/^[A-Z“].*[.!?]$/)
})

test('a piece that is too large, samples that end before they begin, and a file without its form are refused', async () => {
  const chunk = await app.ask(`/api/takes/${target.takeId}/chunks/0`, {
    method: 'PUT',
    headers: { 'x-checksum': '0' },
    body: new Uint8Array(2_000_000),
  })
  expect(chunk.status).toBe(413)
  expect((await app.ask(`/api/takes/${target.takeId}/samples?start=48000&end=100`)).status).toBe(422)
  const torn = await app.ask('/api/lectures', {
    method: 'POST',
    headers: { 'content-type': 'multipart/form-data; boundary=x' },
    body: '--x\r\nContent-Disposition: form-data; name="files"; filename="a.pdf"\r\n\r\n%PDF',
  })
  expect(torn.status).toBe(400)
  expect(((await torn.json()) as { error: string }).error).toMatch(/did not arrive whole/)
})
