/** Recorded straight through: one recording with marks becomes a take on every slide, whatever happens to server and browser. */
import { randomUUID } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { checks } from '#core/edition/checks/checks.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Mark } from '#core/model/marks.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { decodeStored } from '#server/media/pcm.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { firstDifference, lay, noise, seconds, voice } from '#tests/made/sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = test.runIf(IS_LONG)

let app: TestApp
let lecture: Lecture
const s = toSamples
/** Sentences at 0.5, 5 and 10 s, with a slip at 12.5 that is said again at 15. */
const sound = (() => {
  const all = noise(0.002, seconds(19), 3)
  for (const [i, [at, length]] of (
    [
      [0.5, 3.5],
      [5, 4],
      [10, 2],
      [12.5, 1.5],
      [15, 3],
    ] as const
  ).entries())
    lay(all, voice(0.3, seconds(length), i + 1), seconds(at))
  return all
})()
const marksOf = ({ slides }: Lecture): Mark[] => [
  { kind: 'slide', at: s(5.3), slideId: slides[1]!.id },
  { kind: 'step', at: s(7), stepId: slides[2]!.steps[0]!.id },
  { kind: 'slide', at: s(9.2), slideId: slides[3]!.id },
  { kind: 'wrong', at: s(12.1) },
  { kind: 'pick-up', at: s(14.5), from: s(12.2) },
]

async function begin(takeId: string, own: Lecture, marks: Mark[], to: TestApp) {
  const begun = await to.json('PUT', `/api/takes/${takeId}`, {
    slideId: own.slides[0]!.id,
    microphone: 'Test microphone',
    startedAt: Date.now(),
    isContinuous: true,
  })
  expect(begun.status).toBe(200)
  expect((await to.json('PUT', `/api/takes/${takeId}/marks`, { marks })).status).toBe(200)
}
/** The second slide has the third one's picture as its second step. */
async function withStep(own: Lecture, to: TestApp): Promise<Lecture> {
  const [, second, third] = own.slides
  await to.json('PUT', '/api/slides/steps', {
    slides: [
      { id: second!.id, steps: [second!.steps[0]!.id, third!.steps[0]!.id], deleted: false },
      { id: third!.id, steps: [], deleted: true },
    ],
  })
  return to.read<Lecture>(`/api/lectures/${own.id}`)
}

beforeAll(async () => {
  app = await openTestApp()
  lecture = await app.newLecture()
})
afterAll(() => app.end())

longTest('each slide has its part, cut in the pause near the key press, with what was told on it', async () => {
  const marks = marksOf(lecture)
  const [first, second, , fourth] = lecture.slides.map((slide) => slide.id)
  await withStep(lecture, app)
  const takeId = randomUUID()
  await begin(takeId, lecture, marks, app)
  const chunks = chunksOf(sound)
  for (const [i, chunk] of chunks.entries()) await app.sendChunk(takeId, i, chunk)
  expect((await app.seal(takeId, chunks.length)).status).toBe(200)
  await app.idle()

  const made = await app.read<Lecture>(`/api/lectures/${lecture.id}`)
  const take = (id: string | undefined) => made.slides.find((slide) => slide.id === id)!.takes
  expect(made.slides.map((slide) => slide.takes.length)).toEqual([1, 1, 1])
  expect(take(first)[0]).toMatchObject({ number: 1, recovered: false, microphone: 'Test microphone' })
  // whole: the parts one after the other are what was recorded, to the sample
  const parts = await Promise.all([first, second, fourth].map((id) => decodeStored(app.context, take(id)[0]!.sound!)))
  const joined = parts.flatMap((part) => [...part])
  expect(firstDifference(joined, toInt16(sound))).toBe(-1)
  expect(parts[0]!.length / 48_000).toBeGreaterThan(4)
  expect(parts[0]!.length / 48_000).toBeLessThan(5)

  // the further picture, the slip that was said again, and what was marked as wrong
  const began = parts[0]!.length
  expect(take(second)[0]!.stepMoments).toEqual({ [lecture.slides[2]!.steps[0]!.id]: (s(7) - began) / 48_000 })
  const offset = began + parts[1]!.length
  expect(take(fourth)[0]!.tidyUp!.cuts).toEqual([{ start: s(12.2) - offset, end: s(14.5) - offset }])
  const found = checks(made).find((check) => check.kind === 'marked-wrong')!
  expect(found).toMatchObject({ slideId: fourth, fix: { label: 'Cut it out' } })
  // the pause before the slip and the wrong sentence before it are one stretch with it
  expect(found.fix!.tidyUps![0]!.tidyUp.cuts).toEqual([{ start: 0, end: s(14.5) - offset }])

  const { recordings } = await app.read<{ recordings: { id: string; marks: Mark[]; dividedAt: number | null }[] }>(
    `/api/lectures/${lecture.id}/recordings`,
  )
  expect(recordings).toMatchObject([{ id: takeId, marks }])
  // divided anew, also with a slide that has two parts
  const again = await app.json('POST', `/api/recordings/${takeId}/division`, {
    slideIds: [first, second, first],
    boundaries: [s(4.4), s(9.4)],
  })
  const { job } = (await again.json()) as { job: { id: string } }
  expect((await app.ended(job.id)).state).toBe('done')
  await app.idle()
  expect((await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides.map((slide) => slide.takes.length)).toEqual([3, 2, 1])
})

describe('when something fails', () => {
  longTest(
    'a server that ends in the middle has divided what it had; when the browser comes with the rest, all is there',
    async () => {
      let other = await openTestApp()
      const own = await other.newLecture()
      const takeId = randomUUID()
      const marks = marksOf(own).filter((mark) => mark.kind === 'slide')
      await begin(takeId, own, marks.slice(0, 1), other)
      const chunks = chunksOf(sound)
      for (const [i, chunk] of chunks.slice(0, 8).entries()) await other.sendChunk(takeId, i, chunk)
      await other.end(true)
      other = await openTestApp({ dataFolder: other.dataFolder })
      await other.idle()
      const half = await other.read<Lecture>(`/api/lectures/${own.id}`)
      expect(half.slides.map((slide) => slide.takes.map((take) => take.recovered))).toEqual([[true], [true], [], []])

      await begin(takeId, own, marks, other)
      for (const [i, chunk] of chunks.entries()) if (i >= 8) await other.sendChunk(takeId, i, chunk)
      await other.seal(takeId, chunks.length)
      await other.idle()
      const whole = await other.read<Lecture>(`/api/lectures/${own.id}`)
      const newest = whole.slides.map((slide) => slide.takes.find((take) => !take.recovered)?.samples ?? 0)
      expect(newest.reduce((sum, samples) => sum + samples, 0)).toBe(sound.length)
      // what had been put together before is in the whole parts and is let go
      expect(whole.slides.map((slide) => slide.takes.length)).toEqual([1, 1, 0, 1])
      for (const slide of whole.slides) expect(slide.keptTakeId).toBe(slide.takes[0]?.id ?? null)
      await other.end()
    },
  )
  test('marks of a recording that nobody knows are refused', async () => {
    const answer = await app.json('PUT', `/api/takes/${randomUUID()}/marks`, { marks: [] })
    expect(answer.status).toBe(404)
  })
  test('a pick-up on a single take is cut out of it and can be put back', async () => {
    const takeId = randomUUID()
    const slide = (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[2]!
    await app.begin(takeId, slide.id)
    await app.json('PUT', `/api/takes/${takeId}/marks`, { marks: [{ kind: 'pick-up', at: s(14.5), from: s(12.2) }] })
    const chunks = chunksOf(sound)
    for (const [i, chunk] of chunks.entries()) await app.sendChunk(takeId, i, chunk)
    await app.seal(takeId, chunks.length)
    await app.idle()
    const take = (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[2]!.takes.find((t) => t.id === takeId)!
    expect(take.tidyUp!.cuts).toEqual([{ start: s(12.2), end: s(14.5) }])
    expect(take.samples).toBe(sound.length)
  })
})
