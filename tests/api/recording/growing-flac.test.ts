/** A take's FLAC that grows while it is recorded. */
import { readdirSync } from 'node:fs'
import { afterEach, beforeEach, expect, test } from 'vitest'
import { fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { growingFlacs } from '#server/media/growing-flac.ts'
import { decodeStored } from '#server/media/pcm.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { firstDifference, noise, seconds } from '#tests/made/sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'

let app: TestApp
beforeEach(async () => {
  app = await openTestApp()
})
afterEach(() => app.end())

const samples = toInt16(noise(0.2, seconds(3.4), 5))
const chunks = chunksOf(fromInt16(samples))
const scratch = () => readdirSync(app.context.store.scratch)

test('it holds each sample of the take; chunks that come again are not in it twice', async () => {
  const { flacs } = app.context
  for (const [i, chunk] of chunks.entries()) {
    flacs.grow('one', i, chunk)
    flacs.grow('one', Math.max(0, i - 1), chunks[Math.max(0, i - 1)]!)
  }
  const name = await flacs.finish('one', chunks.length)
  const kept = await decodeStored(app.context, name!)
  expect(kept.length).toBe(samples.length)
  expect(firstDifference(kept, samples)).toBe(-1)
  expect(await flacs.finish('one', chunks.length)).toBeNull()
  expect(scratch()).toEqual([])
})

test('what was not told of from its beginning, or of which a chunk is missing, is left to be encoded whole', async () => {
  const { flacs } = app.context
  flacs.grow('late', 1, chunks[1]!)
  expect(await flacs.finish('late', 2)).toBeNull()
  flacs.grow('holed', 0, chunks[0]!)
  flacs.grow('holed', 2, chunks[2]!)
  expect(await flacs.finish('holed', 3)).toBeNull()
  flacs.grow('short', 0, chunks[0]!)
  expect(await flacs.finish('short', 2)).toBeNull()
  expect(scratch()).toEqual([])
})

test('an encoder that cannot be started, or ends, loses nothing', async () => {
  const { store, media } = app.context
  const missing = growingFlacs(ffmpegAt('/nowhere/ffmpeg'), store)
  for (const [i, chunk] of chunks.entries()) missing.grow('one', i, chunk)
  expect(await missing.finish('one', chunks.length)).toBeNull()
  const closed = growingFlacs(media, store)
  closed.grow('one', 0, chunks[0]!)
  closed.close()
  expect(await closed.finish('one', 1)).toBeNull()
})

test('a recording is sealed with the file that grew, and every sample is in it', async () => {
  const lecture = await app.newLecture()
  const whole: number[] = []
  const { run } = app.context.media
  app.context.media.run = (args, options) => {
    if (options?.input instanceof Uint8Array && args.includes('flac')) whole.push(options.input.length)
    return run(args, options)
  }
  await app.record(lecture.slides[0]!.id, fromInt16(samples))
  expect(whole).toEqual([])
  const [take] = (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[0]!.takes
  const kept = await decodeStored(app.context, take!.sound!)
  expect(firstDifference(kept, samples)).toBe(-1)
})
