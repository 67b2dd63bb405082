/** Bundles that are large, changed, forged or made otherwise than usual: nothing of a lecture is lost, and nothing of another one is touched. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { strToU8, unzipSync, zipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { ALIGN_VERSION } from '#core/captions/align/align.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { schedule } from '#core/timing/schedule.ts'
import { file, inWords, openTestApp, type TestApp } from '#tests/api/harness.ts'

let app: TestApp
beforeAll(async () => {
  app = await openTestApp()
})
afterAll(() => app.end())

const parts = unzipSync(readFileSync(join(import.meta.dirname, '../../fixtures/bundle-1.lectern.zip')))
// biome-ignore lint/suspicious/noExplicitAny: forged in every place
type Said = any
const said = (): Said => JSON.parse(Buffer.from(parts['bundle.json']!).toString())
const zipped = (bundle: Said, files: Record<string, Uint8Array> = parts) =>
  zipSync({ ...files, 'bundle.json': strToU8(JSON.stringify(bundle)) })

async function broughtIn(zip: Uint8Array): Promise<Lecture> {
  const job = await app.addDeck(file('b.lectern.zip', zip))
  expect(job.error).toBeNull()
  await app.idle()
  return app.read<Lecture>(`/api/lectures/${(job.result as { lectureId: string }).lectureId}`)
}
async function takenOut(lecture: Lecture): Promise<Uint8Array> {
  return new Uint8Array(await (await app.ask(`/api/lectures/${lecture.id}/bundle`)).arrayBuffer())
}

test('a bundle whose description is longer than 100,000 bytes comes in on the shelf with its takes, scripts and captions', async () => {
  const long = said()
  for (const slide of long.slides) slide.script = `${slide.script} ${'One more word. '.repeat(3250)}`
  const zip = zipped(long)
  expect(unzipSync(zip)['bundle.json']!.length).toBeGreaterThan(100_000)
  const lecture = await broughtIn(zip)
  expect(lecture.title).toBe('A lecture of version 1')
  expect(lecture.slides.map((slide) => slide.script)).toEqual(long.slides.map((slide: Said) => slide.script))
  expect(lecture.slides.flatMap((slide) => slide.takes)).toHaveLength(long.takes.length)
})

test('a lecture with every setting other than usual is as long after the way out and in, and its slides follow it as before', async () => {
  const job = await app.addDeck(file('one.md', '# One slide\n\nWith a line.\n\n---\n\n# Another\n\nWith its own rest.'))
  const { lectureId } = job.result as { lectureId: string }
  const timing = { leadSeconds: 1.5, tailSeconds: 2.5, holdSeconds: 11, minimumSeconds: 3, paceSeconds: 20 }
  await app.json('PATCH', `/api/lectures/${lectureId}`, { timing, transition: { kind: 'wipe', seconds: 0.7 } })
  const before = await app.read<Lecture>(`/api/lectures/${lectureId}`)
  await app.json('PATCH', `/api/slides/${before.slides[1]!.id}`, { timing: { paceSeconds: null, holdSeconds: 7 } })
  const lecture = await app.read<Lecture>(`/api/lectures/${lectureId}`)
  const copy = await broughtIn(await takenOut(lecture))
  expect(schedule(copy).slides.map((slide) => slide.lengthSamples)).toEqual(
    schedule(lecture).slides.map((slide) => slide.lengthSamples),
  )
  expect(schedule(copy).slides[0]!.lengthSamples / 48_000).toBeGreaterThanOrEqual(20)
  expect(copy.timing).toEqual(timing)
  expect(copy.slides.map((slide) => slide.timing)).toEqual([{}, { paceSeconds: null, holdSeconds: 7 }])
})

describe('a bundle that was changed or forged gets a sentence and leaves nothing', () => {
  const refusal = async (change: (bundle: Said) => void, files = parts) => {
    const bundle = said()
    change(bundle)
    return inWords((await app.addDeck(file('b.lectern.zip', zipped(bundle, files)))).error)
  }
  test('bytes of a recording', async () => {
    const name = Object.keys(parts).find((entry) => entry.startsWith('takes/'))!
    const bytes = parts[name]!.slice()
    bytes[bytes.length >> 1]! ^= 1
    expect(await refusal(() => {}, { ...parts, [name]: bytes })).toMatch(
      /“takes\/.*” is not what it was when the bundle was made/,
    )
  })
  test('a picture under the name of another', async () => {
    const [one, other] = Object.keys(parts).filter((entry) => entry.startsWith('pictures/')) as [string, string]
    expect(await refusal(() => {}, { ...parts, [one]: parts[other]! })).toMatch(/is not what it was/)
  })
  test('a length that its recording has not', async () => {
    expect(await refusal((bundle) => bundle.takes[0].samples--)).toMatch(/tidyUp reaches past|is not whole/)
    expect(await refusal((bundle) => bundle.takes[0].samples++)).toMatch(/is not whole/)
  })
  test('what points to nothing, or is there twice', async () => {
    const other = '11111111-1111-4111-8111-111111111111'
    expect(await refusal((bundle) => (bundle.takes[0].slideId = other))).toMatch(
      /takes\.0\.slideId names a slide that is not in it/,
    )
    expect(await refusal((bundle) => (bundle.slides[1].id = bundle.slides[0].id))).toMatch(/slides\.1\.id is there twice/)
    expect(await refusal((bundle) => (bundle.slides[1].keptTakeId = bundle.slides[0].keptTakeId))).toMatch(
      /keptTakeId names a take/,
    )
    expect(await refusal((bundle) => bundle.takes.push({ ...bundle.takes[0], id: other }))).toMatch(
      /takes\.\d+\.number is there twice on its slide/,
    )
    expect(await refusal((bundle) => (bundle.captionTracks[0].cues[0].slideId = other))).toMatch(/cues\.0\.slideId names a slide/)
  })
  test('an alignment that is none', async () => {
    const broken = { version: ALIGN_VERSION, language: 'en', script: '', alignment: { sentences: 'none' } }
    expect(await refusal((bundle) => (bundle.takes[0].alignment = broken))).toMatch(/takes\.0\.alignment\.alignment\.sentences/)
  })
  test('nothing of them is on the shelf, and no take went to another lecture', async () => {
    const { lectures } = await app.read<{ lectures: { title: string }[] }>('/api/lectures')
    expect(lectures.filter((lecture) => lecture.title === 'A lecture of version 1')).toHaveLength(1)
  })
})

test('a take that names a slide of a lecture that is here already never goes there', async () => {
  const here = await broughtIn(zipped(said()))
  const forged = said()
  forged.slides[0].id = here.slides[0]!.id
  for (const take of forged.takes) if (take.slideId === said().slides[0].id) take.slideId = here.slides[0]!.id
  for (const track of forged.captionTracks)
    for (const cue of track.cues) if (cue.slideId === said().slides[0].id) cue.slideId = here.slides[0]!.id
  const takes = here.slides[0]!.takes.length
  const copy = await broughtIn(zipped(forged))
  expect(copy.slides[0]!.id).not.toBe(here.slides[0]!.id)
  expect(copy.slides[0]!.takes).toHaveLength(takes)
  expect((await app.read<Lecture>(`/api/lectures/${here.id}`)).slides[0]!.takes).toHaveLength(takes)
})

test('a lecture that cannot be read is shown as such, and the others work', async () => {
  const bad = await broughtIn(zipped(said()))
  const { takes } = await import('#server/db/schema.ts')
  await app.context.db.write((tx) => tx.update(takes).set({ analysis: { speech: 'none' } as never }))
  const good = await app.newLecture()
  const answer = await app.ask('/api/lectures')
  expect(answer.status).toBe(200)
  const { lectures, unreadable } = (await answer.json()) as Record<'lectures' | 'unreadable', { id: string }[]>
  expect(unreadable).toContainEqual({ id: bad.id, title: bad.title, problem: { id: expect.stringMatching(/cannot be read/) } })
  expect(lectures.map((lecture) => lecture.id)).toContain(good.id)
})
