/** Links with a passcode, a last day, and what viewers may keep; segments that are ready before anybody asks. */
import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import type { Watching } from '#core/watching/watching.ts'
import { jobs, links, segments } from '#server/db/schema.ts'
import type { JobView } from '#server/events/job-view.ts'
import { passcodeTries, waitAfter } from '#server/watch/passcode.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { madeTake } from '#tests/made/sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = test.runIf(IS_LONG)

let app: TestApp
let lecture: Lecture
let token: string
let edition: string
const change = (body: object) => app.json('PATCH', `/api/links/${token}`, body)
const enter = (passcode: string) => app.json('POST', `/watch/${token}/entry`, { passcode })
const open = (cookie?: string) => app.ask(`/watch/${token}/edition`, cookie ? { headers: { cookie } } : {})

beforeAll(async () => {
  app = await openTestApp()
  lecture = await app.newLecture()
  await app.record(lecture.slides[0]!.id, madeTake().samples)
  const { job } = (await (await app.json('POST', `/api/lectures/${lecture.id}/editions`, {})).json()) as { job: JobView }
  await app.ended(job.id)
  const made = await app.read<{ links: { token: string }[]; editions: { id: string }[] }>(`/api/lectures/${lecture.id}/editions`)
  token = made.links[0]!.token
  edition = made.editions[0]!.id
})
afterAll(() => app.end())

test('a passcode keeps every file closed until it is given; what lets in ends when the passcode changes', async () => {
  await change({ passcode: 'cumulus' })
  expect((await open()).status).toBe(401)
  expect((await app.ask(`/watch/${token}/files/${edition}/video.mp4`)).status).toBe(401)
  expect((await app.ask(`/watch/${token}/folder/${edition}`)).status).toBe(401)
  expect((await app.json('POST', `/watch/${token}/views`, {})).status).toBe(401)
  // the page itself may be seen: it asks for the passcode
  expect((await app.ask(`/watch/${token}`)).status).toBe(200)
  expect((await enter('Cumulus')).status).toBe(401)
  const right = await enter('cumulus')
  expect(right.status).toBe(200)
  const header = right.headers.get('set-cookie')!
  expect(header).toContain('HttpOnly')
  expect(header).toContain(`Path=/watch/${token}`)
  const [cookie] = header.split(';')
  expect((await open(cookie)).status).toBe(200)
  expect((await app.ask(`/watch/${token}/files/${edition}/video.mp4`, { headers: { cookie: cookie! } })).status).toBe(200)
  await change({ passcode: 'stratus' })
  expect((await open(cookie)).status).toBe(401)
  // what is kept is no passcode
  const [row] = await app.context.db.read.select().from(links).where(eq(links.token, token))
  expect(JSON.stringify(row)).not.toContain('stratus')
})

describe('in other pages', () => {
  const page = (headers: Record<string, string> = {}) => app.ask(`/watch/${token}`, { headers })
  const framed = (site: string) => page({ 'sec-fetch-dest': 'iframe', referer: `${site}/course/7` })
  const ancestors = (response: Response) => /frame-ancestors ([^;]*)/.exec(response.headers.get('content-security-policy')!)![1]
  const oembed = (more = '') => app.ask(`/oembed?url=${encodeURIComponent(`http://localhost/watch/${token}`)}${more}`)
  beforeAll(() => change({ passcode: null }))

  test('a link stands in none until it may, and then the page says so in words', async () => {
    const alone = await page()
    expect([ancestors(alone), alone.headers.get('x-frame-options')]).toEqual(["'none'", 'DENY'])
    expect(await alone.text()).not.toContain('oembed')
    const refused = await app.ask(`/watch/${token}`, {
      headers: { 'sec-fetch-dest': 'iframe', referer: 'https://blog.example/', 'accept-language': 'de' },
    })
    expect([refused.status, ancestors(refused)]).toEqual([403, '*'])
    const words = await refused.text()
    expect(words).toContain('Dieser Vortrag darf in dieser Seite nicht gezeigt werden.')
    expect(words).toContain(`href="http://localhost/watch/${token}" target="_blank"`)
    expect((await oembed()).status).toBe(404)
  })

  test('sites are kept as origins; what is none is refused in a sentence', async () => {
    const wrong = await change({ embedIn: ['learn.school.example', 'no site'] })
    expect([wrong.status, await wrong.json()]).toMatchObject([
      422,
      { error: expect.stringContaining('https://learn.school.example') },
    ])
    for (const site of ['javascript:alert(1)', 'https://*', "https://a.example; script-src 'none'", ''])
      expect([site, (await change({ embedIn: [site] })).status]).toEqual([site, 422])
    expect((await change({ embedIn: ['learn.school.example/course', 'HTTP://intranet:8080'] })).status).toBe(200)
    const allowed = await framed('https://learn.school.example')
    expect([allowed.status, ancestors(allowed), allowed.headers.get('x-frame-options')]).toEqual([
      200,
      'https://learn.school.example http://intranet:8080',
      null,
    ])
    expect((await framed('https://blog.example')).status).toBe(403)
    // what is not told the browser judges by the list
    expect((await page({ 'sec-fetch-dest': 'iframe' })).status).toBe(200)
  })

  test('oEmbed tells the code within the room that is given (oEmbed 1.0, §2.2 and §2.3.4.2)', async () => {
    await change({ embedIn: [] })
    const shown = await page()
    expect(ancestors(shown)).toBe('*')
    const [, address] = /application\/json\+oembed" href="([^"]*)"/.exec(await shown.text())!
    const found = await app.ask(new URL(address!.replaceAll('&amp;', '&')).href.replace('http://localhost', ''))
    const told = (await found.json()) as { html: string }
    expect(told).toMatchObject({ version: '1.0', type: 'video', title: lecture.title, width: 960, height: 664 })
    expect(told.html).toContain(`src="http://localhost/watch/${token}"`)
    expect(await (await oembed('&maxwidth=480&maxheight=1000')).json()).toMatchObject({ width: 480, height: 394 })
    expect((await oembed('&format=xml')).status).toBe(501)
    // whatever address is asked about, the code holds ours
    for (const asked of [`javascript:/watch/${token}`, `https://elsewhere.example/watch/${token}`]) {
      const other = await app.ask(`/oembed?url=${encodeURIComponent(asked)}`)
      expect([asked, ((await other.json()) as { html: string }).html]).toEqual([asked, told.html])
    }
    expect((await app.ask('/oembed?url=nonsense')).status).toBe(404)
    await change({ passcode: 'cumulus' })
    expect((await oembed()).status).toBe(401)
  })
})

test('after five wrong passcodes none is taken for a while, the right one neither', async () => {
  await change({ passcode: 'stratus' })
  for (let i = 0; i < 5; i++) expect((await enter(`wrong ${i}`)).status).toBe(401)
  const refused = await enter('stratus')
  expect(refused.status).toBe(429)
  expect(((await refused.json()) as { error: string }).error).toMatch(/Wait \d+ seconds/)
  // whoever else has the link is let in
  const other = await app.ask(
    `/watch/${token}/entry`,
    { method: 'POST', headers: { 'content-type': 'application/json' }, body: '{"passcode":"stratus"}' },
    '192.0.2.7',
  )
  expect(other.status).toBe(200)
  await change({ passcode: 'stratus' })
  expect((await enter('stratus')).status).toBe(200)
  expect([waitAfter(4), waitAfter(5), waitAfter(6), waitAfter(60)]).toEqual([0, 10_000, 20_000, 900_000])
})

test('thirty right passcodes at once all come in', async () => {
  await change({ passcode: 'stratus' })
  const answers = await Promise.all(Array.from({ length: 30 }, () => enter('stratus')))
  expect(answers.map((answer) => answer.status)).toEqual(Array(30).fill(200))
})

test('the wait goes by a clock that only goes forward, and a network of IPv6 counts as one', async () => {
  let now = 1000
  const tries = passcodeTries(() => now)
  const wrong = (address: string) => tries.attempt('token', address, async () => false)
  const right = (address: string) => tries.attempt('token', address, async () => true)
  for (let i = 0; i < 5; i++) expect(await wrong(`2001:db8:1:2:${i}::1`)).toBe('wrong')
  expect(await right('2001:db8:1:2:ffff::9')).toBe(10_000)
  expect(await right('2001:db8:1:3::1')).toBe('right')
  expect(await right('198.51.100.1')).toBe('right')
  now += 10_000
  expect(await right('2001:db8:1:2::5')).toBe('right')
})

test('many wrong passcodes at once are as many tries', async () => {
  await change({ passcode: 'stratus' })
  const answers = await Promise.all(Array.from({ length: 12 }, (_, i) => enter(`guess ${i}`)))
  expect(answers.filter((a) => a.status === 401)).toHaveLength(5)
  const refused = answers.filter((a) => a.status === 429)
  expect(refused).toHaveLength(7)
  for (const answer of refused) expect(((await answer.json()) as { error: string }).error).toMatch(/Wait (10|[1-9]) seconds/)
})

test('a link that has run out opens nothing, and opens again with a later day', async () => {
  await change({ passcode: null, expiresAt: Date.now() - 1000 })
  expect((await open()).status).toBe(404)
  expect((await app.ask(`/watch/${token}`)).status).toBe(404)
  await change({ expiresAt: Date.now() + 60_000 })
  expect((await open()).status).toBe(200)
  await change({ expiresAt: null })
})

test('what viewers may not keep is neither offered nor given, and the page still plays', async () => {
  await change({ downloads: ['captions'] })
  const told = (await (await open()).json()) as { files: { kind: string }[]; hasFolder: boolean }
  expect(told.files.every((f) => f.kind === 'captions')).toBe(true)
  expect(told.hasFolder).toBe(false)
  const file = (name: string) => app.ask(`/watch/${token}/files/${edition}/${name}`)
  expect((await file('video.mp4?download')).status).toBe(404)
  expect((await file('sound.m4a')).status).toBe(404)
  expect((await app.ask(`/watch/${token}/folder/${edition}`)).status).toBe(404)
  expect((await file('video.mp4')).status).toBe(200)
  await change({ downloads: ['video', 'sound', 'captions', 'transcript', 'folder'] })
  expect((await file('sound.m4a')).status).toBe(200)
})

test('what is watched is counted as totals, unless the browser or the teacher does not want it', async () => {
  const newest = async () =>
    (await app.read<{ editions: { id: string; watching: Watching | null }[] }>(`/api/lectures/${lecture.id}/editions`))
      .editions[0]!
  const { id } = await newest()
  const report = { passes: [[0, 5]], back: [1], left: 4 }
  const tell = (body: unknown, headers: Record<string, string> = {}) =>
    app.ask(`/watch/${token}/watching/${id}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', ...headers },
      body: JSON.stringify(body),
    })
  for (const headers of [{ dnt: '1' }, { 'sec-gpc': '1' }] as Record<string, string>[])
    expect((await tell(report, headers)).status).toBe(200)
  expect((await newest()).watching).toBeNull()
  await tell(report)
  await tell(report)
  const { played, back, left } = (await newest()).watching!
  expect([played[0], back[0], left[0]]).toEqual([2, 2, 2])
  await app.json('PATCH', `/api/lectures/${lecture.id}`, { countsWatching: false })
  await tell(report)
  expect((await newest()).watching!.played[0]).toBe(2)
  await app.json('PATCH', `/api/lectures/${lecture.id}`, { countsWatching: true })
  expect((await tell({ passes: [['x', 1]], back: [], left: null })).status).toBe(422)
  expect((await app.json('POST', `/watch/AAAAAAAAAAAAAAAAAAAAAA/watching/${id}`, report)).status).toBe(404)
})

test('views are counted, and nothing else of who watches', async () => {
  const views = async () =>
    (await app.read<{ links: { views: number }[] }>(`/api/lectures/${lecture.id}/editions`)).links[0]!.views
  const before = await views()
  await app.json('POST', `/watch/${token}/views`, {})
  expect(await views()).toBe(before + 1)
})

test('a deleted edition is shown by no link, and comes back', async () => {
  await app.json('PUT', `/api/editions/${edition}/deleted`, { deleted: true })
  expect((await open()).status).toBe(404)
  await app.json('PUT', `/api/editions/${edition}/deleted`, { deleted: false })
  expect((await open()).status).toBe(200)
})

test('segments are made while the lecture is left alone; publishing then only joins them', async () => {
  const other = await openTestApp({ prepareAfterMs: 300 })
  try {
    const { id, slides } = await other.newLecture()
    await other.record(slides[0]!.id, madeTake().samples)
    const prepared = async () => {
      const rows = await other.context.db.read.select().from(jobs).where(eq(jobs.kind, 'pre-encode'))
      return rows.some((row) => row.state === 'done') && rows.every((row) => row.state !== 'queued' && row.state !== 'running')
    }
    await expect.poll(prepared, { timeout: 120_000 }).toBe(true)
    const made = await other.context.db.read.select().from(segments)
    // nobody asked for it, so nobody is told of it
    expect((await other.read<{ jobs: JobView[] }>('/api/jobs')).jobs.filter((job) => job.kind === 'pre-encode')).toEqual([])
    // slides without voice and script are meant to be silent, and two silences of one length are one segment
    expect(made).toHaveLength(slides.length + 3)
    const { job } = (await (await other.json('POST', `/api/lectures/${id}/editions`, {})).json()) as { job: JobView }
    expect(await other.ended(job.id)).toMatchObject({ state: 'done' })
    expect(await other.context.db.read.select().from(segments)).toHaveLength(made.length)
    const { videos } = await other.read<{ videos: { preset: string; ready: number; segments: number }[] }>(
      `/api/lectures/${id}/estimates`,
    )
    expect(videos.find((v) => v.preset === 'standard')).toMatchObject({ ready: 8, segments: 8 })
    expect(videos.find((v) => v.preset === 'small')).toMatchObject({ ready: 0, segments: 8 })
  } finally {
    await other.end()
  }
})

longTest('nothing is encoded beside a recording that goes on; when it has ended, it is', async () => {
  const other = await openTestApp({ prepareAfterMs: 200 })
  try {
    const { slides } = await other.newLecture()
    const takeId = randomUUID()
    await other.begin(takeId, slides[0]!.id)
    const chunks = chunksOf(madeTake().samples)
    const made = async () => (await other.context.db.read.select().from(segments)).length
    await other.json('PATCH', `/api/slides/${slides[1]!.id}`, { title: 'Changed meanwhile' })
    const waits = async () =>
      (await other.context.db.read.select().from(jobs).where(eq(jobs.kind, 'pre-encode'))).some((job) => job.stage === 'Waiting')
    await expect.poll(waits, { timeout: 120_000 }).toBe(true)
    await other.sendChunk(takeId, 0, chunks[0]!)
    expect(await made()).toBe(0)
    await other.seal(takeId, 1)
    await expect.poll(made, { timeout: 120_000 }).toBeGreaterThan(3)
  } finally {
    await other.end()
  }
})
