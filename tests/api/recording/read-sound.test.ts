/** Channels of a file as one, through the media tool. */

import { execFileSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, expect, test } from 'vitest'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { say } from '#core/words/say.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { pieceOf } from '#server/media/pcm.ts'
import { withMono, withStereo } from '#server/media/read-sound.ts'
import { folderStore } from '#server/storage/file-store.ts'
import { noise, seconds } from '#tests/made/sound.ts'

const folder = mkdtempSync(join(tmpdir(), 'lectern-mono-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const media = ffmpegAt('ffmpeg')
const store = folderStore(join(folder, 'data'))
// no whole number of anything
const LENGTH = seconds(2.2345)
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
const noteOf = (path: string) =>
  withMono({ media, store }, path, { name: 'talk.wav' }, async ({ note }) => (note ? say(note) : null))
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

test('two of which one is the other turned over are not added up to silence: one is taken, and that is told', async () => {
  const right = one(6)
  const path = file(
    'turned.wav',
    right.map((value) => -value),
    right,
  )
  const got = await read(path)
  expect(
    equal(got, right) ||
      equal(
        got,
        right.map((value) => -value),
      ),
  ).toBe(true)
  expect(await noteOf(path)).toBe('The two channels of “talk.wav” cancel each other out; one of them was taken alone.')
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
  await expect(read(path, LENGTH / 48_000 - 0.001)).rejects.toThrow(/“talk.wav” is longer than 0\.04 minutes\. Divide it first/)
  expect(await read(path, LENGTH / 48_000)).toHaveLength(LENGTH)
})

test('nothing stays on the disk, whether it was read or not', async () => {
  await read(file('kept.wav', one(7)))
  await expect(read(join(folder, 'nowhere.wav'))).rejects.toThrow('There is no file “talk.wav”')
  expect(readdirSync(join(folder, 'data', 'scratch'))).toEqual([])
})

/** Ten seconds in a form, and its first half. */
function halved(form: string, ...how: string[]): { whole: string; half: string } {
  const source = join(folder, 'ten.wav')
  writeFileSync(source, writeWav(toInt16(noise(0.1, seconds(10), 8)), 48_000))
  const whole = join(folder, `whole ${how.join(' ').replaceAll(/\W/g, '')}.${form}`)
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', source, ...how, whole])
  const bytes = readFileSync(whole)
  const half = join(folder, `half.${form}`)
  writeFileSync(half, bytes.subarray(0, bytes.length >> 1))
  return { whole, half }
}

test.each([
  ['wav', [], /“talk.wav” ends early: (4\.9|5) of 10 seconds are there/],
  ['flac', [], /ends early: \d(\.\d)? of 10 seconds/],
  ['mp3', [], /ends early: [45](\.\d)? of 10(\.\d)? seconds/],
  ['aiff', [], /ends early: (4\.9|5) of 10 seconds/],
  ['webm', [], /ends early: \d(\.\d)? of 10 seconds/],
  ['m4a', ['-movflags', '+faststart'], /ends early: [45](\.\d)? of 10(\.\d)? seconds/],
  ['ogg', [], /damaged or ends early: \d(\.\d)? seconds of it could be read/],
  ['opus', [], /damaged or ends early: \d(\.\d)? seconds of it could be read/],
  ['w64', [], null],
  ['mp3', ['-write_xing', '0'], null],
  ['wav', ['-bitexact', '-ar', '8000', '-c:a', 'pcm_alaw'], /ends early: (4\.9|5) of 10 seconds/],
])('a %s file %s of which half is missing is told; a whole one is not', async (form, how, sentence) => {
  const { whole, half } = halved(form, ...how)
  expect(await noteOf(whole)).toBeNull()
  // where a file does not say how long it is, nobody can know
  if (sentence) expect(await noteOf(half)).toMatch(sentence)
})

test('a film whose sound ends before its pictures is whole', async () => {
  const path = join(folder, 'film.mp4')
  const made = ['-f', 'lavfi', '-i', 'color=s=64x36:d=4', '-f', 'lavfi', '-i', 'sine=d=2']
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...made, path])
  expect(await noteOf(path)).toBeNull()
})

test('music that is too long is refused by its length, and before much of it was read', async () => {
  const endless = join(folder, 'long.flac')
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'anullsrc=r=48000:cl=stereo:d=600', endless])
  const began = process.memoryUsage().rss
  const reading = { name: 'long.flac', longestSeconds: 60 }
  await expect(withStereo({ media, store }, endless, reading, async () => null)).rejects.toThrow(
    /longer than 1 minute\. A bed can loop/,
  )
  expect(process.memoryUsage().rss - began).toBeLessThan(100e6)
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
