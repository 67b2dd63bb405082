/** Films on slides: dropped, made ready, timed, published, and read back frame by frame. */
import { execFileSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { type EditionPlan, plan } from '#core/edition/plan.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Film } from '#core/model/moving/film.ts'
import { schedule } from '#core/timing/schedule.ts'
import { films } from '#server/db/moving-schema.ts'
import { steps } from '#server/db/schema.ts'
import type { JobView } from '#server/events/job-view.ts'
import { narratedPresentation } from '#server/export/presentation.ts'
import { wantedSegments } from '#server/publish/lecture-segments.ts'
import type { FileStore } from '#server/storage/file-store.ts'
import { file, inWords, openTestApp, type TestApp, workers } from '#tests/api/harness.ts'
import { type MadeFilm, makeFilm, numberIn } from '#tests/made/film.ts'
import { madeTake } from '#tests/made/sound.ts'
import { lectern } from '#tests/support/cli.ts'
import { IS_LONG } from '#tests/support/long.ts'
import { allFrames } from '#tests/support/video-frames.ts'

const longTest = test.runIf(IS_LONG)

/** Two kinds are made alike in the daily run: one whose frames have their own moments, and one on a grid. */
const KINDS = [
  { preset: 'standard', name: 'video.mp4', tolerance: 0 },
  // on a grid of 30 frames a second, of which some lie beside those of the film
  { preset: 'everywhere', name: 'video-everywhere.mp4', tolerance: 1 },
  { preset: 'small', name: 'video-small.mp4', tolerance: 0 },
  { preset: 'open', name: 'video.webm', tolerance: 0 },
].slice(0, IS_LONG ? 4 : 2)

let app: TestApp
let folder: string
const path = (name: string) => join(folder, name)

beforeAll(async () => {
  app = await openTestApp()
  folder = mkdtempSync(join(tmpdir(), 'lectern-films-'))
})
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true })
  await app.end()
})

const again = (lecture: Lecture) => app.read<Lecture>(`/api/lectures/${lecture.id}`)

/** Drops a file on a slide. @returns how its job ended */
async function drop(slideId: string, name: string, content: Uint8Array | string): Promise<JobView> {
  const form = new FormData()
  form.append('file', file(name, content))
  const answer = await app.ask(`/api/slides/${slideId}/films`, { method: 'POST', body: form })
  const body = (await answer.json()) as { job?: JobView; error?: string }
  if (!body.job) throw new Error(body.error)
  return app.ended(body.job.id)
}
async function dropMade(slideId: string, name: string, made: MadeFilm): Promise<JobView> {
  makeFilm(path(name), made)
  return drop(slideId, name, readFileSync(path(name)))
}
const filmsOf = (lecture: Lecture, slide: number): Film[] => lecture.slides[slide]!.steps.flatMap((step) => step.films)
const change = (film: Film, values: object) => app.json('PATCH', `/api/films/${film.id}`, values)

async function publish(lecture: Lecture, exportSettings: object): Promise<string> {
  await app.json('PATCH', `/api/lectures/${lecture.id}`, { exportSettings })
  const { job } = (await (await app.json('POST', `/api/lectures/${lecture.id}/editions`, {})).json()) as { job: JobView }
  const ended = await app.ended(job.id)
  if (ended.state !== 'done') throw new Error(inWords(ended.error) ?? ended.state)
  return (ended.result as { editionId: string }).editionId
}
async function fetchVideo(editionId: string, name: string): Promise<string> {
  writeFileSync(path(name), Buffer.from(await (await app.ask(`/api/editions/${editionId}/files/${name}`)).arrayBuffer()))
  return path(name)
}

/** What number is to be seen at each frame of a stretch, and what is: by the plan, beside the video. */
function wrongFrames(edition: EditionPlan, slide: number, film: number, video: string, tolerance = 0) {
  const SIZE = { width: 640, height: 360 }
  const planned = edition.slides[slide]!
  const { place, startSamples, endSamples, rate, from, to } = planned.films![film]!
  const box = {
    x: place.x * SIZE.width,
    y: place.y * SIZE.height,
    width: place.width * SIZE.width,
    height: place.height * SIZE.height,
  }
  const begins = (planned.startSamples + startSamples) / 48_000
  const ends = (planned.startSamples + endSamples) / 48_000
  const inside = allFrames(video, SIZE.width, SIZE.height).filter(({ at }) => at >= begins - 1e-4 && at < ends - 1e-3)
  const wrong = inside.flatMap((frame) => {
    const wanted = from + (Math.floor(((frame.at - begins) * rate[0]) / rate[1] + 0.01) % (to - from))
    const seen = numberIn(frame, box)
    return seen !== null && Math.abs(seen - wanted) <= tolerance ? [] : [{ at: frame.at, wanted, seen }]
  })
  return { wrong, frames: inside.length }
}

/** When a tone begins in the sound of a video, seconds, from a moment on. */
function tonesIn(video: string, from: number): number[] {
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', video, '-ac', '1', '-ar', '48000', '-f', 's16le', '-'], {
    maxBuffer: 2 ** 30,
  })
  const samples = new Int16Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length - (raw.length % 2)))
  const BLOCK = 240
  const found: number[] = []
  let isLoud = false
  for (let at = Math.round(from * 48_000); at + BLOCK <= samples.length; at += BLOCK) {
    const peak = samples.subarray(at, at + BLOCK).reduce((most, value) => Math.max(most, Math.abs(value)), 0)
    if (peak > 1500 && !isLoud) found.push(at / 48_000)
    isLoud = peak > 1500
  }
  return found
}

describe('a film that was dropped on a slide', () => {
  test('is made ready: its pictures, its sound, how long it is', async () => {
    const lecture = await app.newLecture()
    expect(await dropMade(lecture.slides[0]!.id, 'stream.mp4', { frames: 75, rate: '30000/1001', tone: 0.5 })).toMatchObject({
      state: 'done',
    })
    const [film] = filmsOf(await again(lecture), 0)
    expect(film).toMatchObject({ name: 'stream.mp4', problem: null, place: null, waits: true })
    expect(film!.shown).toMatchObject({ width: 480, height: 270, rate: [30_000, 1001], frames: 75 })
    expect(film!.shown!.loudnessLufs).toBeLessThan(-5)
    const strip = await app.ask(`/api/files/${film!.shown!.strip}.webp`)
    expect(strip.ok).toBe(true)
  })

  longTest('is shown frame by frame in every kind of video, and its sound where its picture is', async () => {
    const lecture = await app.newLecture()
    const [first, second] = lecture.slides
    await app.record(first!.id, madeTake().samples)
    await dropMade(first!.id, 'over.mp4', { frames: 60, rate: '25' })
    await dropMade(second!.id, 'alone.mp4', { frames: 60, rate: '24', tone: 0.5 })
    const [film] = filmsOf(await again(lecture), 0)
    await change(film!, { place: { x: 0.5, y: 0.5, width: 0.4, height: 0.4 }, fromSeconds: 0.4 })
    await app.json('PATCH', `/api/lectures/${lecture.id}`, { transition: { kind: 'cross-fade', seconds: 0.5 } })
    const presets = KINDS.map(({ preset }) => preset)
    const editionId = await publish(lecture, { presets, height: 720, author: '' })
    const edition = plan(await again(lecture))
    for (const { name, tolerance } of KINDS) {
      const video = await fetchVideo(editionId, name)
      for (const [slide, count] of [
        [0, 50],
        [1, 60],
      ] as const) {
        const { wrong, frames } = wrongFrames(edition, slide, 0, video, tolerance)
        expect(wrong, `${name}, slide ${slide + 1}`).toEqual([])
        if (tolerance === 0) expect(Math.abs(frames - count)).toBeLessThanOrEqual(1)
      }
      // the tone sounds with the film's first frame, and with the one a second later
      const second = edition.slides[1]!
      const begins = (second.startSamples + second.films![0]!.startSamples) / 48_000
      expect(
        tonesIn(video, begins - 0.2)
          .slice(0, 2)
          .map((at) => Math.round((at - begins) * 50) / 50),
        name,
      ).toEqual([0, 1])
    }
  })

  test('that runs on is seen and heard on over the next slide, through the change of slides', async () => {
    const lecture = await app.newLecture()
    await dropMade(lecture.slides[0]!.id, 'on.mp4', { frames: 160, rate: '25', tone: 0.3 })
    const [film] = filmsOf(await again(lecture), 0)
    await change(film!, { waits: false, runsOn: true, place: { x: 0.5, y: 0.5, width: 0.4, height: 0.4 } })
    await app.json('PATCH', `/api/lectures/${lecture.id}`, { transition: { kind: 'cross-fade', seconds: 0.5 } })
    const video = await fetchVideo(await publish(await again(lecture), { presets: ['standard'], height: 720 }), 'video.mp4')
    const edition = plan(await again(lecture))
    const [first, second] = edition.slides
    // frames of a change of slides are on a grid of their own
    const [own, over] = [wrongFrames(edition, 0, 0, video), wrongFrames(edition, 1, 0, video, 1)]
    expect([own.wrong, over.wrong]).toEqual([[], []])
    expect(own.frames).toBeGreaterThan(110)
    expect(over.frames).toBeGreaterThan(25)
    const begins = first!.films![0]!.startSamples / 48_000
    expect(begins + 6.4).toBeGreaterThan(second!.startSamples / 48_000 + 1)
    expect(tonesIn(video, 0).map((at) => Math.round((at - begins) * 50) / 50)).toEqual([0, 1, 2, 3, 4, 5, 6])
  })

  longTest('has captions of its own, which learners read when they are heard, in a bundle too', async () => {
    const lecture = await app.newLecture()
    await app.record(lecture.slides[0]!.id, madeTake().samples)
    await dropMade(lecture.slides[0]!.id, 'said.mp4', { frames: 100, tone: 0.3 })
    const [film] = filmsOf(await again(lecture), 0)
    const read = async (text: string) => {
      const form = new FormData()
      form.append('language', lecture.language)
      form.append('file', file('said.vtt', text))
      const answer = await app.ask(`/api/films/${film!.id}/captionFiles`, { method: 'POST', body: form })
      return (await answer.json()) as { captions?: Film['captions'][number]; problems: { line: number }[]; error?: unknown }
    }
    const vtt = 'WEBVTT\n\n00:01.000 --> 00:02.000\nA drop <i>falls</i>.\n\n00:09.000 --> 00:10.000\nToo late.\n'
    const { captions, problems } = await read(vtt)
    expect(captions!.cues.map(({ text, markup }) => [text, markup])).toEqual([['A drop falls.', 'A drop <i>falls</i>.']])
    expect(problems.map(({ line }) => line)).toEqual([6])
    expect((await read('WEBVTT\n\n00:09.000 --> 00:10.000\nToo late.\n')).captions).toBeUndefined()
    await change(film!, { captions: [captions] })
    const bundle = await app.ask(`/api/lectures/${lecture.id}/bundle`)
    const { lecture: copy } = await app.imported(new File([await bundle.arrayBuffer()], 'copy.lectern.zip'))
    expect(filmsOf(copy, 0)[0]!.captions).toEqual([captions])
    const track = await (await app.ask(`/api/lectures/${copy.id}/captions/${copy.captionTracks[0]!.id}.vtt`)).text()
    expect(track).not.toContain('falls')
    const editionId = await publish(copy, { presets: ['standard'], height: 720 })
    const published = await (await app.ask(`/api/editions/${editionId}/files/captions.${lecture.language}.vtt`)).text()
    const begins = schedule(copy).slides[0]!.films[0]!.startSamples / 48_000
    expect(published).toContain(`00:00:0${(begins + 1).toFixed(3)} --> 00:00:0${(begins + 2).toFixed(3)}`)
    expect(published).toContain('A drop <i>falls</i>.')
  })

  longTest('of several minutes is published as a short one is: with a key frame each two seconds', async () => {
    const lecture = await app.newLecture()
    // more of them than the media tool takes in one expression; at one frame a second that is soon made
    await dropMade(lecture.slides[0]!.id, 'long.mp4', { frames: 230, rate: '1', width: 160, height: 90 })
    const video = await fetchVideo(await publish(lecture, { presets: ['standard'], height: 720 }), 'video.mp4')
    const edition = plan(await again(lecture))
    expect(wrongFrames(edition, 0, 0, video)).toMatchObject({ wrong: [], frames: 230 })
  })

  test('counts as sound does: its slide lasts until it has ended, and the voice may speak before, over or after it', async () => {
    const lecture = await app.newLecture()
    const [slide] = lecture.slides
    await app.record(slide!.id, madeTake().samples)
    await dropMade(slide!.id, 'five.mp4', { frames: 125 })
    const first = async () => schedule(await again(lecture)).slides[0]!
    const [film] = filmsOf(await again(lecture), 0)
    const seconds = (samples: number) => samples / 48_000
    const over = await first()
    expect(seconds(over.lengthSamples)).toBeGreaterThan(0.25 + 5 + 0.4)
    expect(seconds(over.lengthSamples)).toBeLessThan(0.25 + 5 + 0.4 + 0.05)
    expect(seconds(over.leadSamples)).toBe(0.25)
    await change(film!, { voice: 'after' })
    const after = await first()
    expect(seconds(after.leadSamples)).toBeCloseTo(0.25 + 5 + 0.25, 3)
    expect(after.lengthSamples).toBeGreaterThan(after.leadSamples + after.clipSamples)
    await change(film!, { voice: 'before' })
    const before = await first()
    expect(before.films[0]!.startSamples).toBeGreaterThanOrEqual(before.leadSamples + before.clipSamples)
    expect(seconds(before.lengthSamples)).toBeGreaterThanOrEqual(seconds(before.films[0]!.startSamples) + 5.399)
    await change(film!, { voice: 'over', waits: false })
    const stopped = await first()
    expect(stopped.lengthSamples).toBe(stopped.filmlessSamples)
    expect(stopped.films[0]!.endSamples).toBe(stopped.lengthSamples)
  })

  test('that is muted or described is encoded no second time; one that is moved is', async () => {
    const lecture = await app.newLecture()
    await dropMade(lecture.slides[0]!.id, 'kept.mp4', { frames: 12, tone: 0.4 })
    const keys = async () => {
      const { videos } = wantedSegments(plan(await again(lecture)).slides, lecture.exportSettings)
      return [...videos.values()][0]!.map((recipe) => recipe.key)
    }
    const [film] = filmsOf(await again(lecture), 0)
    const before = await keys()
    await change(film!, { isMuted: true, description: 'Bars that count', isSpoken: false })
    expect(await keys()).toEqual(before)
    await change(film!, { place: { x: 0, y: 0, width: 0.3, height: 0.3 } })
    const moved = await keys()
    expect(moved[0]).not.toBe(before[0])
    expect(moved.slice(1)).toEqual(before.slice(1))
  })

  test('can be taken away and brought back, and is copied with its slide', async () => {
    const lecture = await app.newLecture()
    await dropMade(lecture.slides[0]!.id, 'gone.mp4', { frames: 10 })
    const [film] = filmsOf(await again(lecture), 0)
    await app.json('PUT', `/api/films/${film!.id}/deleted`, { deleted: true })
    expect(filmsOf(await again(lecture), 0)).toEqual([])
    await app.json('PUT', `/api/films/${film!.id}/deleted`, { deleted: false })
    expect(filmsOf(await again(lecture), 0)).toHaveLength(1)
    await app.json('POST', `/api/slides/${lecture.slides[0]!.id}/copy`, {})
    const [copy] = filmsOf(await again(lecture), 1)
    expect(copy).toMatchObject({ name: 'gone.mp4', shown: film!.shown })
    expect(copy!.id).not.toBe(film!.id)
  })
})

describe('a film stays where it is', () => {
  const arrange = (slideId: string, steps: string[]) =>
    app.json('PUT', '/api/slides/steps', { slides: [{ id: slideId, steps, deleted: false }] })
  async function givePicture(slideId: string, insteadOf: string) {
    const form = new FormData()
    form.append('insteadOf', insteadOf)
    const picture = sharp({ create: { width: 320, height: 180, channels: 3, background: '#305080' } })
    form.append('file', file('other.png', await picture.png().toBuffer()))
    const answer = await app.ask(`/api/slides/${slideId}/pictures`, { method: 'POST', body: form })
    return { status: answer.status, ...((await answer.json()) as { stepId?: string }) }
  }
  const named = (lecture: Lecture, slide = 0) => filmsOf(lecture, slide).map((film) => film.name)

  test('when its slide gets another picture, of its own slide only', async () => {
    const lecture = await app.newLecture()
    const [slide] = lecture.slides
    await dropMade(slide!.id, 'stays.mp4', { frames: 10 })
    const { stepId } = await givePicture(slide!.id, slide!.steps[0]!.id)
    await arrange(slide!.id, [stepId!])
    expect(named(await again(lecture))).toEqual(['stays.mp4'])
    const other = await app.newLecture()
    expect((await givePicture(other.slides[0]!.id, slide!.steps[0]!.id)).status).toBe(404)
  })
  test('when the text of its slide is written anew', async () => {
    const lecture = await app.newLecture()
    const card = { heading: 'Rain', line: 'and what it is', colours: 'paper' }
    const made = await app.json('POST', `/api/lectures/${lecture.id}/cards`, { afterSlideId: null, card })
    const { slideId } = (await made.json()) as { slideId: string }
    await dropMade(slideId, 'written.mp4', { frames: 10 })
    const drawn = await app.json('POST', `/api/slides/${slideId}/cards`, { ...card, heading: 'Snow' })
    await arrange(slideId, [((await drawn.json()) as { stepId: string }).stepId])
    expect(named(await again(lecture))).toEqual(['written.mp4'])
  })
  test('when a page that was offered is chosen for its slide', async () => {
    const lecture = await app.newLecture()
    const [slide] = lecture.slides
    await dropMade(slide!.id, 'chosen.mp4', { frames: 10 })
    const { stepId } = await givePicture(slide!.id, slide!.steps[0]!.id)
    await app.context.db.write(async (tx) => {
      await tx.delete(films).where(eq(films.stepId, stepId!))
      await tx.update(steps).set({ offered: true }).where(eq(steps.id, stepId!))
    })
    await arrange(slide!.id, [stepId!])
    expect(named(await again(lecture))).toEqual(['chosen.mp4'])
    await arrange(slide!.id, [slide!.steps[0]!.id])
    await arrange(slide!.id, [stepId!])
    expect(named(await again(lecture))).toEqual(['chosen.mp4'])
  })
})

describe('a film goes along', () => {
  test('with pictures, to the slide whose number it bears; its sound alone is a recording where it has no picture', async () => {
    const picture = await sharp({ create: { width: 640, height: 360, channels: 3, background: '#335577' } })
      .png()
      .toBuffer()
    makeFilm(path('02 demo.mp4'), { frames: 20 })
    makeFilm(path('09 nowhere.mp4'), { frames: 10 })
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'sine=d=1', '-c:a', 'aac', path('01 words.m4a')])
    const given = (name: string) => file(name, readFileSync(path(name)))
    const { lecture, result } = await app.imported(
      file('01 one.png', picture),
      file('02 two.png', picture),
      given('02 demo.mp4'),
      given('09 nowhere.mp4'),
      given('01 words.m4a'),
    )
    expect(lecture.slides.map((slide) => slide.steps[0]!.films.map((one) => [one.name, one.shown?.frames]))).toEqual([
      [],
      [['02 demo.mp4', 20]],
    ])
    expect(lecture.slides[0]!.takes).toHaveLength(1)
    expect(result.unmatched).toEqual(['09 nowhere.mp4'])
    expect(result.films).toEqual(['02 demo.mp4'])
  })

  longTest('by the command line: what lies beside a picture moves on its slide', async () => {
    const talk = path('talk')
    mkdirSync(talk)
    const picture = await sharp({ create: { width: 1280, height: 720, channels: 3, background: '#808080' } })
      .png()
      .toBuffer()
    for (const name of ['01.png', '02.png']) writeFileSync(join(talk, name), picture)
    makeFilm(join(talk, '02 demo.mp4'), { frames: 50 })
    const made = await lectern(['make', talk, '-o', path('talk.mp4'), '--no-cache'], { workers })
    expect(made).toMatchObject({ status: 0, stderr: '' })
    expect(made.stdout).toContain('Shown as films on their slides: 02 demo.mp4.')
    const box = { x: 0, y: 0, width: 320, height: 180 }
    const seen = allFrames(path('talk.mp4'), 320, 180).map((frame) => numberIn(frame, box))
    // the still slide is grey; each frame of the film is there once before its last one stays
    expect(seen[0]).toBeNull()
    expect([...new Set(seen.filter((number) => number !== null))]).toEqual([...Array(50).keys()])
  })
  test('in a bundle, as it came, with all that was set, and comes back', async () => {
    const lecture = await app.newLecture()
    await dropMade(lecture.slides[0]!.id, 'bundled.mp4', { frames: 20 })
    const [film] = filmsOf(await again(lecture), 0)
    await change(film!, { place: { x: 0.1, y: 0.2, width: 0.5, height: 0.5 }, loops: true, waits: false })
    const answer = await app.ask(`/api/lectures/${lecture.id}/bundle`)
    const { lecture: copy } = await app.imported(new File([await answer.arrayBuffer()], 'copy.lectern.zip'))
    const [back] = filmsOf(copy, 0)
    const { id: _, ...expected } = filmsOf(await again(lecture), 0)[0]!
    expect(back).toMatchObject(expected)
  })

  test('in no presentation that would be too large for this machine', async () => {
    const lecture = await app.newLecture()
    await dropMade(lecture.slides[0]!.id, 'heavy.mp4', { frames: 10 })
    const store = Object.create(app.context.store, { size: { value: () => Promise.resolve(400 * 1024 ** 2) } }) as FileStore
    const written = narratedPresentation({ ...app.context, store }, await again(lecture), new AbortController().signal)
    await expect(written).rejects.toThrow('The films of this lecture are 400 MB together; 150 go into a presentation.')
  })

  longTest('in a narrated presentation, as a film, which is one again when that is brought in', async () => {
    const lecture = await app.newLecture()
    await app.record(lecture.slides[0]!.id, madeTake().samples)
    await dropMade(lecture.slides[0]!.id, 'shown.mp4', { frames: 50, tone: 0.3 })
    const [film] = filmsOf(await again(lecture), 0)
    await change(film!, { place: { x: 0.25, y: 0.25, width: 0.5, height: 0.5 } })
    const answer = await app.ask(`/api/lectures/${lecture.id}/pieces/presentation.pptx`)
    expect(answer.ok).toBe(true)
    const { lecture: copy } = await app.imported(new File([await answer.arrayBuffer()], 'narrated.pptx'))
    expect(copy.slides[0]!.warnings.map(inWords)).toEqual([])
    const [back] = filmsOf(copy, 0)
    expect(back).toMatchObject({ problem: null, voice: 'over', shown: { frames: 50, rate: [25, 1] } })
    expect(back!.place!.x).toBeCloseTo(0.25, 2)
    expect(back!.place!.width).toBeCloseTo(0.5, 2)
    expect(copy.slides[0]!.takes).toHaveLength(1)
  })
})
