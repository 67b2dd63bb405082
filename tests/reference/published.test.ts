/** The published edition, judged by readers and meters that are not ours. */
import { execFileSync } from 'node:child_process'
import { readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ALL_FORMATS, EncodedPacketSink, FilePathSource, Input, type InputTrack } from 'mediabunny'
import sharp, { type Sharp } from 'sharp'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { WebVTTParser } from 'webvtt-parser'
import { heardLoudness, integratedLoudness } from '#core/audio/loudness/loudness.ts'
import { truePeak } from '#core/audio/loudness/true-peak.ts'
import { fromInt16 } from '#core/audio/signal/pcm.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { DEMO_SLIDES } from '#demo/lecture.ts'
import type { JobView } from '#server/events/job-view.ts'
import { decodeStored } from '#server/media/pcm.ts'
import { decodeFlac, samplesOf } from '#server/media/sound-files.ts'
import { demoFile, file, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { ebur128 } from './ebur128.ts'

let app: TestApp
let lecture: Lecture
let video: string
let captions: string
const FRAME_S = 1024 / 48_000

beforeAll(async () => {
  app = await openTestApp()
  const job = await app.addDeck(file('rain.pdf', demoFile('reading-the-rain-gauge.pdf')))
  lecture = await app.read<Lecture>(`/api/lectures/${(job.result as { lectureId: string }).lectureId}`)
  // three slides with recordings of quite different loudness, one of them with hum; one silent slide between
  for (const [slide, take] of [
    [0, 'take-1a.flac'],
    [2, 'take-3a.flac'],
    [4, 'take-5a.flac'],
  ] as const) {
    await app.json('PATCH', `/api/slides/${lecture.slides[slide]!.id}`, { script: DEMO_SLIDES[slide]!.script })
    await app.record(
      lecture.slides[slide]!.id,
      fromInt16(await decodeFlac(app.context.media, join(import.meta.dirname, '../../demo/files', take))),
    )
  }
  for (const slide of [3, 5, 6, 7]) await app.json('PATCH', `/api/slides/${lecture.slides[slide]!.id}`, { hidden: true })
  const made = (await (await app.json('POST', `/api/lectures/${lecture.id}/editions`, {})).json()) as { job: JobView }
  expect(await app.ended(made.job.id)).toMatchObject({ state: 'done' })
  lecture = await app.read<Lecture>(`/api/lectures/${lecture.id}`)
  const { editions } = await app.read<{ editions: { id: string }[] }>(`/api/lectures/${lecture.id}/editions`)
  const get = async (name: string) =>
    Buffer.from(await (await app.ask(`/api/editions/${editions[0]!.id}/files/${name}`)).arrayBuffer())
  video = join(app.dataFolder, 'judged.mp4')
  writeFileSync(video, await get('video.mp4'))
  captions = (await get('captions.en.vtt')).toString()
}, 120_000)
afterAll(() => app.end())

const tracksOf = async () => {
  const input = new Input({ source: new FilePathSource(video), formats: ALL_FORMATS })
  return { picture: (await input.getPrimaryVideoTrack())!, sound: (await input.getPrimaryAudioTrack())! }
}
const decoded = () =>
  samplesOf(
    execFileSync(
      'ffmpeg',
      ['-loglevel', 'error', '-i', video, '-map', '0:a', '-f', 's16le', '-ac', '2', '-ar', '48000', 'pipe:1'],
      { maxBuffer: 1 << 28 },
    ),
  )

describe('the file, by an independent reader (mediabunny)', () => {
  test('every track is as long as the schedule, to within one frame', async () => {
    const wanted = toSeconds(schedule(lecture).lengthSamples)
    const { picture, sound } = await tracksOf()
    for (const track of [picture, sound] as InputTrack[])
      expect(Math.abs((await track.computeDuration()) - wanted)).toBeLessThan(FRAME_S)
  })
  test('it is H.264 High at 1920 × 1080 with AAC-LC at 48 kHz', async () => {
    const { picture, sound } = await tracksOf()
    expect([picture.codec, picture.displayWidth, picture.displayHeight, sound.codec, sound.sampleRate]).toEqual([
      'avc',
      1920,
      1080,
      'aac',
      48_000,
    ])
    expect((await picture.getDecoderConfig())!.codec).toMatch(/^avc1\.64/) // profile_idc 100: ISO/IEC 14496-10, A.2.4
    expect((await sound.getDecoderConfig())!.codec).toBe('mp4a.40.2') // AAC LC: ISO/IEC 14496-3, table 1.17
  })
  test('each slide starts with a key frame at its scheduled moment', async () => {
    const { picture } = await tracksOf()
    const keys: number[] = []
    for await (const packet of new EncodedPacketSink(picture).packets()) if (packet.type === 'key') keys.push(packet.timestamp)
    expect(keys).toHaveLength(schedule(lecture).slides.length)
    for (const [i, s] of schedule(lecture).slides.entries())
      expect(Math.abs(keys[i]! - toSeconds(s.startSamples))).toBeLessThan(0.001)
  })
  test('the index comes before the sound and pictures', () => {
    // ISO/IEC 14496-12, 8.2: moov before mdat lets a player begin before the file is whole
    const bytes = readFileSync(video)
    expect(bytes.indexOf('moov')).toBeGreaterThan(0)
    expect(bytes.indexOf('moov')).toBeLessThan(bytes.indexOf('mdat'))
  })
  test('there is a chapter for each slide and a title (ffprobe)', () => {
    const probed = JSON.parse(
      execFileSync('ffprobe', ['-loglevel', 'error', '-show_chapters', '-show_format', '-of', 'json', video], {
        encoding: 'utf8',
      }),
    )
    const shown = lecture.slides.filter((s) => !s.hidden)
    expect(probed.chapters.map((c: { tags: { title: string } }) => c.tags.title)).toEqual(shown.map((s) => s.title))
    expect(probed.format.tags.title).toBe(lecture.title)
  })
})

describe('the sound, by ebur128-wasm', () => {
  test('it is −16 ± 0.5 LUFS and at most −1 dBTP', async () => {
    const stereo = fromInt16(decoded())
    const [left, right] = [stereo.filter((_, i) => i % 2 === 0), stereo.filter((_, i) => i % 2 === 1)]
    const judged = await ebur128(left, right)
    expect(Math.abs(judged.integrated + 16)).toBeLessThan(0.5)
    expect(judged.truePeak).toBeLessThanOrEqual(-1)
    expect(Math.abs(integratedLoudness([left, right]) - judged.integrated)).toBeLessThan(0.1)
    expect(Math.abs(truePeak(left) - judged.truePeak)).toBeLessThan(0.4)
  })
  test('every slide alone is within ±0.5 LU of the others', () => {
    const stereo = fromInt16(decoded())
    const left = stereo.filter((_, i) => i % 2 === 0)
    const spoken = schedule(lecture).slides.filter((s) => s.clipSamples > 0)
    const levels = spoken.map((s) => heardLoudness(left.subarray(s.startSamples, s.startSamples + s.lengthSamples)))
    expect(Math.max(...levels) - Math.min(...levels)).toBeLessThan(1)
  })
  test('no slide begins early or late: the decoded sound lies where the clips were put, to the sample', async () => {
    const stereo = decoded()
    for (const s of schedule(lecture).slides.filter((slide) => slide.clipSamples > 0)) {
      const take = lecture.slides.find((slide) => slide.id === s.slideId)!.takes[0]!
      const clip = await decodeStored(app.context, take.clip!.sound)
      const at = s.startSamples + s.leadSamples
      const match = (shift: number) => {
        let [xy, xx, yy] = [0, 0, 0]
        for (let i = 0; i < clip.length; i += 3) {
          const [x, y] = [clip[i]!, stereo[(at + i + shift) * 2]!]
          xy += x * y
          xx += x * x
          yy += y * y
        }
        return xy / Math.sqrt(xx * yy)
      }
      const shifts = [-48, -2, -1, 0, 1, 2, 48]
      const best = shifts.reduce((b, shift) => (match(shift) > match(b) ? shift : b))
      expect(best).toBe(0)
      expect(match(0)).toBeGreaterThan(0.98)
    }
  })
})

test('the captions pass the validator of the WebVTT standard (webvtt-parser)', () => {
  const { errors, cues } = new WebVTTParser().parse(captions, 'captions')
  expect(errors).toEqual([])
  expect(cues.length).toBeGreaterThan(5)
})

describe('pages of the PDF, by pdfinfo and pdftoppm (poppler)', () => {
  const deck = join(import.meta.dirname, '../../demo/files/reading-the-rain-gauge.pdf')
  test('there are as many', () => {
    const info = execFileSync('pdfinfo', [deck], { encoding: 'utf8' })
    expect(lecture.slides).toHaveLength(Number(/Pages:\s+(\d+)/.exec(info)![1]))
  })
  test('they look alike', async () => {
    const small = (image: Sharp) => image.blur(1).resize(480, 270, { fit: 'fill' }).greyscale().raw().toBuffer()
    for (const page of [1, 2, 6, 8]) {
      const prefix = join(app.dataFolder, 'page')
      execFileSync('pdftoppm', ['-f', String(page), '-l', String(page), '-r', '144', '-png', '-singlefile', deck, prefix])
      const theirs = await small(sharp(readFileSync(`${prefix}.png`)))
      rmSync(`${prefix}.png`)
      const ours = await small(sharp(await app.context.store.read(lecture.slides[page - 1]!.steps[0]!.picture)))
      expect(meanSsim(theirs, ours, 480, 270)).toBeGreaterThan(0.95)
    }
  })
})

/** Mean structural similarity over 8 × 8 windows. @see Wang, Bovik, Sheikh & Simoncelli 2004, IEEE Trans. IP 13(4), equation 13 */
function meanSsim(a: Buffer, b: Buffer, width: number, height: number): number {
  const [c1, c2] = [(0.01 * 255) ** 2, (0.03 * 255) ** 2]
  let [sum, count] = [0, 0]
  for (let y = 0; y + 8 <= height; y += 4) {
    for (let x = 0; x + 8 <= width; x += 4) {
      let [ma, mb, aa, bb, ab] = [0, 0, 0, 0, 0]
      for (let j = 0; j < 64; j++) {
        const at = (y + (j >> 3)) * width + x + (j & 7)
        const [p, q] = [a[at]!, b[at]!]
        ma += p / 64
        mb += q / 64
        aa += (p * p) / 64
        bb += (q * q) / 64
        ab += (p * q) / 64
      }
      sum += ((2 * ma * mb + c1) * (2 * (ab - ma * mb) + c2)) / ((ma * ma + mb * mb + c1) * (aa - ma * ma + bb - mb * mb + c2))
      count++
    }
  }
  return sum / count
}
