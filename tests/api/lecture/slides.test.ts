import sharp from 'sharp'
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import type { Card } from '#core/model/slide.ts'
import { schedule } from '#core/timing/schedule.ts'
import { demoFile, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { madeTake } from '#tests/made/sound.ts'

let app: TestApp
let lecture: Lecture
beforeAll(async () => {
  app = await openTestApp()
})
beforeEach(async () => {
  lecture = await app.newLecture()
})
afterAll(() => app.end())

const again = async () => app.read<Lecture>(`/api/lectures/${lecture.id}`)
const titles = async () => (await again()).slides.map((s) => s.title)
const said = async (answer: Response) => ((await answer.json()) as { error: string }).error
const card: Card = { heading: 'Part two', line: 'What falls out of them', colours: 'spruce' }

describe('text slides', () => {
  test('one is drawn at the published size, described, and put where it was asked for', async () => {
    const { id } = lecture.slides[1]!
    const answer = await app.json('POST', `/api/lectures/${lecture.id}/cards`, { afterSlideId: id, card })
    expect(answer.status).toBe(200)
    const made = (await again()).slides[2]!
    expect(made).toMatchObject({ title: 'Part two', altText: 'Part two. What falls out of them', card, takes: [] })
    expect(made.steps[0]).toMatchObject({ width: 1920, height: 1080 })
    expect(await titles()).toHaveLength(5)
  })
  test('it may come first, and what is typed is never too long for its picture', async () => {
    const long = { ...card, heading: `${'Donaudampfschifffahrtsgesellschaft '.repeat(4)}`.trim() }
    expect((await app.json('POST', `/api/lectures/${lecture.id}/cards`, { afterSlideId: null, card: long })).status).toBe(200)
    const { steps, title } = (await again()).slides[0]!
    expect(title).toBe(long.heading)
    // nothing is painted at the edges: all corners and borders are the ground colour
    const { data, info } = await sharp(await app.context.store.read(steps[0]!.picture))
      .raw()
      .toBuffer({ resolveWithObject: true })
    const pixel = (x: number, y: number) =>
      data.subarray((y * info.width + x) * info.channels, (y * info.width + x) * info.channels + 3)
    for (let y = 0; y < info.height; y += 4) {
      expect(pixel(1910, y)).toEqual(pixel(0, 0))
      expect(pixel(100, y)).toEqual(pixel(0, 0))
    }
    for (let x = 0; x < info.width; x += 4) {
      expect(pixel(x, 20)).toEqual(pixel(0, 0))
      expect(pixel(x, 1060)).toEqual(pixel(0, 0))
    }
  })
  test('without a heading it is refused with a sentence', async () => {
    const answer = await app.json('POST', `/api/lectures/${lecture.id}/cards`, {
      afterSlideId: null,
      card: { ...card, heading: ' ' },
    })
    expect(answer.status).toBe(422)
    expect(await said(answer)).toContain('needs a heading')
  })
})

test('a copy has pictures and script and comes right after; recordings stay with the original', async () => {
  const { id } = lecture.slides[0]!
  await app.json('PATCH', `/api/slides/${id}`, { script: 'Clouds have names.', timing: { leadSeconds: 0.3 } })
  await app.record(id, madeTake().samples)
  await app.json('POST', `/api/slides/${id}/copy`, {})
  const [original, copy] = (await again()).slides
  expect(copy).toMatchObject({ title: original!.title, script: 'Clouds have names.', timing: { leadSeconds: 0.3 }, takes: [] })
  expect(copy!.steps[0]!.picture).toBe(original!.steps[0]!.picture)
  expect(original!.takes).toHaveLength(1)
})

describe('pictures of a slide', () => {
  const arrange = (slides: { id: string; steps: string[]; deleted: boolean }[]) =>
    app.json('PUT', '/api/slides/steps', { slides })
  test('pages become steps of one slide and go back, with nothing lost', async () => {
    const [a, b, c] = lecture.slides as [Lecture['slides'][0], Lecture['slides'][0], Lecture['slides'][0]]
    const step = (s: Lecture['slides'][0]) => s.steps[0]!.id
    const grouped = await arrange([
      { id: a.id, steps: [step(a), step(b), step(c)], deleted: false },
      { id: b.id, steps: [], deleted: true },
      { id: c.id, steps: [], deleted: true },
    ])
    expect(grouped.status).toBe(200)
    expect((await again()).slides[0]!.steps.map((s) => s.picture)).toEqual([a, b, c].map((s) => s.steps[0]!.picture))
    expect(await titles()).toHaveLength(2)
    await arrange([a, b, c].map((s) => ({ id: s.id, steps: [step(s)], deleted: false })))
    expect(await again()).toEqual(lecture)
  })
  test('a slide with a recording is not swallowed', async () => {
    const [a, b] = lecture.slides as [Lecture['slides'][0], Lecture['slides'][0]]
    await app.record(b.id, madeTake().samples)
    const answer = await arrange([
      { id: a.id, steps: [a.steps[0]!.id, b.steps[0]!.id], deleted: false },
      { id: b.id, steps: [], deleted: true },
    ])
    expect(answer.status).toBe(409)
    expect(await said(answer)).toContain('Delete its takes first')
    expect(await titles()).toHaveLength(4)
  })
  test('another picture takes the place of the old one; script, captions and sound stay; undoing brings the old one back', async () => {
    const [slide] = lecture.slides as [Lecture['slides'][0]]
    await app.json('PATCH', `/api/slides/${slide.id}`, { script: 'Clouds have names.' })
    await app.record(slide.id, madeTake().samples)
    const before = await again()
    const form = new FormData()
    const png = await sharp({ create: { width: 1600, height: 900, channels: 3, background: '#A8660F' } })
      .png()
      .toBuffer()
    form.append('file', new File([png as BlobPart], 'new.png'))
    const answer = (await (await app.ask(`/api/slides/${slide.id}/pictures`, { method: 'POST', body: form })).json()) as {
      stepId: string
    }
    expect(await again()).toEqual(before)
    await arrange([{ id: slide.id, steps: [answer.stepId], deleted: false }])
    const after = await again()
    expect(after.slides[0]!.steps).toHaveLength(1)
    expect(after.slides[0]!.steps[0]).toMatchObject({ id: answer.stepId, width: 1600 })
    expect(after.slides[0]!.takes).toEqual(before.slides[0]!.takes)
    expect(after.captionTracks).toEqual(before.captionTracks)
    await arrange([{ id: slide.id, steps: [slide.steps[0]!.id], deleted: false }])
    expect((await again()).slides).toEqual(before.slides)
  })
  test('what is no picture is refused by its content', async () => {
    const form = new FormData()
    form.append('file', new File([demoFile('clouds-by-their-shapes.pdf') as BlobPart], 'slide.png'))
    const answer = await app.ask(`/api/slides/${lecture.slides[0]!.id}/pictures`, { method: 'POST', body: form })
    expect(answer.status).toBe(415)
    expect(await said(answer)).toContain('“slide.png” is no picture')
  })
  test("pictures of another lecture's slides are not taken", async () => {
    const other = await app.newLecture()
    const answer = await arrange([{ id: lecture.slides[0]!.id, steps: [other.slides[0]!.steps[0]!.id], deleted: false }])
    expect(answer.status).toBe(404)
  })
})

test('pace, transition and a slide’s own exceptions are kept, and can be cleared', async () => {
  const change = (body: unknown) => app.json('PATCH', `/api/lectures/${lecture.id}`, body)
  await change({ timing: { ...lecture.timing, paceSeconds: 20 }, transition: { kind: 'wipe', seconds: 0.5 } })
  const { id } = lecture.slides[1]!
  await app.json('PATCH', `/api/slides/${id}`, {
    timing: { paceSeconds: null, holdSeconds: 7 },
    transition: { kind: 'none', seconds: 0.5 },
  })
  const now = await again()
  const { slides } = schedule(now)
  expect(slides.map((s) => Math.round(s.lengthSamples / 48_000))).toEqual([20, 7, 20, 20])
  expect(slides.map((s) => s.transition?.kind ?? null)).toEqual([null, null, 'wipe', 'wipe'])
  await app.json('PATCH', `/api/slides/${id}`, { timing: {}, transition: null })
  expect((await again()).slides[1]).toMatchObject({ timing: {}, transition: null })
  expect((await change({ transition: { kind: 'wipe', seconds: 9 } })).status).toBe(422)
})

test('moments of steps are kept with the take', async () => {
  const { id } = lecture.slides[0]!
  const take = await app.record(id, madeTake().samples)
  const step = lecture.slides[1]!.steps[0]!.id
  await app.json('PUT', `/api/takes/${take}/stepMoments`, { [step]: 2.5 })
  expect((await again()).slides[0]!.takes[0]!.stepMoments).toEqual({ [step]: 2.5 })
})
