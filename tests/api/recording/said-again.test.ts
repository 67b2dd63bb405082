/** A sentence said again: what was decided about the rest of the take stays, in the places where it is now. */
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { lay, madeTake, noise, seconds, voice } from '#tests/made/sound.ts'

let app: TestApp
beforeAll(async () => {
  app = await openTestApp()
})
afterAll(() => app.end())

test('cuts, louder places, bookmarks and the strength of cleaning go along; those of the replaced sentence do not', async () => {
  const { id, slides } = await app.newLecture()
  const slideId = slides[0]!.id
  const take = async () => {
    const slide = (await app.read<Lecture>(`/api/lectures/${id}`)).slides[0]!
    return slide.takes.find(({ id: takeId }) => takeId === slide.keptTakeId)!
  }
  // phrases at 1 to 2.5 and at 3.3 to 4.5 s
  const takeId = await app.record(slideId, madeTake().samples)
  const range = (start: number, end: number) => ({ start: seconds(start), end: seconds(end) })
  const recipe = {
    ...(await take()).tidyUp!,
    cuts: [range(1.2, 1.4), range(3.6, 3.8)],
    gains: [{ stretch: range(4, 4.4), db: 4 }],
    cleaning: 0.3,
  }
  expect((await app.json('PUT', `/api/takes/${takeId}/tidyUp`, recipe)).status).toBe(200)
  expect((await app.json('PUT', `/api/takes/${takeId}/bookmarks`, { bookmarks: [{ at: 3.4, title: 'Here' }] })).status).toBe(200)
  await app.idle()
  // the first phrase again, twice as long
  const again = await app.record(slideId, lay(noise(0.002, seconds(5), 8), voice(0.3, seconds(3), 5), seconds(1)))
  const said = { takeId, againTakeId: again, text: 'The first.', ...range(1, 2.5) }
  const { job } = (await (await app.json('POST', '/api/takes/again', said)).json()) as { job: { id: string } }
  expect((await app.ended(job.id)).state).toBe('done')
  await app.idle()
  const patched = await take()
  expect(patched.microphone).toMatch(/a sentence said again$/)
  const shift = patched.samples - seconds(6)
  expect(shift / 48_000).toBeGreaterThan(0.2)
  const moved = ({ start, end }: { start: number; end: number }) => ({ start: start + shift, end: end + shift })
  expect(patched.tidyUp).toMatchObject({
    cuts: [moved(range(3.6, 3.8))],
    gains: [{ stretch: moved(range(4, 4.4)), db: 4 }],
    cleaning: 0.3,
  })
  expect(patched.bookmarks).toEqual([{ at: expect.closeTo(3.4 + shift / 48_000, 3), title: 'Here' }])
})
