/** `npm run bench -- fresh-take`: how long a fresh take waits until it is tidied, while nothing else goes on and while five lectures of an hour are published. */
import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import { distinctLecture } from '#bench/publish/lecture.ts'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { crc32 } from '#core/audio/signal/crc32.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { openTestApp } from '#tests/api/harness.ts'
import { madeTake } from '#tests/made/sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { type ServerProcess, serverProcess } from '#tests/support/processes/server-process.ts'
import { seedFolder } from '#tests/support/seed.ts'

const LECTURES = 5
const SLIDES = 60
const SECONDS = 60
const TAKES = 6

/** A take as the booth sends it, a chunk a second. @returns ms from its end until it is tidied */
async function recordOne({ address, lecture }: ServerProcess, lectureId: string, slideId: string, seed: number): Promise<number> {
  const takeId = randomUUID()
  const ask = async (method: string, path: string, body: BodyInit, headers: Record<string, string>) => {
    const answer = await fetch(`${address}${path}`, { method, headers, body })
    if (!answer.ok) throw new Error(await answer.text())
  }
  const json = { 'content-type': 'application/json' }
  const begun = { slideId, microphone: 'bench', startedAt: Date.now() }
  await ask('PUT', `/api/takes/${takeId}`, JSON.stringify(begun), json)
  const samples = madeTake({ seed }).samples
  const chunks = chunksOf(samples)
  for (const [i, chunk] of chunks.entries()) {
    const bytes = { 'content-type': 'application/octet-stream', 'x-checksum': String(crc32(chunk)) }
    await ask('PUT', `/api/takes/${takeId}/chunks/${i}`, chunk as BodyInit, bytes)
    await wait(1000)
  }
  const began = performance.now()
  await ask('POST', `/api/takes/${takeId}/seal`, JSON.stringify({ chunks: chunks.length, dropoutCount: 0 }), json)
  for (;;) {
    const { slides } = await lecture(lectureId)
    if (slides.some(({ takes }) => takes.some(({ id, clip }) => id === takeId && clip))) return performance.now() - began
    await wait(20)
  }
}

const median = (values: number[]) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)]!

export async function bench({ seed }: BenchOptions): Promise<Figure[]> {
  const dataFolder = mkdtempSync(join(tmpdir(), 'lectern-bench-fresh-'))
  const made = await openTestApp({ dataFolder })
  const long: string[] = []
  for (let n = 0; n < LECTURES; n++)
    long.push((await distinctLecture(made.context, SLIDES, SECONDS, null, (seed * 10 + n) * SLIDES)).id)
  await made.end(true)
  const lectureId = await seedFolder(dataFolder, 'The one that is being recorded', 'en')
  const server = await serverProcess(dataFolder)
  await server.start()
  try {
    const { slides } = (await server.lecture(lectureId)) as Lecture
    const times = async (from: number) => {
      const all: number[] = []
      for (let n = 0; n < TAKES; n++) all.push(await recordOne(server, lectureId, slides[n % slides.length]!.id, from + n))
      return all
    }
    // the first one of a server that has just started warms it
    await recordOne(server, lectureId, slides[0]!.id, 99)
    const idle = await times(100)
    const publish = (id: string) =>
      fetch(`${server.address}/api/lectures/${id}/editions`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: '{}',
      })
    for (const id of long) await publish(id)
    await wait(2000)
    const busy = await times(200)
    const { jobs } = (await (await fetch(`${server.address}/api/jobs`)).json()) as { jobs: { kind: string; state: string }[] }
    const left = jobs.filter(({ kind, state }) => kind === 'publish' && (state === 'running' || state === 'queued')).length
    if (left === 0) throw new Error('The lectures were published before the takes were recorded: nothing was measured')
    const ratio = median(busy) / median(idle)
    return [
      { name: 'a fresh take to tidied, nothing else going on', value: median(idle), goal: '', unit: 'ms', ok: null },
      {
        name: `the same while ${LECTURES} lectures of an hour are published`,
        value: ratio,
        goal: '≤ 1.3',
        unit: '×',
        ok: ratio <= 1.3,
      },
    ]
  } finally {
    await server.kill()
    rmSync(dataFolder, { recursive: true, force: true })
  }
}
