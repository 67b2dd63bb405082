/** Transitions, steps and beds in the published file, read back by the media tool. */
import { execFileSync } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { stepStarts } from '#core/timing/steps.ts'
import type { JobView } from '#server/events/job-view.ts'
import { file, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { lay, madeTake, seconds, sine } from '#tests/made/sound.ts'

let app: TestApp
let lecture: Lecture
let video: string

const COLOURS = ['#c02020', '#20a020', '#2020c0', '#c0c020']

beforeAll(async () => {
  app = await openTestApp()
  const pages = await Promise.all(
    COLOURS.map(async (background, i) =>
      file(
        `page ${i + 1}.png`,
        await sharp({ create: { width: 1920, height: 1080, channels: 3, background } })
          .png()
          .toBuffer(),
      ),
    ),
  )
  const job = await app.addDeck(...pages)
  const id = (job.result as { lectureId: string }).lectureId
  lecture = await app.read<Lecture>(`/api/lectures/${id}`)
  const [a, b, c] = lecture.slides as [Lecture['slides'][0], Lecture['slides'][0], Lecture['slides'][0]]
  // red · green, then blue, as steps of one slide · yellow
  await app.json('PUT', '/api/slides/steps', {
    slides: [
      { id: b.id, steps: [b.steps[0]!.id, c.steps[0]!.id], deleted: false },
      { id: c.id, steps: [], deleted: true },
    ],
  })
  await app.json('PATCH', `/api/lectures/${id}`, { transition: { kind: 'cross-fade', seconds: 0.5 } })
  await app.record(b.id, madeTake().samples)
  const form = new FormData()
  form.append(
    'file',
    file('music.wav', writeWav(toInt16(lay(sine(2000, 0.3, seconds(4)), sine(2500, 0.1, seconds(4)), 0)), 48_000)),
  )
  form.append('fromSlideId', a.id)
  form.append('toSlideId', b.id)
  const { job: bed } = (await (await app.ask(`/api/lectures/${id}/beds`, { method: 'POST', body: form })).json()) as {
    job: JobView
  }
  await app.ended(bed.id)
  const bedId = (await app.read<Lecture>(`/api/lectures/${id}`)).beds[0]!.id
  await app.json('PATCH', `/api/beds/${bedId}`, { fadeOutSeconds: 0.2 })
  const made = (await (await app.json('POST', `/api/lectures/${id}/editions`, {})).json()) as { job: JobView }
  expect(await app.ended(made.job.id)).toMatchObject({ state: 'done' })
  lecture = await app.read<Lecture>(`/api/lectures/${id}`)
  const { editions } = await app.read<{ editions: { id: string }[] }>(`/api/lectures/${id}/editions`)
  video = join(app.dataFolder, 'judged.mp4')
  writeFileSync(video, Buffer.from(await (await app.ask(`/api/editions/${editions[0]!.id}/files/video.mp4`)).arrayBuffer()))
  colours = readColours()
}, 120_000)
afterAll(() => app.end())

/** Mean colour of each sixtieth of a second, read once. */
let colours: number[][]
const colourAt = (moment: number) => colours[Math.round(moment * 60)]!
const readColours = () => {
  const filter = 'scale=4:4,fps=60,format=yuv444p'
  const raw = execFileSync('ffmpeg', ['-loglevel', 'error', '-i', video, '-vf', filter, '-f', 'rawvideo', 'pipe:1'])
  return Array.from({ length: raw.length / 48 }, (_, frame) => {
    const [y, u, v] = [0, 16, 32].map((plane) => raw[frame * 48 + plane + 5]!) as [number, number, number]
    // ITU-R BT.709-6, item 3.3 and 3.4, limited range: back from luma and colour differences to red, green and blue
    const [luma, blue, red] = [(y - 16) / 219, (u - 128) / 224, (v - 128) / 224]
    return [luma + 1.5748 * red, luma - 0.1873 * blue - 0.4681 * red, luma + 1.8556 * blue].map((c) => 255 * c)
  })
}
const nearTo = (colour: number[], wanted: string) =>
  Math.max(...colour.map((v, i) => Math.abs(v - Number.parseInt(wanted.slice(1 + 2 * i, 3 + 2 * i), 16))))

test('each picture is seen in its time, and a step appears within a frame of its moment', () => {
  const { slides } = schedule(lecture)
  const [red, two, yellow] = slides.map((s) => toSeconds(s.startSamples)) as [number, number, number]
  const step = two + stepStarts(lecture.slides[1]!, slides[1]!)[1]!.at
  for (const [moment, colour] of [
    [red + 0.1, COLOURS[0]!],
    [two - 0.05, COLOURS[0]!],
    [two + 0.6, COLOURS[1]!],
    [step - 0.05, COLOURS[1]!],
    [step + 0.05, COLOURS[2]!],
    [yellow - 0.05, COLOURS[2]!],
    [yellow + 0.6, COLOURS[3]!],
  ] as const)
    expect(nearTo(colourAt(moment), colour)).toBeLessThan(8)
})

test('half way through a cross-fade both pictures are seen alike', () => {
  const start = toSeconds(schedule(lecture).slides[1]!.startSamples)
  const half = colourAt(start + 0.25)
  const mean = [0xc0 + 0x20, 0x20 + 0xa0, 0x20 + 0x20].map((sum) => sum / 2)
  expect(Math.max(...half.map((v, i) => Math.abs(v - mean[i]!)))).toBeLessThan(16)
})

test('the bed plays before the voice, gives way by 14 dB under it, and is gone on the slide after its run', () => {
  const raw = execFileSync(
    'ffmpeg',
    [
      '-loglevel',
      'error',
      '-i',
      video,
      '-af',
      'bandpass=f=2000:width_type=h:w=60',
      '-f',
      'f32le',
      '-ac',
      '1',
      '-ar',
      '48000',
      'pipe:1',
    ],
    { maxBuffer: 1 << 28 },
  )
  const samples = new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length))
  const level = (from: number, to: number) => {
    let sum = 0
    for (let i = seconds(from); i < seconds(to); i++) sum += samples[i]! ** 2
    return 10 * Math.log10(sum / seconds(to - from) + 1e-12)
  }
  const [, two, yellow] = schedule(lecture).slides.map((s) => toSeconds(s.startSamples)) as [number, number, number]
  const alone = level(1.5, 4)
  // between the two phrases of the made-up take the music stays down: nothing else sounds there at 2 kHz
  const lead = toSeconds(schedule(lecture).slides[1]!.leadSamples)
  const under = level(two + lead + 1.75, two + lead + 2.15)
  expect(alone - under).toBeGreaterThan(12.5)
  expect(alone - under).toBeLessThan(15.5)
  expect(level(yellow + 0.5, yellow + 2)).toBeLessThan(alone - 50)
})

test('the picture and the sound end together, at the end of the schedule', () => {
  const probed = JSON.parse(
    execFileSync('ffprobe', ['-loglevel', 'error', '-show_streams', '-of', 'json', video], { encoding: 'utf8' }),
  )
  const wanted = toSeconds(schedule(lecture).lengthSamples)
  for (const stream of probed.streams.filter(
    (s: { codec_type: string }) => s.codec_type !== 'subtitle' && s.codec_type !== 'data',
  ))
    expect(Math.abs(Number(stream.duration) - wanted)).toBeLessThan(1024 / 48_000)
})
