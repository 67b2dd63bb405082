/** Takes by their words on the real server: what was said, what of it are slips, and where cuts are placed. */
import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { PlacedCut } from '#core/audio/tidy-up/place-cut.ts'
import type { Slip } from '#core/captions/spoken/find-slips.ts'
import type { SpokenWord } from '#core/captions/spoken/spoken-words.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { HeardSound } from '#core/model/take.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { takes, tidyUps } from '#server/db/schema.ts'
import { renewHeardSounds } from '#server/domain/takes/spoken.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { SLIPPING_SCRIPT, type Slipping, slipping } from '#tests/made/slipping.ts'

interface Spoken {
  words: SpokenWord[]
  sounds: HeardSound[]
  slips: Slip[]
  isTimed: boolean
}

let app: TestApp
let lecture: Lecture
let takeId: string
let made: Slipping
const spoken = () => app.read<Spoken>(`/api/takes/${takeId}/words`)
beforeAll(async () => {
  app = await openTestApp()
  lecture = await app.newLecture()
  made = await slipping()
  await app.json('PATCH', `/api/slides/${lecture.slides[0]!.id}`, { script: SLIPPING_SCRIPT })
  takeId = await app.record(lecture.slides[0]!.id, made.samples)
  await app.idle()
})
afterAll(() => app.end())

const near = (a: { start: number; end: number }, b: { start: number; end: number }) =>
  Math.abs(a.start - b.start) < 0.25 && Math.abs(a.end - b.end) < 0.25

test('what was said stands word by word, what was begun in vain too', async () => {
  const { words, isTimed } = await spoken()
  expect(isTimed).toBe(true)
  const text = (kind: string) =>
    words
      .filter((word) => word.kind === kind)
      .map((word) => word.text)
      .join(' ')
  expect(text('script')).toBe(SLIPPING_SCRIPT)
  expect(text('beginning')).toMatch(/^If you drop it,/)
})

test('the slips of a lecture are found where they are, and nothing else', async () => {
  const { takes: found } = await app.read<{ takes: { takeId: string; isHeard: boolean; slips: Slip[] }[] }>(
    `/api/lectures/${lecture.id}/slips`,
  )
  expect(found.map((take) => [take.takeId, take.isHeard])).toEqual([[takeId, true]])
  const { slips } = found[0]!
  expect(slips.map(({ kind }) => kind)).toEqual(['begun-anew', 'filled-pause', 'cough'])
  const [anew, um, cough] = slips
  expect(near(anew!, made.anew)).toBe(true)
  expect(near(um!, made.um)).toBe(true)
  expect(near(cough!, made.cough)).toBe(true)
})

test('cuts are placed in the rests beside the words; asking changes nothing', async () => {
  const { slips } = await spoken()
  const cuts = slips.map(({ words }) => words!)
  const answer = await app.json('POST', `/api/takes/${takeId}/cuts`, { cuts })
  const { placed } = (await answer.json()) as { placed: PlacedCut[] }
  for (const [i, truth] of [made.anew, made.um, made.cough].entries()) {
    const { cut, isHeard } = placed[i]!
    expect(isHeard).toBe(false)
    expect(toSeconds(cut.start)).toBeLessThan(truth.start + 0.02)
    expect(toSeconds(cut.start)).toBeGreaterThan(truth.start - 0.5)
    expect(toSeconds(cut.end)).toBeGreaterThan(truth.end - 0.05)
    expect(toSeconds(cut.end)).toBeLessThan(truth.end + 0.6)
  }
  const [take] = (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[0]!.takes
  expect(take!.tidyUp!.cuts).toEqual([])
})

test('a script is spoken for a page that follows it; points, too long ones and languages without a voice are not', async () => {
  const speak = (script: string, language = 'en') => app.json('POST', '/api/scripts/spoken', { script, language })
  const answer = await speak('Nothing is lost. Keep the stick dry.')
  const bytes = await answer.arrayBuffer()
  const size = new DataView(bytes).getUint32(0, true)
  const head = JSON.parse(new TextDecoder().decode(bytes.slice(4, 4 + size))) as { words: { text: string }[]; frames: number }
  expect(head.words.map(({ text }) => text).join(' ')).toBe('Nothing is lost. Keep the stick dry.')
  expect(bytes.byteLength - 4 - size).toBe(2 * 24 * head.frames)
  expect((await speak('• Funnel\n• Tube')).status).toBe(204)
  expect((await speak('Nothing.', 'tlh')).status).toBe(204)
  expect((await speak('n'.repeat(6001))).status).toBe(422)
})

describe('bad questions', () => {
  test.each([
    [{ cuts: [] }, 422],
    [{ cuts: [{ before: null, first: -1, last: 5, after: null }] }, 422],
    [{ cuts: [{ before: null, first: 1.5, last: 5, after: null }] }, 422],
    [{}, 422],
  ])('%j', async (body, status) => {
    expect((await app.json('POST', `/api/takes/${takeId}/cuts`, body)).status).toBe(status)
  })
  test('a take that is gone is told', async () => {
    const gone = '00000000-0000-4000-8000-000000000000'
    expect((await app.ask(`/api/takes/${gone}/words`)).status).toBe(404)
    const cuts = [{ before: null, first: 0, last: 5, after: null }]
    expect((await app.json('POST', `/api/takes/${gone}/cuts`, { cuts })).status).toBe(404)
  })
})

test('words go to another slide: a new take there holds both, sample for sample, with all that was decided about its own', async () => {
  const slides = async () => (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides
  const other = (await slides())[2]!
  await app.json('PUT', `/api/takes/${takeId}/bookmarks`, { bookmarks: [{ at: made.cough.start + 1, title: 'Reading' }] })
  const cut = { start: Math.round(made.cough.start * 48_000), end: made.samples.length }
  const move = async () => {
    const answer = await app.json('POST', '/api/takes/moved', { takeId, cut, slideId: other.id, at: 'start' })
    expect(answer.status).toBe(202)
    await app.idle()
    const slide = (await slides())[2]!
    return slide.takes.find(({ id }) => id === slide.keptTakeId)!
  }
  const samples = async (id: string, start: number, end: number) =>
    new Int16Array(await (await app.ask(`/api/takes/${id}/samples?start=${start}&end=${end}`)).arrayBuffer())
  // a slide without a take begins with them
  const first = await move()
  expect(first.samples).toBe(cut.end - cut.start)
  // what learners are led to goes with its words
  expect(first.bookmarks).toEqual([{ at: expect.closeTo(1, 3), title: 'Reading' }])
  // one with a take gets them beside it
  const decided = { ...first.tidyUp!, cuts: [{ start: 30_000, end: 40_000 }], cleaning: 0.2 }
  await app.json('PUT', `/api/takes/${first.id}/tidyUp`, decided)
  await app.idle()
  const second = await move()
  const length = cut.end - cut.start
  expect(second.samples).toBe(2 * length)
  expect(second.tidyUp!.cleaning).toBe(0.2)
  expect(second.tidyUp!.cuts).toContainEqual({ start: 30_000 + length, end: 40_000 + length })
  expect(await samples(second.id, 0, 5000)).toEqual(await samples(takeId, cut.start, cut.start + 5000))
  expect(await samples(second.id, length, length + 5000)).toEqual(await samples(first.id, 0, 5000))
  // the takes it came of are as they were
  expect((await slides())[2]!.takes).toHaveLength(2)
  expect((await slides())[0]!.takes[0]!.tidyUp!.cuts).toEqual([])
})

test('words do not take the place of a recording that is still being tidied: that is told, and nothing changes', async () => {
  const other = lecture.slides[3]!
  const fresh = await app.record(other.id, made.samples.slice(0, 96_000))
  await app.idle()
  // as it is before its tidying has ended
  await app.context.db.write(async (tx) => {
    await tx.update(takes).set({ analysis: null }).where(eq(takes.id, fresh))
    await tx.delete(tidyUps).where(eq(tidyUps.takeId, fresh))
  })
  const before = (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[3]!
  const words = { takeId, cut: { start: 0, end: 48_000 }, slideId: other.id, at: 'end' }
  const { job } = (await (await app.json('POST', '/api/takes/moved', words)).json()) as { job: { id: string } }
  await app.idle()
  const { jobs } = await app.read<{ jobs: { id: string; state: string }[] }>('/api/jobs')
  expect(jobs.find(({ id }) => id === job.id)!.state).toBe('failed')
  const after = (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[3]!
  expect(after.keptTakeId).toBe(before.keptTakeId)
  expect(after.takes).toHaveLength(1)
})

test('words of a take that is gone cannot be moved, and that is told', async () => {
  const gone = '00000000-0000-4000-8000-000000000000'
  const words = { takeId: gone, cut: { start: 0, end: 5 }, slideId: gone, at: 'end' }
  expect((await app.json('POST', '/api/takes/moved', words)).status).toBe(404)
  expect((await app.json('POST', '/api/takes/moved', { ...words, takeId, at: 'middle' })).status).toBe(422)
})

test('takes of an earlier version are listened to at the next start, and their words stay', async () => {
  await app.context.db.write((tx) => tx.update(takes).set({ heardSounds: null }).where(eq(takes.id, takeId)))
  expect((await spoken()).sounds).toEqual([])
  await renewHeardSounds(app.context, app.queue)
  await app.idle()
  const { sounds, words } = await spoken()
  expect(sounds.map(({ kind }) => kind)).toContain('cough')
  expect(words.length).toBeGreaterThan(20)
})

test('without a script the sounds are found, and words that are typed by ear are told roughly', async () => {
  const slide = lecture.slides[1]!
  takeId = await app.record(slide.id, made.samples)
  await app.idle()
  const before = await spoken()
  // what is said between the sounds stands there too, though nobody knows its words
  expect(before.words.length).toBeGreaterThanOrEqual(3)
  expect(before.words.every(({ kind, text }) => kind === 'unknown' && text === '')).toBe(true)
  for (const { start, end } of [made.um, made.cough])
    expect(before.words.some((word) => word.start < end - 0.1 && word.end > start + 0.1)).toBe(false)
  // words that nobody knows may sound like one, too
  for (const truth of [made.um, made.cough]) expect(before.slips.some((slip) => near(slip, truth))).toBe(true)
  const track = (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).captionTracks.find((t) => t.origin === 'script')!
  const cue = {
    id: '5b0c1a3e-5a5c-4a5e-9f43-2a1d6f0a9b12',
    takeId,
    start: 1,
    end: 2,
    text: 'Lower <i>the</i> stick.',
    settings: '',
    needsReview: false,
    scriptText: '',
    manualEdit: 'time',
    markup: null,
  }
  await app.json('PUT', `/api/captions/${track.id}/slides/${slide.id}`, { cues: [cue] })
  const { words, isTimed } = await spoken()
  expect(isTimed).toBe(false)
  expect(words.map(({ text }) => text)).toEqual(['Lower', 'the', 'stick.'])
})
