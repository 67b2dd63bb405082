/** Channels of a file as one, through the media tool. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, expect, test } from 'vitest'
import { toInt16 } from '#core/audio/pcm.ts'
import { writeWav } from '#core/audio/wav.ts'
import { pieceOf } from '#server/media/pcm.ts'
import { withMono } from '#server/media/read-sound.ts'
import { mediaTool } from '#server/media/tool.ts'
import { folderStore } from '#server/store/file-store.ts'
import { noise, seconds } from '#tests/sound.ts'

const folder = mkdtempSync(join(tmpdir(), 'lectern-mono-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const media = mediaTool('ffmpeg')
const store = folderStore(join(folder, 'data'))
// no whole number of anything
const LENGTH = seconds(61.2345)
const one = (seed: number, level = 0.1) => toInt16(noise(level, LENGTH, seed))

function file(name: string, ...channels: Int16Array[]): string {
  const paths = channels.map((samples, i) => {
    const path = join(folder, `${name} ${i}.wav`)
    writeFileSync(path, writeWav(samples, 48_000))
    return path
  })
  const out = join(folder, name)
  const merge = channels.length > 1 ? ['-filter_complex', `amerge=inputs=${channels.length}`] : []
  execFileSync('ffmpeg', ['-v', 'error', ...paths.flatMap((path) => ['-i', path]), ...merge, '-c:a', 'pcm_s16le', out])
  return out
}
const read = (path: string, longestSeconds?: number) =>
  withMono({ media, store }, path, { name: 'talk.wav', ...(longestSeconds && { longestSeconds }) }, async ({ samples }) =>
    pieceOf(samples, 0, samples.length),
  )
const noteOf = (path: string) => withMono({ media, store }, path, { name: 'talk.wav' }, async ({ note }) => note)
const equal = (a: Int16Array, b: Int16Array) => a.length === b.length && a.every((value, i) => value === b[i])

test('one channel comes through sample for sample', async () => {
  const sound = one(1)
  expect(equal(await read(file('one.wav', sound)), sound)).toBe(true)
})

test('two are their mean; a dead one is left out, so that the voice is as loud as it was', async () => {
  const [left, right] = [one(1), one(2)]
  const mean = left.map((value, i) => Math.round((value + right[i]!) / 2))
  expect(equal(await read(file('two.wav', left, right)), mean)).toBe(true)
  expect(equal(await read(file('dead.wav', one(3, 0.00001), right)), right)).toBe(true)
  const silent = file('silent.wav', right, new Int16Array(LENGTH))
  expect(equal(await read(silent), right)).toBe(true)
  expect(await noteOf(silent)).toBe('Only the left channel of “talk.wav” carries sound; it was taken alone.')
})

test('three of which one is dead are the mean of the two', async () => {
  const [a, b] = [one(4), one(5)]
  const mean = a.map((value, i) => Math.round((value + b[i]!) / 2))
  const path = file('three.wav', a, new Int16Array(LENGTH), b)
  const got = await read(path)
  // halves are rounded either way after a product with a third and one with a half
  expect(got.length).toBe(mean.length)
  expect(got.every((value, i) => Math.abs(value - mean[i]!) <= 1)).toBe(true)
  expect(await noteOf(path)).toBe('Of the 3 channels of “talk.wav” some carry no sound (1); they were left out.')
})

test('what is longer than may be is refused in a sentence, and what is just as long is read', async () => {
  const path = file('long.wav', one(6))
  await expect(read(path, LENGTH / 48_000 - 0.001)).rejects.toThrow(/“talk.wav” is longer than .* hours\. Divide it first/)
  expect(await read(path, LENGTH / 48_000)).toHaveLength(LENGTH)
})

test('nothing stays laid aside, whether it was read or not', async () => {
  await read(file('kept.wav', one(7)))
  await expect(read(join(folder, 'nowhere.wav'))).rejects.toThrow('There is no file “talk.wav”')
  expect(readdirSync(join(folder, 'data', 'scratch'))).toEqual([])
})

test('what takes the output may fail: the program is ended, and that error is told', async () => {
  const endless = ['-f', 'lavfi', '-i', 'anullsrc', '-f', 's16le', 'pipe:1']
  const full = new RangeError('no memory left')
  const onOutput = () => {
    throw full
  }
  await expect(media.run(endless, { onOutput })).rejects.toBe(full)
})
