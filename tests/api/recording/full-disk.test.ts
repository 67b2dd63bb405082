/** A disk that fills up in the middle of a piece of sound: a short write is no write, and what was acknowledged is there. */
import { spawn } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { once } from 'node:events'
import { mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, expect, test, vi } from 'vitest'
import { crc32 } from '#core/audio/signal/crc32.ts'
import { asUserFacing } from '#server/errors/user-facing-error.ts'
import { openTestApp } from '#tests/api/harness.ts'
import { noise, seconds } from '#tests/made/sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'

const data = mkdtempSync(join(tmpdir(), 'lectern-full-'))
afterAll(() => rmSync(data, { recursive: true, force: true }))

test('no piece is acknowledged that does not stand on the disk as a whole', async () => {
  const before = await openTestApp({ dataFolder: data })
  const lecture = await before.newLecture()
  await before.end(true)
  // a file of this process can grow to 4 MB and not a byte further, which cuts a write in two as a full disk does
  const limited = "trap '' XFSZ; ulimit -f 4000; exec node dist/server/main.js"
  const port = 20_000 + (process.pid % 20_000)
  const server = spawn('bash', ['-c', limited], {
    env: { ...process.env, LECTERN_DATA: data, LECTERN_PORT: String(port) },
    stdio: ['ignore', 'pipe', 'ignore'],
  })
  await new Promise<void>((resolve) =>
    server.stdout.on('data', (text: Buffer) => String(text).includes('is open at') && resolve()),
  )
  const take = `http://localhost:${port}/api/takes/${randomUUID()}`
  await fetch(take, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ slideId: lecture.slides[0]!.id, microphone: 'Test', startedAt: Date.now() }),
  })
  const sound = noise(0.1, seconds(50), 4)
  const chunks = chunksOf(sound)
  let acknowledged = 0
  let refusal = ''
  for (const [i, chunk] of chunks.entries()) {
    const headers = { 'x-checksum': String(crc32(chunk)) }
    const answer = await fetch(`${take}/chunks/${i}`, { method: 'PUT', headers, body: chunk as BodyInit })
    if (!answer.ok) {
      refusal = ((await answer.json()) as { error: string }).error
      break
    }
    acknowledged = ((await answer.json()) as { next: number }).next
  }
  expect(acknowledged).toBeGreaterThan(35)
  expect(acknowledged).toBeLessThan(45)
  expect(refusal).toMatch(/The disk is full/)
  server.kill('SIGKILL')
  await once(server, 'exit')

  const after = await openTestApp({ dataFolder: data })
  await after.idle()
  const recovered = (await after.read<typeof lecture>(`/api/lectures/${lecture.id}`)).slides[0]!.takes[0]!
  expect(recovered.samples).toBe(acknowledged * 48_000)
  await after.end(true)
})

test('an edit, and an import, that the disk has no room for are told as such, and work when there is room', async () => {
  const app = await openTestApp()
  const { id, slides } = await app.newLecture()
  const pages = async (most: string) => {
    await app.context.db.write((tx) => tx.run(`PRAGMA max_page_count = ${most}`))
  }
  // as many pages as the database has: it can grow no further, and says what SQLite says of a full disk
  await pages('1')
  const write = () => app.json('PATCH', `/api/slides/${slides[0]!.id}`, { script: 'A long script. '.repeat(3000) })
  const refused = await write()
  expect(refused.status).toBe(507)
  expect(((await refused.json()) as { error: string }).error).toMatch(
    /The disk is full\. Free some space; what was saved before is untouched/,
  )
  const form = new FormData()
  form.append('files', new File([new Uint8Array(300_000).map((_, i) => i * i)], `${'x'.repeat(200)}.pdf`))
  for (let i = 0; i < 1500; i++) form.append('files', new File([String(i)], `${'x'.repeat(200)} ${i}.txt`))
  const brought = await app.ask('/api/lectures', { method: 'POST', body: form })
  expect(brought.status).toBe(507)
  expect(readdirSync(app.context.store.scratch)).toEqual([])
  await pages('1073741823')
  expect((await write()).status).toBe(200)
  expect((await app.read<{ title: string }>(`/api/lectures/${id}`)).title).toBeTruthy()
  await app.end()
})

test('a job that fails on a full disk is told at once, and is written down when there is room', async () => {
  const app = await openTestApp()
  const lecture = await app.newLecture()
  const heard: string[] = []
  const end = app.context.events.listen((event) => event.type === 'job' && heard.push(`${event.job.kind} ${event.job.state}`))
  const { write } = app.context.db
  let isFull = false
  app.context.db.write = (work) =>
    isFull
      ? Promise.reject(Object.assign(new Error('Failed query'), { cause: new Error('SQLITE_FULL: database or disk is full') }))
      : write(work)
  // its file is none: it fails, and the disk is full by then
  const job = await app.queue.add('import-sound', lecture.id, {
    id: randomUUID(),
    slideId: lecture.slides[0]!.id,
    name: 'a.wav',
    file: 'f'.repeat(64),
  })
  isFull = true
  await vi.waitFor(() => expect(heard).toContain('import-sound failed'), 10_000)
  isFull = false
  expect(await app.ended(job.id)).toMatchObject({ state: 'failed' })
  end()
  await app.end()
})

test('a disk that is full in another thread is told as one', () => {
  for (const code of ['ENOSPC', 'EDQUOT', 'EFBIG']) {
    const there = Object.assign(new Error(`${code}: no room, write`), { code })
    expect(asUserFacing(structuredClone(there)).message).toMatch(/The disk is full/)
  }
  const wrapped = new Error('Failed query: update "slides"', { cause: new Error('SQLITE_FULL: database or disk is full') })
  expect(asUserFacing(wrapped).message).toMatch(/The disk is full/)
})
