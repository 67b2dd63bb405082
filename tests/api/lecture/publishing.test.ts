/** What an edition holds, read by others than its makers. */
import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { unzipSync } from 'fflate'
import { ALL_FORMATS, FilePathSource, Input } from 'mediabunny'
import { createFile, type MP4BoxBuffer } from 'mp4box'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { EditionManifest } from '#core/edition/manifest.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { editions, takes } from '#server/db/schema.ts'
import { finishedPictures } from '#server/encode/pictures.ts'
import type { JobView } from '#server/events/job-view.ts'
import { file, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { madeTake } from '#tests/made/sound.ts'
import { ebur128 } from '#tests/reference/ebur128.ts'
import { meanDifference } from '#tests/support/difference.ts'
import { framesOf } from '#tests/support/frames.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = test.runIf(IS_LONG)

let app: TestApp
let lecture: Lecture
let folder: string
let manifest: EditionManifest
let editionId: string
const path = (name: string) => join(folder, name)
const probe = (name: string) =>
  JSON.parse(
    execFileSync('ffprobe', [
      ...['-v', 'error', '-print_format', 'json', '-show_format', '-show_streams', '-show_chapters', path(name)],
    ]).toString(),
  ) as {
    format: { duration: string; tags: Record<string, string> }
    streams: { codec_type: string; codec_name: string; duration?: string; width?: number; height?: number; channels?: number }[]
    chapters: { start_time: string; end_time: string; tags: { title: string } }[]
  }
const framesAt = (name: string, moments: readonly number[]) => framesOf(path(name), moments)
const pixels = async (name: string, moment: number) => framesAt(name, [moment])[0]!

async function publish(): Promise<{ editionId: string; number: number }> {
  const { job } = (await (await app.json('POST', `/api/lectures/${lecture.id}/editions`, {})).json()) as { job: JobView }
  const ended = await app.ended(job.id)
  if (ended.state !== 'done') throw new Error(ended.error?.id ?? ended.state)
  return ended.result as { editionId: string; number: number }
}
const make = (exportSettings: object) => app.json('PATCH', `/api/lectures/${lecture.id}`, { exportSettings })
const EVERY = { presets: ['standard', 'small', 'everywhere', 'open'], height: 720, mp3: true, author: 'A. Teacher' }

async function keep(id: string) {
  for (const { name } of manifest.files ?? []) {
    const answer = await app.ask(`/api/editions/${id}/files/${name}`)
    writeFileSync(path(name), Buffer.from(await answer.arrayBuffer()))
  }
}

beforeAll(async () => {
  app = await openTestApp({ webFolder: join(import.meta.dirname, '../../../dist/web') })
  folder = mkdtempSync(join(tmpdir(), 'lectern-edition-'))
  lecture = await app.newLecture()
  const [first, second] = lecture.slides
  await app.json('PATCH', `/api/slides/${first!.id}`, { script: 'Clouds have names. High ones are thin and white.' })
  const take = await app.record(first!.id, madeTake().samples)
  await app.record(second!.id, madeTake({ seed: 5 }).samples)
  const spoken = (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[0]!.takes[0]!.analysis!.speech[1]!.start
  await app.json('PUT', `/api/takes/${take}/bookmarks`, { bookmarks: [{ at: toSeconds(spoken), title: 'High clouds' }] })
  const chapters = new FormData()
  chapters.append('file', file('chapters.vtt', 'WEBVTT\n\n00:00.000 --> 00:01.000\nLes nuages\n'))
  chapters.append('language', 'fr')
  chapters.append('kind', 'chapters')
  await app.ask(`/api/lectures/${lecture.id}/captions`, { method: 'POST', body: chapters })
  await make(EVERY)
  ;({ editionId } = await publish())
  manifest = await app.read<EditionManifest>(`/api/editions/${editionId}/files/manifest.json`)
  lecture = await app.read<Lecture>(`/api/lectures/${lecture.id}`)
  await keep(editionId)
})
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true })
  await app.end()
})

describe('videos', () => {
  const length = () => toSeconds(schedule(lecture).lengthSamples)

  test.each(['video.mp4', 'video-small.mp4', 'video-everywhere.mp4', 'video.webm'])(
    'three independent readers agree on the length of %s',
    async (name) => {
      const input = new Input({ source: new FilePathSource(path(name)), formats: ALL_FORMATS })
      const video = (await input.getPrimaryVideoTrack())!
      const sound = (await input.getPrimaryAudioTrack())!
      // Opus ends on a frame of its own of 20 ms
      const tolerance = name.endsWith('webm') ? 0.025 : 0.001
      // blocks of WebM do not say how long their frame is shown: the last lasts until the file ends
      if (!name.endsWith('webm')) expect(Math.abs((await video.computeDuration()) - length())).toBeLessThan(tolerance)
      expect(Math.abs((await sound.computeDuration()) - length())).toBeLessThan(tolerance)
      input.dispose()
      expect(Math.abs(Number(probe(name).format.duration) - length())).toBeLessThan(tolerance)
      if (name.endsWith('webm')) return
      const box = createFile()
      let told = 0
      box.onReady = (info) => {
        told = info.duration / info.timescale
      }
      const bytes = readFileSync(path(name))
      const buffer = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length) as MP4BoxBuffer
      buffer.fileStart = 0
      box.appendBuffer(buffer)
      expect(Math.abs(told - length())).toBeLessThan(0.025)
    },
  )

  test('each is what its kind promises', () => {
    const stream = (name: string, kind: string) => probe(name).streams.find((s) => s.codec_type === kind)!
    expect(stream('video.mp4', 'video')).toMatchObject({ codec_name: 'h264', width: 1280, height: 720 })
    expect(stream('video.mp4', 'audio')).toMatchObject({ codec_name: 'aac', channels: 2 })
    expect(stream('video-small.mp4', 'audio')).toMatchObject({ codec_name: 'aac', channels: 1 })
    expect(stream('video.webm', 'video')).toMatchObject({ codec_name: 'vp9' })
    expect(stream('video.webm', 'audio')).toMatchObject({ codec_name: 'opus' })
    expect(stream('video.webm', 'subtitle')).toMatchObject({ codec_name: 'webvtt' })
    expect(stream('video.mp4', 'subtitle')).toMatchObject({ codec_name: 'mov_text' })
  })

  test.each(['video.mp4', 'video-small.mp4', 'video-everywhere.mp4', 'video.webm', 'sound.m4a', 'sound.mp3'])(
    '%s is decoded from end to end without a word from the decoder',
    (name) => {
      const told = execFileSync('bash', [
        '-c',
        `ffmpeg -v warning -xerror -i "${path(name)}" -fps_mode passthrough -f null - 2>&1`,
      ]).toString()
      expect(told).toBe('')
    },
  )

  test('the one for everywhere has a constant rate and a key frame every 2 s', async () => {
    const input = new Input({ source: new FilePathSource(path('video-everywhere.mp4')), formats: ALL_FORMATS })
    const { EncodedPacketSink } = await import('mediabunny')
    const times: number[] = []
    const keys: number[] = []
    for await (const packet of new EncodedPacketSink((await input.getPrimaryVideoTrack())!).packets()) {
      times.push(packet.timestamp)
      if (packet.type === 'key') keys.push(packet.timestamp)
    }
    input.dispose()
    const apart = times.slice(1).map((t, i) => t - times[i]!)
    expect(Math.min(...apart)).toBeCloseTo(0.1, 4)
    expect(Math.max(...apart)).toBeCloseTo(0.1, 4)
    expect(Math.max(...keys.slice(1).map((t, i) => t - keys[i]!))).toBeLessThan(2.001)
  })

  test.each(['video.mp4', 'video-everywhere.mp4', 'video.webm'])('%s shows each slide in its time', async (name) => {
    const { slides } = schedule(lecture)
    const moments = slides.flatMap(({ startSamples, lengthSamples }) =>
      [0.1, toSeconds(lengthSamples) / 2, toSeconds(lengthSamples) - 0.1].map((at) => toSeconds(startSamples) + at),
    )
    const frames = framesAt(name, moments)
    for (const [i, { slideId }] of slides.entries()) {
      const wanted = await sharp(
        Buffer.from(
          await (
            await app.ask(`/api/files/${lecture.slides.find((s) => s.id === slideId)!.steps[0]!.picture}.png`)
          ).arrayBuffer(),
        ),
      )
        .resize(1280, 720)
        .removeAlpha()
        .raw()
        .toBuffer()
      for (const { data } of frames.slice(3 * i, 3 * i + 3)) expect(meanDifference(data, wanted)).toBeLessThan(3)
    }
  })

  test('a file is kept under the title of its lecture', async () => {
    const [edition] = (await app.read<{ editions: { id: string }[] }>(`/api/lectures/${lecture.id}/editions`)).editions
    const named = async (name: string) =>
      decodeURIComponent(
        (await app.ask(`/api/editions/${edition!.id}/files/${name}`, { method: 'HEAD' })).headers.get('content-disposition')!,
      )
    expect(await named('video.mp4')).toContain(`${lecture.title}.mp4`)
    expect(await named('video-small.mp4')).toContain(`${lecture.title}, small.mp4`)
    expect(await named('sound.m4a')).toContain(`${lecture.title}, sound.m4a`)
  })

  test('chapters are the slides, with the bookmark under its own, as ffprobe and the manifest have them', () => {
    const starts = schedule(lecture).slides.map((s) => s.startSamples)
    const { chapters } = probe('video.mp4')
    expect(chapters.map((c) => c.tags.title)).toEqual([
      lecture.slides[0]!.title,
      'High clouds',
      ...lecture.slides.slice(1).map((s) => s.title),
    ])
    const slides = chapters.filter((c) => c.tags.title !== 'High clouds')
    for (const [i, chapter] of slides.entries())
      expect(Math.abs(toSamples(Number(chapter.start_time)) - starts[i]!)).toBeLessThan(48)
    const [bookmark] = manifest.chapters[0]!.bookmarks!
    expect(Math.abs(Number(chapters[1]!.start_time) - toSeconds(bookmark!.startSamples))).toBeLessThan(0.001)
    expect(probe('sound.mp3').chapters).toHaveLength(chapters.length)
    expect(probe('sound.m4a').chapters).toHaveLength(chapters.length)
    expect(probe('video.webm').chapters).toHaveLength(chapters.length)
    expect(probe('video.mp4').format.tags).toMatchObject({ title: lecture.title, artist: 'A. Teacher' })
  })

  longTest('every kind is as loud to the ear as the manifest says, by ebur128-wasm on the decoded files', async () => {
    for (const name of ['video.mp4', 'video-small.mp4', 'video-everywhere.mp4', 'video.webm', 'sound.m4a', 'sound.mp3']) {
      const { channels } = probe(name).streams.find((stream) => stream.codec_type === 'audio')!
      const decode = ['-v', 'error', '-i', path(name), '-map', '0:a', '-f', 'f32le', '-ar', '48000', '-']
      const pcm = execFileSync('ffmpeg', decode, { maxBuffer: 1 << 30 })
      const all = new Float32Array(pcm.buffer.slice(pcm.byteOffset, pcm.byteOffset + pcm.length))
      // one channel is given to both loudspeakers as it is: Web Audio API, §4.4, up-mixing of mono to stereo
      const side = (c: number) =>
        Float32Array.from({ length: all.length / channels! }, (_, i) => all[channels! * i + (channels === 1 ? 0 : c)]!)
      const measured = await ebur128(side(0), side(1))
      expect([name, Math.abs(measured.integrated - manifest.loudnessLufs!) < 0.3]).toEqual([name, true])
      expect([name, measured.truePeak < -0.7]).toEqual([name, true])
      expect(Math.abs(manifest.loudnessLufs! + 16)).toBeLessThan(0.5)
    }
  })
})

describe('other files', () => {
  test('the manifest names every file with its length and hash', () => {
    for (const { name, bytes, sha256 } of manifest.files!) {
      if (name.endsWith('.webp')) continue
      const content = readFileSync(path(name))
      expect(content.length).toBe(bytes)
      expect(createHash('sha256').update(content).digest('hex')).toBe(sha256)
    }
  })

  test('what the teacher was told to look at is in the app and in nothing that learners can fetch', async () => {
    expect(manifest).not.toHaveProperty('checks')
    expect(manifest).not.toHaveProperty('passed')
    const [row] = await app.context.db.read.select().from(editions).where(eq(editions.id, editionId))
    expect(row!.manifest.checks.length).toBeGreaterThan(0)
    const { links } = await app.read<{ links: { token: string }[] }>(`/api/lectures/${lecture.id}/editions`)
    const shown = await app.read<object>(`/watch/${links[0]!.token}/files/${editionId}/manifest.json`)
    expect(shown).toMatchObject({ title: lecture.title })
    expect(JSON.stringify(shown)).not.toContain('"checks"')
    const everything = readdirSync(folder).filter((name) => /\.(html|txt|json|vtt|srt)$/.test(name))
    for (const name of everything)
      for (const check of row!.manifest.checks) expect(readFileSync(path(name), 'utf8')).not.toContain(check)
  })

  longTest('many presses of publish at once are one that is made and at most one that waits', async () => {
    const before = (await app.context.db.read.select().from(editions).where(eq(editions.lectureId, lecture.id))).length
    const answers = await Promise.all(
      Array.from({ length: IS_LONG ? 200 : 40 }, () => app.json('POST', `/api/lectures/${lecture.id}/editions`, {})),
    )
    const ids = new Set(await Promise.all(answers.map(async (answer) => ((await answer.json()) as { job: JobView }).job.id)))
    for (const id of ids) await app.ended(id)
    const after = (await app.context.db.read.select().from(editions).where(eq(editions.lectureId, lecture.id))).length
    // one that was begun before the last presses, and one for what may have changed since
    expect(after - before).toBeLessThanOrEqual(2)
  })

  test('the transcript has a heading a slide, its time, and what is said', () => {
    const html = readFileSync(path('transcript.html'), 'utf8')
    expect(html.match(/<h2>/g)).toHaveLength(lecture.slides.length)
    expect(html).toContain('Clouds have names.')
    expect(html).toContain('<time>0:00</time>')
    expect(html).not.toContain('<script')
    expect(readFileSync(path('transcript.txt'), 'utf8')).toContain('High ones are thin and white.')
  })

  test('a hundred who ask for the folder at once get the same one, made once', async () => {
    const before = (await app.context.store.all()).length
    const answers = await Promise.all(Array.from({ length: 100 }, () => app.ask(`/api/editions/${editionId}/folder`)))
    expect(new Set(answers.map((answer) => answer.headers.get('etag'))).size).toBe(1)
    for (const answer of answers) await answer.body?.cancel()
    expect((await app.context.store.all()).length).toBe(before + 1)
    const part = await app.ask(`/api/editions/${editionId}/folder`, { headers: { range: 'bytes=0-3' } })
    expect(part.status).toBe(206)
    expect(Buffer.from(await part.arrayBuffer()).toString('latin1')).toBe('PK\x03\x04')
  })

  test('the web folder holds its page, the video and the captions, and asks for nothing outside', async () => {
    const answer = await app.ask(`/api/editions/${editionId}/folder`)
    const files = unzipSync(new Uint8Array(await answer.arrayBuffer()))
    const names = Object.keys(files).map((name) => name.split('/').slice(1).join('/'))
    for (const name of [
      'index.html',
      'page/watch.js',
      'page/watch.css',
      'page/edition.js',
      'files/video.mp4',
      'files/captions.en.vtt',
      'files/chapters.vtt',
      'files/chapters.fr.vtt',
    ])
      expect(names).toContain(name)
    const root = Object.keys(files)[0]!.split('/')[0]!
    expect(readFileSync(path('video.mp4')).equals(files[`${root}/files/video.mp4`]!)).toBe(true)
    expect(Buffer.from(files[`${root}/files/chapters.fr.vtt`]!).toString()).toContain('Les nuages')
    const html = Buffer.from(files[`${root}/index.html`]!).toString()
    expect(html).not.toMatch(/https?:/)
  })
})

describe('what is drawn into the picture', () => {
  test.each(['png', 'jpeg', 'webp', 'grey png', 'grey with alpha', 'palette', 'gif'])(
    'a crest that is a %s, see-through or not, stands in its corner',
    async (kind) => {
      const red = sharp({ create: { width: 60, height: 60, channels: 3, background: { r: 200, g: 0, b: 0 } } })
      const crest = await {
        png: () => red.png().toBuffer(),
        jpeg: () => red.jpeg().toBuffer(),
        webp: () => red.webp().toBuffer(),
        'grey png': () => red.greyscale().png().toBuffer(),
        'grey with alpha': () => red.greyscale().ensureAlpha(0.9).png().toBuffer(),
        palette: () => red.png({ palette: true }).toBuffer(),
        gif: () => red.gif().toBuffer(),
      }[kind]!()
      const form = new FormData()
      form.append('file', file(`crest.${kind}`, crest))
      const answer = await app.ask(`/api/lectures/${lecture.id}/crests`, { method: 'POST', body: form })
      expect(answer.status).toBe(200)
      const { picture } = (await answer.json()) as { picture: string }
      const slide = lecture.slides[0]!.steps[0]!.picture
      const size = { width: 1280, height: 720 }
      const place = { picture, corner: 'top-right' as const, share: 0.05, opacity: 0.5 }
      const span = { picture: slide, atSamples: 0 } as never
      const [drawn] = await app.context.store.withLocalFiles((lend) => finishedPictures(lend, [span], null, place, size, folder))
      expect(drawn).toBeDefined()
      const { data } = await sharp(drawn)
        .extract({ left: 1280 - 40, top: 40, width: 1, height: 1 })
        .raw()
        .toBuffer({ resolveWithObject: true })
      expect(data[1]).toBeLessThan(200)
    },
  )

  test('captions are there while they are said and not before; the crest stands in its corner', async () => {
    const crest = await sharp({ create: { width: 60, height: 60, channels: 4, background: { r: 200, g: 0, b: 0, alpha: 1 } } })
      .png()
      .toBuffer()
    const form = new FormData()
    form.append('file', new File([new Uint8Array(crest)], 'crest.png'))
    const { picture } = (await (await app.ask(`/api/lectures/${lecture.id}/crests`, { method: 'POST', body: form })).json()) as {
      picture: string
    }
    await make({
      presets: ['standard'],
      height: 720,
      burnedIn: 'en',
      crest: { picture, corner: 'top-right', share: 0.05, opacity: 1 },
    })
    const made = await publish()
    manifest = await app.read<EditionManifest>(`/api/editions/${made.editionId}/files/manifest.json`)
    await keep(made.editionId)
    const vtt = readFileSync(path('captions.en.vtt'), 'utf8')
    const [from] = /(\d\d:\d\d\.\d\d\d) -->/.exec(vtt)!.slice(1)
    const start = Number(from!.split(':')[1])
    const dark = async (seconds: number) => {
      const { data, info } = await pixels('video.mp4', seconds)
      let count = 0
      for (let y = 0; y < info.height; y++) {
        for (let x = 300; x < 980; x++) {
          const at = (y * info.width + x) * 3
          // the caption's box: #1D2A2E at 92 % over paper
          if (Math.abs(data[at]! - 45) < 22 && Math.abs(data[at + 1]! - 56) < 22 && Math.abs(data[at + 2]! - 60) < 22) count++
        }
      }
      return count
    }
    expect(await dark(start + 0.3)).toBeGreaterThan(3000 + (await dark(Math.max(0, start - 0.1))))
    const { data, info } = await pixels('video.mp4', 0.05)
    const at = (30 * info.width + info.width - 40) * 3
    expect(data[at]!).toBeGreaterThan(160)
    expect(data[at + 1]!).toBeLessThan(60)
    await make(EVERY)
  })
})

describe('what is estimated', () => {
  test('once its segments are made, the size of every video is known within 10 %', async () => {
    const { videos } = await app.read<{ videos: { preset: string; bytes: number; ready: number; segments: number }[] }>(
      `/api/lectures/${lecture.id}/estimates`,
    )
    for (const [preset, name] of [
      ['standard', 'video.mp4'],
      ['small', 'video-small.mp4'],
      ['everywhere', 'video-everywhere.mp4'],
    ]) {
      const told = videos.find((v) => v.preset === preset)!
      expect(told.ready).toBe(told.segments)
      const real = (
        await app.read<{ editions: { number: number; files: { name: string; bytes: number }[] }[] }>(
          `/api/lectures/${lecture.id}/editions`,
        )
      ).editions
        .at(-1)!
        .files.find((f) => f.name === name)!.bytes
      expect(Math.abs(told.bytes / real - 1)).toBeLessThan(0.1)
    }
  })
})

test('to publish listens to no take whose captions are timed: what lies between its words can wait', async () => {
  const other = await app.newLecture()
  const [slide] = other.slides
  await app.record(slide!.id, madeTake().samples)
  const { read, write } = app.context.db
  await write((tx) => tx.update(takes).set({ heardSounds: null }).where(eq(takes.slideId, slide!.id)))
  const { job } = (await (await app.json('POST', `/api/lectures/${other.id}/editions`, {})).json()) as { job: JobView }
  expect((await app.ended(job.id)).state).toBe('done')
  expect(await read.select({ heard: takes.heardSounds }).from(takes).where(eq(takes.slideId, slide!.id))).toEqual([
    { heard: null },
  ])
})

test('nothing is left in the scratch folder', () => {
  expect(readdirSync(join(app.dataFolder, 'scratch'))).toEqual([])
})
