/** Files on their way in: to disk as they come, and nothing left of what breaks off or is refused. */
import { readdirSync } from 'node:fs'
import { connect } from 'node:net'
import { serve } from '@hono/node-server'
import { afterAll, beforeAll, expect, test, vi } from 'vitest'
import { file, openTestApp, type TestApp } from '#tests/api/harness.ts'

let app: TestApp
let server: ReturnType<typeof serve>
let port: number
beforeAll(async () => {
  app = await openTestApp()
  await new Promise<void>((resolve) => {
    server = serve({ fetch: app.app.fetch as never, port: 0, hostname: '127.0.0.1' }, (info) => {
      port = info.port
      resolve()
    })
  })
})
afterAll(async () => {
  server.close()
  await app.end()
})

const scratch = () => readdirSync(app.context.store.scratch)

/** Sends a form with a file of some megabytes, and goes away in the middle of it. */
const brokenOff = (path: string, megabytes: number) =>
  new Promise<void>((resolve) => {
    const socket = connect(port, '127.0.0.1')
    socket.on('error', () => {})
    socket.on('close', () => resolve())
    const head = '--x\r\nContent-Disposition: form-data; name="files"; filename="a.pdf"\r\n\r\n%PDF-1.4\n'
    socket.write(
      `POST ${path} HTTP/1.1\r\nHost: localhost:${port}\r\nContent-Type: multipart/form-data; boundary=x\r\nContent-Length: ${megabytes * 2 ** 20 * 2}\r\n\r\n${head}`,
    )
    socket.write(Buffer.alloc(megabytes * 2 ** 20, 'a'), () => setTimeout(() => socket.destroy(), 200))
  })

test('a connection that breaks off in the middle of a file leaves nothing, and the next file comes in', async () => {
  const before = await app.context.store.all()
  await brokenOff('/api/lectures', 8)
  await vi.waitFor(() => expect(scratch()).toEqual([]))
  expect(await app.context.store.all()).toEqual(before)
  expect((await app.newLecture()).slides).toHaveLength(4)
})

test('a file whose name has letters of many languages keeps its name', async () => {
  const job = await app.addDeck(file('Wolken – облака – 雲.md', '# One\n\nA line.'))
  const { lectures } = await app.read<{ lectures: { id: string; title: string }[] }>('/api/lectures')
  expect(lectures.find((l) => l.id === (job.result as { lectureId: string }).lectureId)!.title).toBe('Wolken – облака – 雲')
})

test('the same refused file from many at once is refused to each of them, and taken from nobody who still reads it', async () => {
  const lecture = await app.newLecture()
  const send = async (content: string, wait: number) => {
    await new Promise((resolve) => setTimeout(resolve, wait))
    const form = new FormData()
    form.append('file', file('torn.png', content))
    return (await app.ask(`/api/slides/${lecture.slides[0]!.id}/pictures`, { method: 'POST', body: form })).status
  }
  for (let round = 0; round < 20; round++) {
    const statuses = await Promise.all([0, 4, 8, 12, 16, 20].map((wait) => send(`\x89PNG torn ${round}`, wait + round / 5)))
    expect(statuses.filter((status) => status >= 500 || status < 400)).toEqual([])
  }
})

test('what a refused request brought is removed at once, and what was there before stays', async () => {
  const lecture = await app.newLecture()
  const kept = await app.context.store.all()
  const form = new FormData()
  form.append('file', file('notes.png', 'these are notes'))
  const answer = await app.ask(`/api/slides/${lecture.slides[0]!.id}/pictures`, { method: 'POST', body: form })
  expect(answer.status).toBe(415)
  expect((await app.context.store.all()).sort()).toEqual(kept.sort())
  const nowhere = await app.ask('/api/slides/none/pictures', { method: 'POST', body: form })
  expect(nowhere.status).toBe(404)
})

test('a caption file of 20,000 captions is taken, one of 110,000 is refused, and neither stops the others for long', async () => {
  const { id } = await app.newLecture()
  const moment = (i: number) => new Date(i * 10).toISOString().slice(14, 23)
  const vtt = (count: number) =>
    `WEBVTT\n\n${Array.from({ length: count }, (_, i) => `${moment(i)} --> ${moment(i + 1)}\n${i}\n`).join('\n')}`
  const attach = (count: number) => {
    const form = new FormData()
    form.append('file', file('many.fr.vtt', vtt(count)))
    form.append('language', 'fr')
    return app.ask(`/api/lectures/${id}/captions`, { method: 'POST', body: form })
  }
  let longest = 0
  let last = performance.now()
  const beat = setInterval(() => {
    longest = Math.max(longest, performance.now() - last)
    last = performance.now()
  }, 20)
  const refused = await attach(110_000)
  expect(refused.status).toBe(413)
  expect(((await refused.json()) as { error: string }).error).toMatch(/holds 110000 captions; the most is 20000/)
  const taken = (await (await attach(20_000)).json()) as { kept: number }
  expect(taken.kept).toBeGreaterThan(1000)
  expect((await app.ask(`/api/lectures/${id}`)).status).toBe(200)
  expect((await app.ask('/api/lectures')).status).toBe(200)
  clearInterval(beat)
  // not a measure of speed: what once took minutes
  expect(longest).toBeLessThan(10_000)
})
