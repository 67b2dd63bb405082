import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import type { JobView } from '#server/events/job-view.ts'
import { parseRange } from '#server/storage/serve.ts'
import { inWords, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { madeTake } from '#tests/made/sound.ts'

let app: TestApp
let lecture: Lecture
let token: string
let video: string
type Editions = { editions: { id: string; number: number }[]; links: { token: string }[] }
const editions = () => app.read<Editions>(`/api/lectures/${lecture.id}/editions`)
const publish = async () =>
  ((await (await app.json('POST', `/api/lectures/${lecture.id}/editions`, {})).json()) as { job: JobView }).job

beforeAll(async () => {
  app = await openTestApp({ publicHosts: ['lectures.example'] })
  lecture = await app.newLecture()
  await app.json('PATCH', `/api/slides/${lecture.slides[0]!.id}`, { script: 'Clouds have names. High ones are thin and white.' })
  await app.record(lecture.slides[0]!.id, madeTake().samples)
  expect(await app.ended((await publish()).id)).toMatchObject({ state: 'done' })
  const made = await editions()
  token = made.links[0]!.token
  video = `/watch/${token}/files/${made.editions[0]!.id}/video.mp4`
})
afterAll(() => app.end())

describe('ranges of the video', () => {
  const ask = (headers: Record<string, string>) => app.ask(video, { headers })
  test('a part is answered with 206 and says where it lies', async () => {
    const whole = Buffer.from(await (await ask({})).arrayBuffer())
    const part = await ask({ range: 'bytes=100-199' })
    expect(part.status).toBe(206)
    expect(part.headers.get('content-range')).toBe(`bytes 100-199/${whole.length}`)
    expect(Buffer.from(await part.arrayBuffer())).toEqual(whole.subarray(100, 200))
    const end = await ask({ range: 'bytes=-50' })
    expect(Buffer.from(await end.arrayBuffer())).toEqual(whole.subarray(-50))
  })
  test('past the end is 416 and says the length', async () => {
    const answer = await ask({ range: 'bytes=999999999-' })
    expect(answer.status).toBe(416)
    expect(answer.headers.get('content-range')).toMatch(/^bytes \*\/\d+$/)
  })
  test('HEAD has the length and no body; a known entity is 304; another in If-Range gets the whole', async () => {
    const head = await app.ask(video, { method: 'HEAD' })
    expect(Number(head.headers.get('content-length'))).toBeGreaterThan(10_000)
    expect((await head.arrayBuffer()).byteLength).toBe(0)
    expect((await ask({ 'if-none-match': head.headers.get('etag')! })).status).toBe(304)
    expect((await ask({ range: 'bytes=0-1', 'if-range': '"other"' })).status).toBe(200)
  })
  test('header forms of RFC 9110, §14.1.2', () => {
    expect(parseRange('bytes=0-499', 1000)).toEqual({ start: 0, end: 499 })
    expect(parseRange('bytes=9500-', 10_000)).toEqual({ start: 9500, end: 9999 })
    expect(parseRange('bytes=-500', 10_000)).toEqual({ start: 9500, end: 9999 })
    expect(parseRange('bytes=0-0,-1', 10_000)).toBe('whole')
    expect(parseRange('bytes=5-2', 10)).toBe('whole')
    expect(parseRange('bytes=-0', 10)).toBe('unsatisfiable')
  })
})

describe('links', () => {
  test('a revoked link is 404 everywhere, and works again when opened again', async () => {
    const revoke = (revoked: boolean) => app.json('PATCH', `/api/links/${token}`, { revoked })
    await revoke(true)
    for (const path of [`/watch/${token}`, `/watch/${token}/edition`, video]) expect((await app.ask(path)).status).toBe(404)
    await revoke(false)
    for (const path of [`/watch/${token}`, `/watch/${token}/edition`, video]) expect((await app.ask(path)).status).toBe(200)
  })
  test('a link opens no edition of another lecture', async () => {
    const { id: other } = await app.newLecture()
    const { token: stranger } = (await (await app.json('POST', `/api/lectures/${other}/links`, { name: 'x' })).json()) as {
      token: string
    }
    expect((await app.ask(video.replace(token, stranger))).status).toBe(404)
  })
  test('the same link shows a newer edition', async () => {
    await app.ended((await publish()).id)
    expect(await app.read(`/watch/${token}/edition`)).toMatchObject({ number: 2 })
  })
})

test('how much room is taken is told to the author, and to nobody else', async () => {
  const use = await app.read<{ folder: string; bytes: number; segmentsBytes: number; editionsBytes: number; freeBytes: number }>(
    '/api/storage',
  )
  expect(use.folder).toBe(app.dataFolder)
  expect(use.editionsBytes).toBeGreaterThan(10_000)
  expect(use.bytes).toBeGreaterThan(use.editionsBytes + use.segmentsBytes)
  expect((await app.ask('/api/storage', { headers: { host: 'lectures.example' } })).status).toBe(404)
})

describe('who may ask', () => {
  const from = (host: string, path: string, init: RequestInit = {}) =>
    app.ask(path, { ...init, headers: { host, ...(init.headers as object) } })
  test('a public name reaches the watch page and nothing else', async () => {
    expect((await from('lectures.example', `/watch/${token}/edition`)).status).toBe(200)
    expect((await from('lectures.example', '/api/lectures')).status).toBe(404)
    expect((await from('rebound.example', '/api/lectures')).status).toBe(404)
  })
  test('a page elsewhere cannot change anything', async () => {
    const answer = await from('localhost', `/api/lectures/${lecture.id}`, {
      method: 'PATCH',
      headers: { origin: 'http://evil.example', 'content-type': 'application/json' },
      body: '{"title":"x"}',
    })
    expect(answer.status).toBe(404)
    expect((await app.read<Lecture>(`/api/lectures/${lecture.id}`)).title).not.toBe('x')
  })
  test('answers forbid other sources', async () => {
    expect((await app.ask('/')).headers.get('content-security-policy')).toContain("default-src 'self'")
  })
})

describe('publishing', () => {
  test('a cancelled edition leaves nothing', async () => {
    await app.json('PATCH', `/api/slides/${lecture.slides[1]!.id}`, { timing: { holdSeconds: 123 } })
    const job = await publish()
    await app.json('POST', `/api/jobs/${job.id}/cancel`, {})
    expect((await app.ended(job.id)).state).toBe('cancelled')
    await new Promise((resolve) => setTimeout(resolve, 500))
    expect((await editions()).editions).toHaveLength(2)
    expect(readdirSync(join(app.dataFolder, 'scratch'))).toEqual([])
  })
  test('an edition that was being made goes on after a restart', async () => {
    const job = await publish()
    await new Promise((resolve) => setTimeout(resolve, 150))
    await app.end(true)
    app = await openTestApp({ dataFolder: app.dataFolder })
    expect(await app.ended(job.id)).toMatchObject({ state: 'done', progress: 1 })
    expect((await editions()).editions).toHaveLength(3)
  })
  test('a disk that fills up while an edition is made is told with how much is missing, and nothing is left', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'lectern-tool-'))
    const program = join(folder, 'ffmpeg')
    // as the media tool says it when it cannot write the joined file
    const full = 'case "$*" in *faststart*) echo "av_interleaved_write_frame(): No space left on device" >&2; exit 1;; esac'
    writeFileSync(program, `#!/bin/bash\n${full}\nexec ffmpeg "$@"\n`, { mode: 0o755 })
    const other = await openTestApp({ ffmpeg: program })
    try {
      const { id } = await other.newLecture()
      const { job } = (await (await other.json('POST', `/api/lectures/${id}/editions`, {})).json()) as { job: JobView }
      const ended = await other.ended(job.id)
      expect(ended.state).toBe('failed')
      expect(inWords(ended.error)).toMatch(/The disk is too full: this edition needs about \d+ MB .* \d+ MB of them are missing/)
      expect(readdirSync(join(other.dataFolder, 'scratch'))).toEqual([])
      expect((await other.read<Editions>(`/api/lectures/${id}/editions`)).editions).toEqual([])
    } finally {
      await other.end()
      rmSync(folder, { recursive: true, force: true })
    }
  })
})
