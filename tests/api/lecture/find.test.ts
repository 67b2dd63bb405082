/** The shelf so many at a time, and lectures found by the words of their titles and scripts. */
import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { lectures, slides } from '#server/db/schema.ts'
import { lecturesWithWords, readWordsAtLeisure } from '#server/domain/lectures/word-index.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { openSchoolApp } from '#tests/api/people/school.ts'
import { seedLecture } from '#tests/support/seed.ts'

interface Shelf {
  lectures: { id: string; title: string; found: { slideId: string; title: string; excerpt: string }[] }[]
  total: number
  onShelf: number
}
type App = Pick<TestApp, 'context' | 'read'>

const shelf = (app: Pick<App, 'read'>, query: Record<string, string> = {}) =>
  app.read<Shelf>(`/api/lectures?${new URLSearchParams(query)}`)
const titles = async (app: Pick<App, 'read'>, words: string) =>
  (await shelf(app, { words })).lectures.map(({ title }) => title).sort()

/** A lecture whose second slide says something. */
async function lectureThatSays({ context }: Pick<App, 'context'>, title: string, script: string) {
  const id = await seedLecture(context.db, context.store, title)
  const rows = await context.db.read.select().from(slides).where(eq(slides.lectureId, id)).orderBy(slides.position)
  const second = rows[1]!
  await context.db.write((tx) => tx.update(slides).set({ script }).where(eq(slides.id, second.id)))
  return { id, slideId: second.id }
}

let app: TestApp
beforeAll(async () => {
  app = await openTestApp()
})
afterAll(() => app.end())

test('words are found in any script, whatever case and accents they are written with, and parts of words too', async () => {
  const gauge = await lectureThatSays(app, 'Gauges', 'Read the gauge at seven. The École wrote the figure down.')
  await lectureThatSays(app, 'Wolken', 'Regenwölkchen ziehen über die Wiese. Öl schwimmt oben.')
  await lectureThatSays(app, '雲', '雲の形を見て、天気を知ります。')
  await lectureThatSays(app, 'غيوم', 'تتكون الغيوم من قطرات الماء الصغيرة.')
  expect(await titles(app, 'GAUGE')).toEqual(['Gauges'])
  expect(await titles(app, 'ecole figure')).toEqual(['Gauges'])
  expect(await titles(app, 'wölk')).toEqual(['Wolken'])
  expect(await titles(app, 'wolkchen')).toEqual(['Wolken'])
  expect(await titles(app, '形を見て')).toEqual(['雲'])
  expect(await titles(app, 'الغيوم')).toEqual(['غيوم'])
  // words of one letter and two: in scripts without spaces anywhere, else where a word begins
  expect(await titles(app, '天気')).toEqual(['雲'])
  expect(await titles(app, '知')).toEqual(['雲'])
  expect(await titles(app, 'ob')).toEqual(['Wolken'])
  expect(await titles(app, 'be')).toEqual([])
  expect(await titles(app, 'öl')).toEqual(['Wolken'])
  expect(await titles(app, 'gauge at')).toEqual(['Gauges'])
  // all of the words on one slide, or in the title
  expect(await titles(app, 'gauge Wiese')).toEqual([])
  expect(await titles(app, 'wolken')).toEqual(['Wolken'])
  const [found] = (await shelf(app, { words: 'seven gauge' })).lectures
  expect(found).toMatchObject({
    id: gauge.id,
    found: [{ slideId: gauge.slideId, excerpt: 'Read the gauge at seven. The École wrote the figure down.' }],
  })
})

test('what is changed, deleted, brought back or swept away is found as it is now', async () => {
  const { id, slideId } = await lectureThatSays(app, 'Snow', 'Measure the fallen sleet in the morning.')
  const patch = (change: object) =>
    app.ask(`/api/slides/${slideId}`, {
      method: 'PATCH',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(change),
    })
  expect(await titles(app, 'sleet')).toEqual(['Snow'])
  expect((await patch({ script: 'Measure the hailstones.' })).status).toBe(200)
  expect(await titles(app, 'sleet')).toEqual([])
  expect(await titles(app, 'hailstones')).toEqual(['Snow'])
  expect((await patch({ title: 'On hailstorms' })).status).toBe(200)
  expect(await titles(app, 'hailstorms')).toEqual(['Snow'])
  const { db } = app.context
  await db.write((tx) => tx.update(slides).set({ deletedAt: 1 }).where(eq(slides.id, slideId)))
  expect(await titles(app, 'hailstones')).toEqual([])
  await db.write((tx) => tx.update(slides).set({ deletedAt: null }).where(eq(slides.id, slideId)))
  expect(await titles(app, 'hailstones')).toEqual(['Snow'])
  await db.write((tx) => tx.delete(lectures).where(eq(lectures.id, id)))
  expect(await titles(app, 'hailstones')).toEqual([])
})

test('what has a meaning to the index is sought as it stands, and nothing breaks it', async () => {
  await lectureThatSays(app, 'Odd', 'Say "quoted" OR not; 100% of a* and (b).')
  expect(await titles(app, '"quoted"')).toEqual(['Odd'])
  expect(await titles(app, 'quoted OR')).toEqual(['Odd'])
  expect(await titles(app, '100%')).toEqual(['Odd'])
  for (const words of ['"', '""" AND', '*', 'NEAR(', 'title:x', '\u0000', 'a\u0000b', '😀😀😀', '%', ' ', 'x'.repeat(200)])
    expect((await app.ask(`/api/lectures?${new URLSearchParams({ words })}`)).status, words).toBe(200)
  expect((await app.ask(`/api/lectures?${new URLSearchParams({ words: 'x'.repeat(201) })}`)).status).toBe(422)
  expect((await app.ask('/api/lectures?from=-1')).status).toBe(422)
})

test('a shelf of many is answered so many at a time, none twice and none left out', async () => {
  const many = await openTestApp()
  const { db } = many.context
  const first = await seedLecture(db, many.context.store, 'Lecture 0')
  const [row] = await db.read.select().from(lectures).where(eq(lectures.id, first))
  await db.write((tx) =>
    tx
      .insert(lectures)
      .values(Array.from({ length: 94 }, (_, i) => ({ ...row!, id: randomUUID(), title: `Lecture ${i + 1}`, updatedAt: i + 1 }))),
  )
  const seen: string[] = []
  for (let from = 0; ; ) {
    const page = await shelf(many, { from: String(from) })
    expect(page).toMatchObject({ total: 95, onShelf: 95 })
    if (page.lectures.length === 0) break
    expect(page.lectures.length).toBeLessThanOrEqual(20)
    seen.push(...page.lectures.map(({ id }) => id))
    from += page.lectures.length
  }
  expect([seen.length, new Set(seen).size]).toEqual([95, 95])
  expect(await shelf(many, { words: 'lecture 9' })).toMatchObject({ total: 14, onShelf: 95 })
  await many.end()
})

test('what is not read yet is told of, and found once it was read at leisure', async () => {
  const late = await openTestApp()
  const { db } = late.context
  await lectureThatSays(late, 'Dew', 'Dew is measured with a weighed feather.')
  const seek = (patienceMs: number) => lecturesWithWords(db, ['feather'], patienceMs)
  expect(await seek(-1)).toEqual({ ids: new Set(), isAll: false })
  const ended = new AbortController()
  ended.abort()
  await readWordsAtLeisure(db, ended.signal, 0)
  expect((await seek(-1)).isAll).toBe(false)
  await readWordsAtLeisure(db, new AbortController().signal, 0)
  const { ids, isAll } = await seek(-1)
  expect([ids.size, isAll]).toEqual([1, true])
  await late.end()
})

test('however many words are sought, all of them count', async () => {
  await lectureThatSays(app, 'Fog', 'one two three four five six seven eight nine')
  expect(await titles(app, 'one two three four five six seven eight nine')).toEqual(['Fog'])
  expect(await titles(app, 'one two three four five six seven eight ten')).toEqual([])
})

test('in a school words are found in what may be seen, one’s own, or of one space', async () => {
  const school = await openSchoolApp()
  const [mira, jonas] = [await school.person('teacher'), await school.person('teacher')]
  const one = await school.lectureOf(mira.id)
  const other = await school.lectureOf(mira.id)
  const own = await school.lectureOf(jonas.id)
  const { id: space } = (await (await mira.json('POST', '/api/spaces', { name: 'Weather' })).json()) as { id: string }
  await mira.json('PUT', `/api/lectures/${one}/space`, { spaceId: space })
  await mira.json('PUT', `/api/spaces/${space}/members/${jonas.id}`, { right: 'see' })
  const ids = async (who: Pick<App, 'read'>, query: Record<string, string>) =>
    (await shelf(who, query)).lectures.map(({ id }) => id).sort()
  const byWords = { words: 'clouds' }
  expect(await ids(mira, byWords)).toEqual([one, other].sort())
  expect(await ids(jonas, byWords)).toEqual([one, own].sort())
  expect(await ids(jonas, { ...byWords, of: 'own' })).toEqual([own])
  expect(await ids(jonas, { of: space })).toEqual([one])
  expect(await ids(jonas, { of: randomUUID() })).toEqual([])
  await school.end()
})
