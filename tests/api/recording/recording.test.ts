import { randomUUID } from 'node:crypto'
import { appendFileSync, readdirSync, renameSync, symlinkSync } from 'node:fs'
import { join } from 'node:path'
import { afterEach, beforeEach, describe, expect, test } from 'vitest'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { decodeStored } from '#server/media/pcm.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { firstDifference, madeTake, noise, seconds } from '#tests/made/sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { IS_LONG } from '#tests/support/long.ts'

let app: TestApp
let lecture: Lecture
beforeEach(async () => {
  app = await openTestApp()
  lecture = await app.newLecture()
})
afterEach(() => app.end())

const again = async () => app.read<Lecture>(`/api/lectures/${lecture.id}`)
const slide = () => lecture.slides[0]!.id

test('a take comes back sample for sample, tidied and kept', async () => {
  const { samples } = madeTake()
  await app.record(slide(), samples)
  const { slides } = await again()
  const take = keptTake(slides[0]!)!
  expect(take).toMatchObject({ state: 'sealed', recovered: false, samples: samples.length, microphone: 'Test microphone' })
  expect(firstDifference(await decodeStored(app.context, take.sound!), toInt16(samples))).toBe(-1)
  expect(take.analysis!.speech).toHaveLength(2)
  expect(take.clip!.figures.loudnessLufs).toBeCloseTo(-16, 0)
  expect(readdirSync(join(app.dataFolder, 'recordings'))).toEqual([])
})

test.each([['grew with the recording', true] as const, ['was encoded whole', false] as const].slice(0, IS_LONG ? 2 : 1))(
  'a file that %s and does not hold what was recorded is made again before the journal goes',
  async (_, grows) => {
    const { samples } = madeTake()
    const { media, flacs } = app.context
    if (!grows) flacs.grow = () => {}
    const { run } = media
    let damaged = 0
    const damage = (bytes: Uint8Array) => {
      if (damaged > 0) return bytes
      damaged++
      const other = bytes.slice()
      other[1000]! ^= 1
      return other
    }
    media.run = (args, options) => {
      const input = options?.input
      if (!input) return run(args, options)
      const pieces = async function* () {
        if (input instanceof Uint8Array) yield damage(input)
        else for await (const piece of input) yield damage(piece)
      }
      return run(args, { ...options, input: pieces() })
    }
    await app.record(slide(), samples)
    expect(damaged).toBe(1)
    const take = keptTake((await again()).slides[0]!)!
    expect(firstDifference(await decodeStored(app.context, take.sound!), toInt16(samples))).toBe(-1)
    expect(take.clip).not.toBeNull()
    expect(take.problem).toBeNull()
    expect(readdirSync(join(app.dataFolder, 'recordings'))).toEqual([])
  },
)

test('chunks sent twice are kept once, chunks sent too early are asked for again', async () => {
  const takeId = randomUUID()
  const chunks = chunksOf(madeTake().samples)
  await app.begin(takeId, slide())
  await app.begin(takeId, slide())
  expect(await (await app.sendChunk(takeId, 0, chunks[0]!)).json()).toEqual({ next: 1 })
  expect(await (await app.sendChunk(takeId, 0, chunks[0]!)).json()).toEqual({ next: 1 })
  expect(await (await app.sendChunk(takeId, 3, chunks[3]!)).json()).toEqual({ next: 1 })
  const early = await app.seal(takeId, 6)
  expect(early.status).toBe(409)
  expect(await early.json()).toMatchObject({ next: 1 })
  for (const i of [1, 2, 3, 4, 5]) await app.sendChunk(takeId, i, chunks[i]!)
  expect((await app.seal(takeId, 6)).status).toBe(200)
  expect((await again()).slides[0]!.takes[0]!.samples).toBe(seconds(6))
})

test('a chunk damaged on its way is refused', async () => {
  const takeId = randomUUID()
  await app.begin(takeId, slide())
  const answer = await app.sendChunk(takeId, 0, chunksOf(noise(0.1, 48_000))[0]!, 12345)
  expect(answer.status).toBe(422)
})

test('two tabs recording the same slide make two takes', async () => {
  await Promise.all([app.record(slide(), madeTake().samples), app.record(slide(), madeTake({ seed: 9 }).samples)])
  expect((await again()).slides[0]!.takes.map((t) => t.number)).toEqual([2, 1])
})

describe('a recording that never came to its stop', () => {
  const takeId = randomUUID()
  const { samples } = madeTake()
  const chunks = chunksOf(samples)

  async function reopen() {
    await app.end(true)
    app = await openTestApp({ dataFolder: app.dataFolder })
    await app.idle()
  }

  test('is there after a restart, to its last acknowledged chunk, and a torn chunk is left out', async () => {
    await app.begin(takeId, slide())
    for (const i of [0, 1, 2, 3]) await app.sendChunk(takeId, i, chunks[i]!)
    appendFileSync(join(app.dataFolder, 'recordings', `${takeId}.take`), Buffer.from('TLTK half a record'))
    await reopen()
    const take = (await again()).slides[0]!.takes[0]!
    expect(take).toMatchObject({ state: 'sealed', recovered: true, samples: seconds(4) })
    const kept = await decodeStored(app.context, take.sound!)
    expect(firstDifference(kept, toInt16(samples.subarray(0, seconds(4))))).toBe(-1)
  })

  test('is made whole when its browser comes back with the rest', async () => {
    await app.begin(takeId, slide())
    for (const i of [0, 1, 2]) await app.sendChunk(takeId, i, chunks[i]!)
    await reopen()
    await app.begin(takeId, slide())
    for (const i of [3, 4, 5]) expect(await (await app.sendChunk(takeId, i, chunks[i]!)).json()).toEqual({ next: i + 1 })
    expect((await app.seal(takeId, 6)).status).toBe(200)
    await app.idle()
    const { takes } = (await again()).slides[0]!
    expect(takes).toHaveLength(1)
    expect(takes[0]).toMatchObject({ recovered: false, samples: seconds(6) })
    expect(takes[0]!.tidyUp!.kept.end).toBeGreaterThan(seconds(4))
  })

  test('does not replace the take that is kept already', async () => {
    const kept = await app.record(slide(), madeTake({ seed: 3 }).samples)
    await app.begin(takeId, slide())
    await app.sendChunk(takeId, 0, chunks[0]!)
    await reopen()
    expect((await again()).slides[0]!.keptTakeId).toBe(kept)
  })
})

test('without the media tool the recording stays, is tried again, and its problem is said', async () => {
  await app.end(true)
  app = await openTestApp({ dataFolder: app.dataFolder, ffmpeg: '/nowhere/ffmpeg' })
  const takeId = randomUUID()
  const chunks = chunksOf(madeTake().samples)
  await app.begin(takeId, slide())
  for (const [i, chunk] of chunks.entries()) await app.sendChunk(takeId, i, chunk)
  const refused = await app.seal(takeId, 6)
  expect(((await refused.json()) as { error: string }).error).toMatch(/ffmpeg was not found/)
  await app.end(true)
  app = await openTestApp({ dataFolder: app.dataFolder })
  expect((await app.seal(takeId, 6)).status).toBe(200)
  expect((await again()).slides[0]!.takes[0]!.samples).toBe(seconds(6))
})

test('a disk that fills up acknowledges nothing that is not on it, and goes on when there is room again', async () => {
  const takeId = randomUUID()
  const chunks = chunksOf(madeTake().samples)
  const journal = join(app.dataFolder, 'recordings', `${takeId}.take`)
  await app.begin(takeId, slide())
  await app.sendChunk(takeId, 0, chunks[0]!)
  renameSync(journal, `${journal}.hidden`)
  symlinkSync('/dev/full', journal) // every write to it fails as on a full disk
  const refused = await app.sendChunk(takeId, 1, chunks[1]!)
  expect(refused.status).toBe(507)
  expect(((await refused.json()) as { error: string }).error).toMatch(/The disk is full/)
  renameSync(`${journal}.hidden`, journal)
  for (const [i, chunk] of chunks.entries()) expect(await (await app.sendChunk(takeId, i, chunk)).json()).toEqual({ next: i + 1 })
  expect((await app.seal(takeId, 6)).status).toBe(200)
  expect((await again()).slides[0]!.takes[0]!.samples).toBe(seconds(6))
})

test('silence is kept, and said to be silence', async () => {
  await app.record(slide(), new Float32Array(seconds(2)))
  const take = (await again()).slides[0]!.takes[0]!
  expect(take.analysis).toMatchObject({ speech: [], loudnessLufs: null })
  expect(take.clip!.samples).toBe(seconds(2))
})

test('a new take without a voice does not replace a good one', async () => {
  const good = await app.record(slide(), madeTake().samples)
  await app.record(slide(), noise(0.001, seconds(2)))
  expect((await again()).slides[0]!.keptTakeId).toBe(good)
})
