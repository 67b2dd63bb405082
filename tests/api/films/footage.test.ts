/** Screen and camera recorded with a take: kept, cut with its sound, published, and read back frame by frame. */
import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { plan } from '#core/edition/plan.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { slideSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { timeMap } from '#core/timing/time-map.ts'
import type { JobView } from '#server/events/job-view.ts'
import { inWords, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { numberIn } from '#tests/made/film.ts'
import { lay, noise, seconds as samplesOf, voice } from '#tests/made/sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { recordedFrames, sendFootage } from '#tests/support/footage.ts'
import { IS_LONG } from '#tests/support/long.ts'
import { allFrames } from '#tests/support/video-frames.ts'

const longTest = test.runIf(IS_LONG)

let app: TestApp
let folder: string
beforeAll(async () => {
  app = await openTestApp()
  folder = mkdtempSync(join(tmpdir(), 'lectern-footage-test-'))
})
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true })
  await app.end()
})

const again = (lecture: Lecture) => app.read<Lecture>(`/api/lectures/${lecture.id}`)
const WIDE = { width: 480, height: 270 }
const SQUARE = { width: 270, height: 270 }
const FIRST = 4800

/** Somebody speaks from 0.8 s on to a second before the end. */
const spoken = (length: number) => lay(noise(0.002, samplesOf(length)), voice(0.3, samplesOf(length - 1.8)), samplesOf(0.8))

/** A slide's take with what a screen or a camera recorded beside it. */
async function recordWith(slideId: string, seconds: number, ...kinds: ('screen' | 'camera')[]): Promise<string> {
  const takeId = randomUUID()
  await app.begin(takeId, slideId)
  for (const kind of kinds) {
    const size = kind === 'screen' ? WIDE : SQUARE
    const frames = recordedFrames({ frames: Math.floor((seconds - 0.1) * 30), ...size, first: FIRST })
    await sendFootage(app, takeId, kind, size, frames)
  }
  const chunks = chunksOf(spoken(seconds))
  for (const [i, chunk] of chunks.entries()) await app.sendChunk(takeId, i, chunk)
  await app.seal(takeId, chunks.length)
  await app.idle()
  return takeId
}

async function publish(lecture: Lecture, exportSettings: object, name = 'video.mp4'): Promise<string> {
  await app.json('PATCH', `/api/lectures/${lecture.id}`, { exportSettings })
  const { job } = (await (await app.json('POST', `/api/lectures/${lecture.id}/editions`, {})).json()) as { job: JobView }
  const ended = await app.ended(job.id)
  if (ended.state !== 'done') throw new Error(inWords(ended.error) ?? ended.state)
  const { editionId } = ended.result as { editionId: string }
  const path = join(folder, `${editionId}.mp4`)
  writeFileSync(path, Buffer.from(await (await app.ask(`/api/editions/${editionId}/files/${name}`)).arrayBuffer()))
  return path
}

const SIZE = { width: 640, height: 360 }
const framesOf = (video: string) => allFrames(video, SIZE.width, SIZE.height)

/**
 * How far what is seen is from what is heard, at each frame of the first slide where the voice is heard, ms: the frame's number says when it was
 * recorded, and the time map which moment of the take is heard then.
 */
function lags(lecture: Lecture, video: string, film: number): { lag: number | null; at: number }[] {
  const slide = lecture.slides[0]!
  const scheduled = schedule(lecture).slides[0]!
  const map = timeMap(keptTake(slide)!.tidyUp!, scheduled.leadSamples / 48_000)
  const { place } = plan(lecture).slides[0]!.films![film]!
  const box = {
    x: place.x * SIZE.width,
    y: place.y * SIZE.height,
    width: place.width * SIZE.width,
    height: place.height * SIZE.height,
  }
  const ends = (scheduled.startSamples + scheduled.leadSamples + scheduled.clipSamples) / 48_000
  return framesOf(video).flatMap((frame) => {
    const heard = frame.at >= ends ? null : map.toTake(slideSeconds(frame.at))
    // nothing was recorded before the first picture
    if (heard === null || heard < FIRST / 48_000 + 0.02) return []
    const number = numberIn(frame, box)
    return [{ at: frame.at, lag: number === null ? null : (heard - (FIRST / 48_000 + number / 30)) * 1000 }]
  })
}

describe('what was recorded with a take', () => {
  test('a demonstration fills the slide, is cut with its sound, and lies within 20 ms of the voice', async () => {
    const lecture = await app.newLecture()
    const takeId = await recordWith(lecture.slides[0]!.id, 8, 'screen')
    const made = await again(lecture)
    const take = made.slides[0]!.takes[0]!
    expect(take.footage).toMatchObject([{ start: FIRST, from: 0, footage: { kind: 'screen', problem: null } }])
    expect(take.footage[0]!.footage.shown).toMatchObject({ ...WIDE, rate: [30, 1], frames: 237, sound: null })
    // the middle is cut out, between two of its frames
    const tidyUp = { ...take.tidyUp!, cuts: [{ start: 144_333, end: 210_111 }] }
    await app.json('PUT', `/api/takes/${takeId}/tidyUp`, tidyUp)
    await app.idle()
    const cut = await again(lecture)
    const video = await publish(cut, {})
    const seen = lags(cut, video, 0)
    expect(seen.length).toBeGreaterThan(100)
    expect(seen.filter(({ lag }) => lag !== null && Math.abs(lag) > 20)).toEqual([])
    if (IS_LONG)
      for (const [preset, name, most] of [
        ['small', 'video-small.mp4', 20],
        ['open', 'video.webm', 20],
        // on a grid of 30 frames a second
        ['everywhere', 'video-everywhere.mp4', 37],
      ] as const) {
        const other = lags(cut, await publish(cut, { presets: ['standard', preset] }, name), 0)
        expect(
          other.filter(({ lag }) => lag !== null && Math.abs(lag) > most),
          name,
        ).toEqual([])
      }
    // where it was cut it dissolves: for as many frames no number is to be read
    const [, after] = plan(cut).slides[0]!.films![0]!.runs!
    const join = after!.startSamples / 48_000
    const dissolved = seen.filter(({ lag }) => lag === null).map(({ at }) => at)
    expect(dissolved.length).toBeGreaterThan(0)
    expect(dissolved.filter((at) => at < join - 5 / 30 || at > join + 0.02)).toEqual([])
  })
  longTest('a take with more cuts than the media tool takes in one expression is published', async () => {
    const lecture = await app.newLecture()
    const takeId = await recordWith(lecture.slides[0]!.id, 8, 'screen')
    const { tidyUp } = (await again(lecture)).slides[0]!.takes[0]!
    const cuts = Array.from({ length: 110 }, (_, i) => ({ start: 40_000 + i * 2600, end: 41_000 + i * 2600 }))
    await app.json('PUT', `/api/takes/${takeId}/tidyUp`, { ...tidyUp, cuts })
    await app.idle()
    const cut = await again(lecture)
    expect(plan(cut).slides[0]!.films![0]!.runs!.length).toBeGreaterThan(100)
    // it dissolves all the time: no number is to be read, but each frame is there
    expect(lags(cut, await publish(cut, {}), 0).length).toBeGreaterThan(100)
  })
  longTest('the small picture stands in its corner, round, from the first frame of the slide to the last', async () => {
    const lecture = await app.newLecture()
    await recordWith(lecture.slides[0]!.id, 5, 'camera')
    await app.json('PATCH', `/api/lectures/${lecture.id}`, { smallPicture: { size: 'large', corner: 'top-left' } })
    const made = await again(lecture)
    expect(made.smallPicture).toEqual({
      shown: 'everywhere',
      size: 'large',
      corner: 'top-left',
      edge: 'round',
      isMirrored: false,
      lateMs: 0,
    })
    const video = await publish(made, {})
    const seen = lags(made, video, 0)
    expect(seen.length).toBeGreaterThan(60)
    expect(seen.filter(({ lag }) => lag === null || Math.abs(lag) > 20)).toEqual([])
    const first = framesOf(video)[0]!
    const { place } = plan(made).slides[0]!.films![0]!
    const [x, y, width, height] = [place.x * 640, place.y * 360, place.width * 640, place.height * 360]
    expect(numberIn(first, { x, y, width, height })).not.toBeNull()
    // in the corner of its square the slide is seen
    const corner = (Math.round(y + 2) * 640 + Math.round(x + 2)) * 3
    await app.json('PATCH', `/api/lectures/${lecture.id}`, { smallPicture: { shown: 'nowhere' } })
    const without = framesOf(await publish(await again(lecture), {}))[0]!
    for (let c = 0; c < 3; c++) expect(Math.abs(first.data[corner + c]! - without.data[corner + c]!)).toBeLessThan(12)
    // and it can be left out without recording again
    expect(numberIn(without, { x, y, width, height })).toBeGreaterThan(200)
  })
})
