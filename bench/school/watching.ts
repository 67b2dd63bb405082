/** Learners who watch: ranges of a video at the rate it plays, from the app alone and through nginx as docs/deployment.md has it. */
import { type ChildProcess, execFileSync, spawn } from 'node:child_process'
import { randomBytes, randomUUID } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { Agent, request } from 'node:http'
import { tmpdir, userInfo } from 'node:os'
import { join } from 'node:path'
import type { Figure } from '#bench/report/report.ts'
import { openDatabase } from '#server/db/database.ts'
import { editionFiles, editions } from '#server/db/schema.ts'
import { folderStore } from '#server/storage/file-store.ts'
import { makeLink } from '#server/watch/links.ts'
import { serverProcess } from '#tests/support/processes/server-process.ts'
import { seedLecture } from '#tests/support/seed.ts'

const LEARNERS = 1000
const WATCHED_S = 30
/** Slides that stand still and a voice: an edition of ours has about so much. */
const BYTES_A_SECOND = 40_000
/** So much is asked for at once. */
const AHEAD_S = 4
const LENGTH_S = 600
const AT_ONCE = 64
const SETTLED_MS = 10_000
const HARD_S = 8

/** Lays an edition into a folder whose video is bytes of nothing: nobody decodes it. @returns the address of the video behind a link */
async function layEdition(dataFolder: string): Promise<string> {
  const db = await openDatabase(dataFolder)
  const store = folderStore(dataFolder)
  const lectureId = await seedLecture(db, store, 'Watched')
  const video = randomBytes(LENGTH_S * BYTES_A_SECOND)
  const file = await store.put(video)
  const id = randomUUID()
  const manifest = { title: 'Watched', language: 'en', lengthSamples: LENGTH_S * 48_000, chapters: [], captions: [], checks: [] }
  await db.write(async (tx) => {
    await tx.insert(editions).values({ id, lectureId, number: 1, createdAt: Date.now(), manifest })
    const row = { editionId: id, name: 'video.mp4', file, bytes: video.length, contentType: 'video/mp4' }
    await tx.insert(editionFiles).values(row)
  })
  const token = await makeLink(db, lectureId, 'Class')
  db.close()
  return `/watch/${token}/files/${id}/video.mp4`
}

const agent = new Agent({ keepAlive: true, maxSockets: 2000 })

/** @returns milliseconds until all of a range was there; null where it did not come right */
function askRange(port: number, path: string, start: number, length: number, host: string): Promise<number | null> {
  const began = performance.now()
  return new Promise((resolve) => {
    const headers = { host, range: `bytes=${start}-${start + length - 1}` }
    const asked = request({ agent, host: '127.0.0.1', port, path, headers }, (answer) => {
      let bytes = 0
      answer.on('data', (piece: Buffer) => {
        bytes += piece.length
      })
      answer.on('end', () => resolve(answer.statusCode === 206 && bytes === length ? performance.now() - began : null))
    })
    asked.on('error', () => resolve(null))
    asked.end()
  })
}

/** Processor seconds of processes and all below them. */
function cpuOf(pids: number[]): number {
  return pids.reduce((sum, pid) => {
    const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]!.split(' ')
    const below = readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8').split(' ').filter(Boolean).map(Number)
    return sum + (Number(fields[11]) + Number(fields[12])) / 100 + cpuOf(below)
  }, 0)
}

async function watch(port: number, path: string, host: string) {
  let [errors, late, asked] = [0, 0, 0]
  const length = AHEAD_S * BYTES_A_SECOND
  await Promise.all(
    Array.from({ length: LEARNERS }, async (_, i) => {
      // not all begin at once
      await new Promise((resolve) => setTimeout(resolve, (i / LEARNERS) * AHEAD_S * 1000))
      for (let n = 0; n < WATCHED_S / AHEAD_S; n++) {
        const due = performance.now() + AHEAD_S * 1000
        const took = await askRange(port, path, (n * length) % (LENGTH_S * BYTES_A_SECOND - length), length, host)
        asked++
        if (took === null) errors++
        else if (took > AHEAD_S * 1000) late++
        await new Promise((resolve) => setTimeout(resolve, Math.max(0, due - performance.now())))
      }
    }),
  )
  return { errors, late, asked }
}

/** As many ranges as come. @returns processor milliseconds of who serves, for a range */
async function costOfRange(port: number, path: string, host: string, pids: number[]): Promise<number> {
  const length = AHEAD_S * BYTES_A_SECOND
  const until = performance.now() + HARD_S * 1000
  const before = cpuOf(pids)
  let served = 0
  await Promise.all(
    Array.from({ length: AT_ONCE }, async () => {
      while (performance.now() < until)
        if ((await askRange(port, path, (served * 1024) % 10_000_000, length, host)) !== null) served++
    }),
  )
  return ((cpuOf(pids) - before) * 1000) / served
}

/** nginx as the page for deployment has it, but for the encryption of the line, which is not compared. */
function startNginx(port: number, appPort: number, dataFolder: string, folder: string): ChildProcess | null {
  try {
    execFileSync('nginx', ['-v'], { stdio: 'ignore' })
  } catch {
    return null
  }
  const page = readFileSync(join(import.meta.dirname, '../../docs/deployment.md'), 'utf8')
  const block = /```nginx\n([\s\S]*?)```/
    .exec(page)![1]!
    .replace('listen 443 ssl;', `listen 127.0.0.1:${port};`)
    .replaceAll('http://127.0.0.1:4870', `http://127.0.0.1:${appPort}`)
    .replaceAll('/srv/lectern/files/', `${dataFolder}/files/`)
    .replace('/var/cache/nginx/lectern', `${folder}/cache`)
  const temporary = ['client_body', 'proxy', 'fastcgi', 'uwsgi', 'scgi'].map((kind) => `${kind}_temp_path ${folder}/${kind};`)
  const user = userInfo().uid === 0 ? 'user root;' : ''
  writeFileSync(
    join(folder, 'nginx.conf'),
    `${user} daemon off; worker_processes 1; pid ${folder}/pid; error_log ${folder}/error.log;
events { worker_connections 4096; } http { access_log off; sendfile on; ${temporary.join(' ')} ${block} }`,
  )
  return spawn('nginx', ['-c', join(folder, 'nginx.conf'), '-p', folder], { stdio: 'ignore' })
}

export async function watching(): Promise<Figure[]> {
  const [dataFolder, folder] = ['data', 'nginx'].map((name) => mkdtempSync(join(tmpdir(), `lectern-bench-${name}-`))) as [
    string,
    string,
  ]
  const path = await layEdition(dataFolder)
  const settings = { LECTERN_MODE: 'school', LECTERN_PUBLIC_URL: 'https://lectures.example', LECTERN_PROXY: '127.0.0.1' }
  const server = await serverProcess(dataFolder, settings)
  let nginx: ChildProcess | null = null
  try {
    await server.start()
    const port = Number(new URL(server.address).port)
    // what a server does once when it starts is over
    await new Promise((resolve) => setTimeout(resolve, SETTLED_MS))
    const { errors, late, asked } = await watch(port, path, 'localhost')
    const alone = await costOfRange(port, path, 'localhost', [server.pid()])
    nginx = startNginx(port + 1, port, dataFolder, folder)
    let through: number | null = null
    if (nginx) {
      await new Promise((resolve) => setTimeout(resolve, 1000))
      through = await costOfRange(port + 1, path, 'lectures.example', [server.pid(), nginx.pid!])
    }
    return [
      {
        name: `ranges asked for by ${LEARNERS} learners in ${WATCHED_S} s, from the app alone`,
        value: asked,
        goal: '',
        unit: '',
        ok: null,
      },
      { name: 'of them wrong or not there', value: errors, goal: '0', unit: '', ok: errors === 0 },
      { name: 'of them later than they are played', value: late, goal: '0', unit: '', ok: late === 0 },
      { name: 'processor time for a range of four seconds, the app alone', value: alone, goal: '', unit: 'ms', ok: null },
      { name: 'the same through nginx, both together', value: through, goal: '', unit: 'ms', ok: null },
      {
        name: 'learners through nginx for each of the app alone',
        value: through && alone / through,
        goal: '≥ 5',
        unit: '×',
        ok: through === null ? null : alone / through >= 5,
      },
    ]
  } finally {
    nginx?.kill('SIGTERM')
    if (server.isRunning()) await server.kill()
    for (const each of [dataFolder, folder]) rmSync(each, { recursive: true, force: true })
  }
}
