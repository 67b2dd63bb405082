/** Everything out again: bundles there and back, pieces, narrated presentation files, and the command line over them. */
import { spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { Bundle } from '#core/bundle/bundle.ts'
import { readPresentation } from '#core/deck/ooxml/presentation.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { stepStarts } from '#core/timing/steps.ts'
import type { JobView } from '#server/events/job-view.ts'
import { demoFile, file, inWords, openTestApp, type TestApp, workers } from '#tests/api/harness.ts'
import { makeDeck } from '#tests/made/deck-maker.ts'
import { faultsOfSlide } from '#tests/made/pml-schema.ts'
import { madeTake } from '#tests/made/sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { built, lectern as call } from '#tests/support/cli.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = test.runIf(IS_LONG)

let app: TestApp
let lecture: Lecture
const folder = mkdtempSync(join(tmpdir(), 'lectern-out-'))
const at = (name: string) => join(folder, name)
const FIXTURE = join(import.meta.dirname, '../../fixtures/bundle-1.lectern.zip')
const bytesOf = async (path: string) => {
  const answer = await app.ask(path)
  if (answer.status !== 200) throw new Error(await answer.text())
  return new Uint8Array(await answer.arrayBuffer())
}

beforeAll(async () => {
  app = await openTestApp()
  const picture = await sharp({ create: { width: 64, height: 36, channels: 3, background: '#335577' } })
    .png()
    .toBuffer()
  const job = await app.addDeck(file('gauge.pptx', await makeDeck({ picture })))
  const { lectureId } = job.result as { lectureId: string }
  const { slides } = await app.read<Lecture>(`/api/lectures/${lectureId}`)
  await app.json('PATCH', `/api/slides/${slides[0]!.id}`, {
    timing: { leadSeconds: 0.4 },
    transition: { kind: 'wipe', seconds: 0.4 },
  })
  const take = await app.record(slides[0]!.id, madeTake().samples)
  await app.record(slides[0]!.id, madeTake({ seed: 4 }).samples)
  await app.record(slides[1]!.id, madeTake({ seed: 5 }).samples)
  await app.json('PUT', `/api/takes/${take}/bookmarks`, { bookmarks: [{ at: 1.5, title: 'Here' }] })
  await app.json('PATCH', `/api/slides/${slides[0]!.id}`, { keptTakeId: take })
  const form = new FormData()
  form.append('file', file('music.flac', demoFile('opening-music.flac')))
  form.append('fromSlideId', slides[0]!.id)
  form.append('toSlideId', slides[1]!.id)
  const bed = (await (await app.ask(`/api/lectures/${lectureId}/beds`, { method: 'POST', body: form })).json()) as {
    job: JobView
  }
  await app.ended(bed.job.id)
  await app.idle()
  lecture = await app.read<Lecture>(`/api/lectures/${lectureId}`)
})
afterAll(async () => {
  await app.end()
  rmSync(folder, { recursive: true, force: true })
})

/** What a lecture is, without names that are new in every copy. */
function essence(bundle: Bundle): unknown {
  const names = new Map<string, string>()
  return JSON.parse(
    JSON.stringify(bundle).replace(/[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}/g, (id) => {
      if (!names.has(id)) names.set(id, `id ${names.size}`)
      return names.get(id)!
    }),
  )
}
const bundleOf = (zip: Uint8Array) => Bundle.parse(JSON.parse(Buffer.from(unzipSync(zip)['bundle.json']!).toString()))
const sorted = (bundle: Bundle): Bundle => {
  const order = new Map(bundle.slides.map((slide, i) => [slide.id, i]))
  return {
    ...bundle,
    takes: bundle.takes.toSorted((a, b) => order.get(a.slideId)! - order.get(b.slideId)! || a.number - b.number),
    captionTracks: bundle.captionTracks.map((track) => ({
      ...track,
      cues: track.cues.toSorted((a, b) => order.get(a.slideId)! - order.get(b.slideId)! || a.start - b.start),
    })),
  }
}

describe('bundles', () => {
  test('a lecture goes out and comes in again with nothing lost: pictures, recordings, recipes, captions, beds', async () => {
    const first = await bytesOf(`/api/lectures/${lecture.id}/bundle`)
    const job = await app.addDeck(file('copy.lectern.zip', first))
    expect(job.error).toBeNull()
    await app.idle()
    const { lectureId } = job.result as { lectureId: string }
    expect(lectureId).not.toBe(lecture.id)
    const second = await bytesOf(`/api/lectures/${lectureId}/bundle`)
    expect(essence(sorted(bundleOf(second)))).toEqual(essence(sorted(bundleOf(first))))
    const copy = await app.read<Lecture>(`/api/lectures/${lectureId}`)
    expect(copy.slides.map((slide) => keptTake(slide)?.clip?.sound)).toEqual(
      lecture.slides.map((slide) => keptTake(slide)?.clip?.sound),
    )
    expect(copy.beds[0]!.samples).toBe(lecture.beds[0]!.samples)
    expect(schedule(copy).lengthSamples).toBe(schedule(lecture).lengthSamples)
  })

  test('captions lie in it as WebVTT for other programs', async () => {
    const files = unzipSync(await bytesOf(`/api/lectures/${lecture.id}/bundle`))
    expect(Buffer.from(files[`captions/1.${lecture.language}.vtt`]!).toString()).toMatch(/^WEBVTT\n/)
  })

  test.each([1, 2, 3])('a bundle of version %i opens, whatever version this is', async (version) => {
    const job = await app.addDeck(file('old.lectern.zip', readFileSync(FIXTURE.replace('-1.', `-${version}.`))))
    expect(job.error).toBeNull()
    await app.idle()
    const old = await app.read<Lecture>(`/api/lectures/${(job.result as { lectureId: string }).lectureId}`)
    expect(old.title).toBe('A lecture of version 1')
    expect(old.slides).toHaveLength(2)
    expect(keptTake(old.slides[0]!)!.clip).not.toBeNull()
    expect(old.captionTracks[0]!.cues.length).toBeGreaterThan(0)
    expect(old.captionTracks[0]!.cues[0]).toMatchObject({ scriptText: 'Clouds have names.', manualEdit: null })
    expect(old.slides[0]!.takes[0]!.analysis!.noiseFloorDb).toBeLessThan(-40)
  })

  test('a damaged one, and one of the future, get a sentence and leave nothing', async () => {
    const before = (await app.read<{ lectures: unknown[] }>('/api/lectures')).lectures.length
    const { zipSync, strToU8 } = await import('fflate')
    const parts = unzipSync(readFileSync(FIXTURE))
    const said = JSON.parse(Buffer.from(parts['bundle.json']!).toString()) as Record<string, unknown>
    const refusal = async (change: object, without?: RegExp) => {
      const kept = Object.fromEntries(Object.entries(parts).filter(([name]) => !without?.test(name)))
      const zip = zipSync({ ...kept, 'bundle.json': strToU8(JSON.stringify({ ...said, ...change })) })
      return inWords((await app.addDeck(file('b.lectern.zip', zip))).error)
    }
    expect(await refusal({ version: 99 })).toMatch(/newer Tidy Lectern/)
    expect(await refusal({ slides: 'none' })).toMatch(/is damaged: slides/)
    expect(await refusal({}, /^takes\//)).toMatch(/is damaged: “takes\/.*” is not in it/)
    expect((await app.read<{ lectures: unknown[] }>('/api/lectures')).lectures.length).toBe(before)
  })
})

describe('pieces', () => {
  test.each(['wav', 'flac', 'mp3', 'm4a'])('sounds of all slides as %s, with names that sort', async (format) => {
    const files = unzipSync(await bytesOf(`/api/lectures/${lecture.id}/pieces/sounds-${format}`))
    expect(Object.keys(files)).toEqual([`01 How a rain gauge works.${format}`, `02 What is inside.${format}`])
    writeFileSync(at(`piece.${format}`), files[`01 How a rain gauge works.${format}`]!)
    const probe = spawnSync('ffprobe', [
      '-v',
      'error',
      '-show_entries',
      'format=duration',
      '-of',
      'csv=p=0',
      at(`piece.${format}`),
    ])
    const clip = keptTake(lecture.slides[0]!)!.clip!
    expect(Math.abs(Number(probe.stdout.toString()) - toSeconds(clip.samples))).toBeLessThan(0.1)
  })
  test('pictures, scripts and times', async () => {
    const pictures = unzipSync(await bytesOf(`/api/lectures/${lecture.id}/pieces/pictures-png`))
    // hidden slides are not shown
    expect(Object.keys(pictures)).toHaveLength(11)
    const [jpeg] = Object.values(unzipSync(await bytesOf(`/api/lectures/${lecture.id}/pieces/pictures-jpeg`)))
    expect(await sharp(jpeg).metadata()).toMatchObject({ format: 'jpeg', width: 1920, height: 1080 })
    const text = async (piece: string) => Buffer.from(await bytesOf(`/api/lectures/${lecture.id}/pieces/${piece}`)).toString()
    expect(await text('script.md')).toContain('## What is inside\n\nThe gauge has four parts.')
    expect(await text('script.txt')).toContain('1. How a rain gauge works\nGood evening, and welcome.')
    const rows = (await text('timings.csv')).trim().split('\r\n')
    expect(rows[0]).toBe('slide,title,start,length')
    expect(rows[10]).toMatch(/^10,"Two boxes, turned text",/)
    const [, second] = schedule(lecture).slides
    expect(rows[2]).toBe(
      `2,What is inside,${toSeconds(second!.startSamples).toFixed(3)},${toSeconds(second!.lengthSamples).toFixed(3)}`,
    )
  })
})

test('a narrated presentation file is read back with its notes, sounds and times, equal to the millisecond', async () => {
  const files = unzipSync(await bytesOf(`/api/lectures/${lecture.id}/pieces/presentation.pptx`))
  const deck = readPresentation(new Map(Object.entries(files)), 'out.pptx')
  const times = new Map(schedule(lecture).slides.map((one) => [one.slideId, one]))
  const of = (slide: Lecture['slides'][number]) => times.get(slide.id)
  expect(deck.slides.map((slide) => slide.advanceMs)).toEqual(
    lecture.slides.map((slide) => (of(slide) ? Math.round(toSeconds(of(slide)!.lengthSamples) * 1000) : null)),
  )
  expect(deck.slides.map((slide) => slide.notes)).toEqual(lecture.slides.map((slide) => slide.script))
  expect(deck.slides.map((slide) => slide.hidden)).toEqual(lecture.slides.map((slide) => slide.hidden))
  expect(deck.slides.map((slide) => slide.sound !== null)).toEqual(lecture.slides.map((slide) => slide.takes.length > 0))
  const sound = deck.slides[0]!.sound!
  writeFileSync(at('first.m4a'), files[sound]!)
  const probe = spawnSync('ffprobe', ['-v', 'error', '-show_entries', 'format=duration', '-of', 'csv=p=0', at('first.m4a')])
  expect(Math.abs(Number(probe.stdout.toString()) - toSeconds(of(lecture.slides[0]!)!.lengthSamples))).toBeLessThan(0.05)
  const xml = Buffer.from(files['ppt/slides/slide1.xml']!).toString()
  expect(Object.keys(files).filter((name) => /slides\/slide\d+\.xml$/.test(name))).toHaveLength(lecture.slides.length)
  for (let i = 1; i <= lecture.slides.length; i++)
    expect(faultsOfSlide(Buffer.from(files[`ppt/slides/slide${i}.xml`]!).toString())).toEqual([])
  // and the judge finds faults where there are any
  expect(faultsOfSlide(xml.replace(/<p:transition spd="\w+"/, '<p:transition spd="soon"'))).toEqual([
    '/p:sld/p:transition: spd="soon"',
  ])
  expect(faultsOfSlide(xml.replace(/<p:prevCondLst>.*<\/p:prevCondLst>/, ''))).toEqual([])
  expect(faultsOfSlide(xml.replace(/(<p:cTn id="1".*<\/p:cTn>)(<\/p:par>)/, '$1$1$2'))[0]).toMatch(/children “cTn cTn”/)
  const target = /<p:cMediaNode.*?spid="(\d+)"/.exec(xml)![1]
  expect(xml).toMatch(new RegExp(`<p:cNvPr id="${target}"(?:(?!</p:pic>)[\\s\\S])*<a:audioFile `))
})

test('what a narrated presentation file says of its slides comes back: titles, descriptions, sections, changes, pictures in turn', async () => {
  const { slides } = lecture
  const [, , , second, third] = slides
  // two slides become one of two pictures
  await app.json('PUT', '/api/slides/steps', {
    slides: [
      { id: second!.id, steps: [second!.steps[0]!.id, third!.steps[0]!.id], deleted: false },
      { id: third!.id, steps: [], deleted: true },
    ],
  })
  await app.json('PATCH', `/api/slides/${second!.id}`, {
    transition: { kind: 'push', seconds: 0.6 },
    altText: 'A gauge, cut open',
  })
  const now = await app.read<Lecture>(`/api/lectures/${lecture.id}`)
  const files = unzipSync(await bytesOf(`/api/lectures/${lecture.id}/pieces/presentation.pptx`))
  const deck = readPresentation(new Map(Object.entries(files)), 'out.pptx')
  expect(deck).toMatchObject({ title: now.title, language: now.language })
  expect(deck.slides.map(({ title }) => title)).toEqual(now.slides.map(({ title }) => title))
  expect(deck.slides[3]!.altText).toBe('A gauge, cut open')
  expect(deck.slides[3]!.transition).toMatchObject({ kind: 'push' })
  expect(deck.slides.map(({ section }) => section)).toEqual(now.slides.map(({ section }) => section))
  const scheduled = schedule(now).slides.find(({ slideId }) => slideId === second!.id)!
  const [, later] = stepStarts(now.slides[3]!, scheduled)
  expect(deck.slides[3]!.steps).toHaveLength(1)
  expect(deck.slides[3]!.steps[0]!.afterSeconds).toBeCloseTo(later!.at, 2)
  expect(deck.slides.flatMap(({ warnings }) => warnings)).toEqual([])

  const text = (name: string) => Buffer.from(files[name]!).toString()
  // what it names is there, and nothing tells who wrote it (ECMA-376, part 2, §10.1.2)
  for (const [, name] of text('[Content_Types].xml').matchAll(/PartName="\/([^"]+)"/g)) expect(Object.keys(files)).toContain(name)
  expect(text('docProps/app.xml') + text('docProps/core.xml')).not.toMatch(/pptx|office theme|microsoft office/i)
  // §19.2.1.26: masters of notes before slides
  expect(text('ppt/presentation.xml')).toMatch(/<\/p:sldMasterIdLst><p:notesMasterIdLst>.*<p:sldIdLst>/)
  expect(text('ppt/slides/slide1.xml')).toMatch(/<p:ph[^>]*type="title"/)
  const script = now.slides.findIndex((slide) => slide.script.includes('\n'))
  if (script >= 0) expect(deck.slides[script]!.notes).toBe(now.slides[script]!.script)
  // and the lecture is as it was
  await app.json('PUT', '/api/slides/steps', {
    slides: [
      { id: second!.id, steps: [second!.steps[0]!.id], deleted: false },
      { id: third!.id, steps: [third!.steps[0]!.id], deleted: false },
    ],
  })
})

longTest('a bundle is taken out and brought in by the command line while the app records, and disturbs nothing', async () => {
  const { randomUUID } = await import('node:crypto')
  const takeId = randomUUID()
  await app.begin(takeId, lecture.slides[3]!.id)
  const chunks = chunksOf(madeTake().samples)
  await app.sendChunk(takeId, 0, chunks[0]!)
  const half = app.context.store.scratchPath('.half')
  writeFileSync(half, 'not whole yet')
  const env = { LECTERN_DATA: app.dataFolder }
  expect(built(['export', lecture.id, '-o', at('out.lectern.zip')], { env })).toMatchObject({ status: 0 })
  const brought = built(['import', at('out.lectern.zip'), '--json'], { env })
  expect(brought.status).toBe(0)
  expect(existsSync(half)).toBe(true)
  const [open] = (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[3]!.takes
  expect(open).toMatchObject({ id: takeId, state: 'recording', recovered: false })
  await app.sendChunk(takeId, 1, chunks[1]!)
  expect((await app.seal(takeId, 2)).ok).toBe(true)
  await app.idle()
  const { lectureId } = JSON.parse(brought.stdout) as { lectureId: string }
  expect((await app.read<Lecture>(`/api/lectures/${lectureId}`)).slides).toHaveLength(lecture.slides.length)
  expect(await call(['export', 'no such title', '-o', at('x.zip')], { env, workers })).toMatchObject({
    status: 1,
    stderr: expect.stringContaining('There is no lecture'),
  })
})

describe('lectern make', () => {
  longTest(
    'a folder with a deck, sounds and a script becomes a video with captions; a second run encodes only what changed',
    async () => {
      const talk = at('talk')
      mkdirSync(talk)
      writeFileSync(join(talk, 'deck.pdf'), demoFile('clouds-by-their-shapes.pdf'))
      writeFileSync(join(talk, 'slide 1.wav'), writeWav(toInt16(madeTake().samples), 48_000))
      writeFileSync(join(talk, '02 high.wav'), writeWav(toInt16(madeTake({ seed: 9 }).samples), 48_000))
      writeFileSync(
        join(talk, 'script.md'),
        '## One\n\nClouds have names. High ones are thin.\n\n## Two\n\nThin and white. They are made of ice.\n',
      )
      const first = built(['make', talk, '-o', at('talk.mp4'), '--json'])
      expect(first.stderr).toBe('')
      expect(first.status).toBe(0)
      const told = JSON.parse(first.stdout.trim().split('\n').at(-1)!) as { slides: number; seconds: number }
      expect(told.slides).toBe(4)
      const probe = spawnSync('ffprobe', ['-v', 'error', '-show_entries', 'format=duration', '-of', 'csv=p=0', at('talk.mp4')])
      expect(Math.abs(Number(probe.stdout.toString()) - told.seconds)).toBeLessThan(0.02)
      expect(readFileSync(at('talk.vtt'), 'utf8')).toContain('Clouds have names.')
      expect((JSON.parse(readFileSync(at('talk.json'), 'utf8')) as { chapters: unknown[] }).chapters).toHaveLength(4)
      expect(existsSync(join(talk, '.lectern'))).toBe(true)
      // again, with a media tool that writes down what it is asked for: nothing is encoded that was encoded before
      const log = at('calls')
      const counted = at('ffmpeg')
      writeFileSync(counted, `#!/bin/bash\necho "$*" >> ${log}\nexec ffmpeg "$@"\n`, { mode: 0o755 })
      const before = readFileSync(at('talk.mp4'))
      const calls = async (...words: string[]) => {
        rmSync(log, { force: true })
        const { status, stderr } = await call(['make', talk, '-o', at('talk.mp4'), ...words], {
          env: { LECTERN_FFMPEG: counted },
          workers,
        })
        expect(stderr).toBe('')
        expect(status).toBe(0)
        return readFileSync(log, 'utf8').match(/-c:v libx264|-c:a aac/g)?.length ?? 0
      }
      expect(await calls()).toBe(0)
      expect(readFileSync(at('talk.mp4')).length).toBe(before.length)
      // one sound that is another one: one part, and no picture
      writeFileSync(join(talk, '02 high.wav'), writeWav(toInt16(madeTake({ seed: 11 }).samples), 48_000))
      expect(await calls()).toBe(1)
      if (IS_LONG) expect(await calls('--no-cache')).toBeGreaterThan(4)
    },
  )
  test('what is missing is said, and wrong usage is 2', async () => {
    expect(await call(['make', at('nowhere'), '-o', at('x.mp4')])).toMatchObject({
      status: 1,
      stderr: expect.stringContaining('There is no folder'),
    })
    mkdirSync(at('empty'))
    expect((await call(['make', at('empty'), '-o', at('x.mp4'), '--no-cache'])).stderr).toContain('holds no deck')
    expect((await call(['make', at('empty')])).status).toBe(2)
    expect(existsSync(at('x.mp4'))).toBe(false)
  })
  test('where a recording changes slide', async () => {
    writeFileSync(at('long.wav'), writeWav(toInt16(madeTake().samples), 48_000))
    const { stdout, status } = await call(['split', at('long.wav'), '--slides', '2', '--json'])
    expect(status).toBe(0)
    const [, second] = (JSON.parse(stdout) as { slides: { start: number; inPause: boolean }[] }).slides
    // the made take says its second phrase from 3.3 s on, after a pause from 2.5 s
    expect(second!.start).toBeGreaterThan(2.4)
    expect(second!.start).toBeLessThan(3.35)
    expect(second!.inPause).toBe(true)
    expect((await call(['split', at('long.wav')])).status).toBe(2)
  })
})
