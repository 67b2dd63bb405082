/** A class that records at once, a minute each, by one link, as fast as they speak: what of it is whole, and when the last is tidied. */
import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Figure } from '#bench/report/report.ts'
import { crc32 } from '#core/audio/signal/crc32.ts'
import { openDatabase } from '#server/db/database.ts'
import { takes } from '#server/db/schema.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { readSound } from '#server/media/read-sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { serverProcess } from '#tests/support/processes/server-process.ts'
import { seedFolder } from '#tests/support/seed.ts'

const LEARNERS = 30
const SECONDS = 60
const GOAL_S = 120
const VOICES = ['take-3a', 'take-4a', 'take-1a', 'take-5a', 'take-7a']

const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

/** A minute of the demo's voice, begun elsewhere for each. */
async function minutes(): Promise<Float32Array[]> {
  const folder = join(import.meta.dirname, '../../demo/files')
  const read = await Promise.all(VOICES.map((name) => readSound(ffmpegAt('ffmpeg'), join(folder, `${name}.flac`))))
  const length = read.reduce((sum, { samples }) => sum + samples.length, 0)
  const all = new Float32Array(length)
  let at = 0
  for (const { samples } of read) {
    all.set(samples, at)
    at += samples.length
  }
  return Array.from({ length: LEARNERS }, (_, i) => {
    const from = Math.floor((i * all.length) / LEARNERS)
    return Float32Array.from({ length: SECONDS * 48_000 }, (_, n) => 0.9 * all[(from + n) % all.length]!)
  })
}

/** As a browser asks: what fell on a connection that the server was just closing is asked once more. */
const asked: typeof fetch = (...request) =>
  fetch(...request).catch((error: unknown) => {
    if (error instanceof TypeError) return fetch(...request)
    throw error
  })

export async function classAtOnce(): Promise<Figure[]> {
  const data = mkdtempSync(join(tmpdir(), 'lectern-class-'))
  const id = await seedFolder(data, 'clouds-by-their-shapes', 'en', 2)
  const server = await serverProcess(data)
  await server.start()
  const json = async (method: string, path: string, body: unknown, key = '') => {
    const headers = { 'content-type': 'application/json', ...(key && { 'x-voice': key }) }
    const answer = await asked(`${server.address}${path}`, { method, headers, body: JSON.stringify(body) })
    if (!answer.ok) throw new Error(`${method} ${path}: ${await answer.text()}`)
    return (await answer.json()) as Record<string, string>
  }
  try {
    const [slide] = (await server.lecture(id)).slides
    const link = { kind: 'class', name: 'A class', slideIds: [slide!.id] }
    const { token } = await json('POST', `/api/lectures/${id}/voiceLinks`, link)
    const sounds = await minutes()
    const record = async (samples: Float32Array, i: number) => {
      const { key } = await json('POST', `/record/${token}/voices`, { name: `Learner ${i + 1}` })
      const take = `/record/${token}/takes/${randomUUID()}`
      await json('PUT', take, { slideId: slide!.id, microphone: 'A microphone', startedAt: Date.now() }, key!)
      const chunks = chunksOf(samples)
      const began = performance.now()
      for (const [n, chunk] of chunks.entries()) {
        // a second is there when it was spoken
        await sleep(Math.max(0, began + (n + 1) * 1000 - performance.now()))
        const headers = { 'x-voice': key!, 'x-checksum': String(crc32(chunk)) }
        const answer = await asked(`${server.address}${take}/chunks/${n}`, { method: 'PUT', headers, body: chunk as BodyInit })
        if (!answer.ok) throw new Error(await answer.text())
      }
      await json('POST', `${take}/seal`, { chunks: chunks.length, dropoutCount: 0 }, key!)
      await json('PUT', `${take}/sent`, {}, key!)
    }
    await Promise.all(sounds.map(record))
    const ended = performance.now()
    const answers = async () =>
      ((await (await asked(`${server.address}/api/voiceLinks/${token}/answers`)).json()) as { answers: { clip: unknown }[] })
        .answers
    let tidied = 0
    while (tidied < LEARNERS && performance.now() - ended < 10 * GOAL_S * 1000) {
      await sleep(500)
      tidied = (await answers()).filter(({ clip }) => clip !== null).length
    }
    const after = (performance.now() - ended) / 1000
    await server.kill()
    const db = await openDatabase(data)
    const rows = await db.read.select({ samples: takes.samples }).from(takes)
    db.close()
    const whole = rows.filter(({ samples }) => samples === SECONDS * 48_000).length
    return [
      {
        name: `${LEARNERS} learners at once, ${SECONDS} s each: whole`,
        value: whole,
        goal: `${LEARNERS}`,
        unit: `of ${LEARNERS}`,
        ok: whole === LEARNERS,
      },
      {
        name: 'the last tidied after the last has ended',
        value: after,
        goal: `≤ ${GOAL_S}`,
        unit: 's',
        ok: tidied === LEARNERS && after <= GOAL_S,
      },
    ]
  } finally {
    if (server.isRunning()) await server.kill()
    rmSync(data, { recursive: true, force: true })
  }
}
