/** A server that is killed while files come and go, and a store elsewhere that is away again and again: nothing is lost, and nothing is twice. Runs with `--long`. */
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
import { startS3Server } from '#tests/support/processes/s3/server.ts'
import { serverProcess } from '#tests/support/processes/server-process.ts'

const ROUNDS = 20
const LECTURES = 6
const longTest = IS_LONG ? test : test.skip
const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

longTest(
  'whatever is killed at whatever moment, what was acknowledged is there, under its name, once',
  { timeout: 580_000 },
  async () => {
    const s3 = await startS3Server()
    const setting = await s3.newBucket()
    const dataFolder = mkdtempSync(join(tmpdir(), 'lectern-elsewhere-kills-'))
    // so small that everything must leave
    const server = await serverProcess(dataFolder, { LECTERN_STORE: setting.text, LECTERN_STORE_LOCAL: '0.000001' })
    await server.start()
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
          const sealed = isWhole && (await json('POST', `/api/takes/${takeId}/seal`, { chunks: chunks.length, dropoutCount: 0 }))
          if (sealed && sealed.ok) kept.takes.push(takeId)
        }
      }
    }
    try {
      const teaching = teach()
      for (let n = 0; n < ROUNDS; n++) {
        await wait(500 + Math.random() * 2500)
        if (n % 3 === 2) {
          await s3.stop()
          await wait(Math.random() * 3000)
          await s3.start()
        } else {
          await server.kill()
          await server.start()
        }
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
      const db = await openDatabase(dataFolder)
      const { store, sending } = await openStore({ dataFolder, store: setting }, db)
      const used = await usedFiles(db.read)
      for (const name of used)
        expect(
          createHash('sha256')
            .update(await buffer(store.stream(name)))
            .digest('hex'),
          'what is stored',
        ).toBe(name)
      sending!.begin()
      await sending!.settled()
      await sending!.end()
      const names = (await s3.keys(setting)).map((key) => key.split('/').at(-1)!)
      expect([...used].filter((name) => !names.includes(name))).toEqual([])
      // each under its name and nowhere else, and nothing of a half that was being sent
      expect(new Set(names).size).toBe(names.length)
      const rows = new Set((await ('sent' in store ? store.sent.all() : [])).map(({ name }) => name))
      expect(names.filter((name) => !rows.has(name))).toEqual([])
      if ('bucket' in store) await store.bucket.clearBroken(Date.now() + 60_000)
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
        `${ROUNDS} times the server or the store was killed: ${kept.takes.length} takes and ${kept.lectures} decks acknowledged, ${used.size} files, none lost`,
      )
    } finally {
      isOver = true
      await server.kill()
      await s3.close()
      rmSync(dataFolder, { recursive: true, force: true })
    }
  },
)
