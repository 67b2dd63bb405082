/** The server, the store of files, Redis and the machines that work for it, each killed again and again while people work: nothing is lost, and nothing is twice. Runs with `--long`; LECTERN_KILLS says how often. */
import { createHash, randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { buffer } from 'node:stream/consumers'
import { ListMultipartUploadsCommand, S3Client } from '@aws-sdk/client-s3'
import { expect, test } from 'vitest'
import { crc32 } from '#core/audio/signal/crc32.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { openDatabase } from '#server/db/database.ts'
import { usedFiles } from '#server/maintenance/used-files.ts'
import { openStore } from '#server/storage/bucket/open-store.ts'
import { demoFile, file } from '#tests/api/harness.ts'
import { madeTake } from '#tests/made/sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { IS_LONG } from '#tests/support/long.ts'
import { startRedis } from '#tests/support/processes/redis.ts'
import { startS3Server } from '#tests/support/processes/s3/server.ts'
import { serverProcess } from '#tests/support/processes/server-process.ts'
import { workerProcess } from '#tests/support/processes/worker-process.ts'

const KILLS = Number(process.env.LECTERN_KILLS ?? 20)
const LECTURES = 6
const longTest = IS_LONG ? test : test.skip
const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

longTest(
  'whatever is killed at whatever moment, what was acknowledged is there, under its name, once',
  { timeout: 120_000 + KILLS * 20_000 },
  async () => {
    const [s3, redis] = await Promise.all([startS3Server(), startRedis()])
    const setting = await s3.newBucket()
    const shared = { LECTERN_STORE: setting.text, LECTERN_QUEUE: redis.url }
    const dataFolder = mkdtempSync(join(tmpdir(), 'lectern-elsewhere-kills-'))
    // so small that everything must leave
    const server = await serverProcess(dataFolder, { ...shared, LECTERN_STORE_LOCAL: '0.000001' })
    await server.start()
    const machines = [await workerProcess(shared), await workerProcess(shared)]
    let isOver = false
    const kept = { takes: [] as string[], lectures: 0 }
    /** Asks until it is answered: the server may be away. */
    const ask = async (path: string, init: RequestInit & { method: string }) => {
      for (; !isOver; await wait(50)) {
        const answer = await fetch(`${server.address}${path}`, init).catch(() => null)
        if (answer) return answer
      }
      return null
    }
    const json = (method: string, path: string, body: object) =>
      ask(path, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
    const form = () => {
      const given = new FormData()
      given.append('files', file('Clouds.pdf', demoFile('clouds-by-their-shapes.pdf')))
      given.append('language', 'en')
      return given
    }
    const chunks = chunksOf(madeTake().samples)

    async function teach() {
      while (!isOver) {
        if (kept.lectures < LECTURES && (await ask('/api/lectures', { method: 'POST', body: form() }))?.ok) kept.lectures++
        const shelf = await fetch(`${server.address}/api/lectures`).then(
          (answer) => answer.json() as Promise<{ lectures: { id: string }[] }>,
          () => null,
        )
        for (const { id } of shelf?.lectures.slice(0, 2) ?? []) {
          const lecture = await server.lecture(id).catch(() => null)
          const slide = lecture?.slides[Math.floor(Math.random() * lecture.slides.length)]
          if (!slide) continue
          const takeId = randomUUID()
          const begun = { slideId: slide.id, microphone: 'A microphone', startedAt: Date.now() }
          if (!(await json('PUT', `/api/takes/${takeId}`, begun))?.ok) continue
          let isWhole = true
          for (const [i, chunk] of chunks.entries()) {
            const headers = { 'content-type': 'application/octet-stream', 'x-checksum': String(crc32(chunk)) }
            const answer = await ask(`/api/takes/${takeId}/chunks/${i}`, { method: 'PUT', headers, body: chunk as BodyInit })
            isWhole &&= answer?.ok ?? false
          }
          const sealed = isWhole
            ? await json('POST', `/api/takes/${takeId}/seal`, { chunks: chunks.length, dropoutCount: 0 })
            : null
          if (sealed?.ok) kept.takes.push(takeId)
          // work for the other machines: words to be found, a take tidied anew, an edition
          await json('PATCH', `/api/slides/${slide.id}`, { script: `Clouds have names, ${kept.takes.length} of them.` })
          const known = slide.takes.find((take) => take.tidyUp)
          if (known) await json('PUT', `/api/takes/${known.id}/tidyUp`, { ...known.tidyUp, cleaning: Math.random() })
          if (kept.takes.length % 4 === 0) await json('POST', `/api/lectures/${id}/editions`, {})
        }
      }
    }
    try {
      const teaching = teach()
      const kill = [
        async () => {
          await server.kill()
          await server.start()
        },
        async () => {
          const doomed = machines.shift()!
          await doomed.kill()
          doomed.remove()
          machines.push(await workerProcess(shared))
        },
        async () => {
          await s3.stop()
          await wait(Math.random() * 3000)
          await s3.start()
        },
        async () => {
          await redis.stop()
          await wait(Math.random() * 3000)
          await redis.start()
        },
      ]
      for (let n = 0; n < KILLS; n++) {
        await wait(500 + Math.random() * 2500)
        await kill[n % kill.length]!()
      }
      isOver = true
      await teaching
      await server.kill()

      // as it is found: by a server of its own, whose jobs go on, and then by looking at everything
      await server.start()
      await expect
        .poll(
          async () => {
            const { jobs } = (await (await fetch(`${server.address}/api/jobs`)).json()) as { jobs: { state: string }[] }
            return jobs.filter(({ state }) => state === 'queued' || state === 'running').length
          },
          { timeout: 120_000, interval: 500 },
        )
        .toBe(0)
      const { lectures } = (await (await fetch(`${server.address}/api/lectures`)).json()) as { lectures: { id: string }[] }
      expect(lectures.length).toBeGreaterThan(0)
      await server.kill()
      for (const machine of machines) await machine.kill()
      const db = await openDatabase(dataFolder)
      const { store, sending } = await openStore({ dataFolder, store: setting }, db)
      if (!sending) throw new Error('no store elsewhere')
      const used = await usedFiles(db.read)
      for (const name of used)
        expect(
          createHash('sha256')
            .update(await buffer(store.stream(name)))
            .digest('hex'),
          'what is stored',
        ).toBe(name)
      sending.begin()
      await sending.settled()
      await sending.end()
      // what a machine made while nobody was there to take it down goes, else after a day
      await store.clearStrays(Date.now() + 60_000)
      const names = (await s3.keys(setting)).map((key) => key.split('/').at(-1)!)
      expect([...used].filter((name) => !names.includes(name))).toEqual([])
      // nothing that nobody knows of, and nothing of a half that was being sent
      const rows = new Set((await store.sent.all()).map(({ name }) => name))
      expect(names.filter((name) => !rows.has(name))).toEqual([])
      await store.bucket.clearBroken(Date.now() + 60_000)
      const client = new S3Client({
        ...{ region: setting.region, endpoint: setting.endpoint!, forcePathStyle: true },
        ...{ requestChecksumCalculation: 'WHEN_REQUIRED', responseChecksumValidation: 'WHEN_REQUIRED' },
      })
      expect((await client.send(new ListMultipartUploadsCommand({ Bucket: setting.bucket }))).Uploads ?? []).toEqual([])
      client.destroy()
      // takes that were acknowledged
      const takes = new Set<string>()
      db.close()
      await server.start()
      for (const { id } of lectures)
        for (const slide of ((await (await fetch(`${server.address}/api/lectures/${id}`)).json()) as Lecture).slides)
          for (const take of slide.takes) takes.add(take.id)
      expect(kept.takes.filter((id) => !takes.has(id))).toEqual([])
      console.log(
        `${KILLS} kills of server, machines, store and Redis: ${kept.takes.length} takes and ${kept.lectures} decks acknowledged, ${used.size} files, none lost`,
      )
    } finally {
      isOver = true
      if (server.isRunning()) await server.kill()
      for (const machine of machines) {
        await machine.kill()
        machine.remove()
      }
      await redis.close()
      await s3.close()
      rmSync(dataFolder, { recursive: true, force: true })
    }
  },
)
