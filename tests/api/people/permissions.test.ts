/** Every route of the app, asked by everybody who may come, compared with the table in docs/permissions.md. */
import { randomUUID } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { expect, test } from 'vitest'
import { DEFAULT_BED } from '#core/model/bed.ts'
import { DEFAULT_EXPORT_SETTINGS } from '#core/model/export-settings.ts'
import { films, footage } from '#server/db/moving-schema.ts'
import { comments } from '#server/db/people-schema.ts'
import { beds, captionTracks, editions, jobs, recordings, replacements, slides, steps, takes } from '#server/db/schema.ts'
import { NEEDS } from '#server/http/permissions/needs.ts'
import { giveRight } from '#server/people/lecture-rights.ts'
import { makeVoiceLink } from '#server/voices/links.ts'
import { makeLink } from '#server/watch/links.ts'
import { type Browser, openSchoolApp } from './school.ts'

const PAGE = readFileSync(join(import.meta.dirname, '../../../docs/permissions.md'), 'utf8')

/** Rows of the table: a route, and by column whether it answers. */
function table() {
  const lines = PAGE.split('\n').filter((line) => line.startsWith('|'))
  const cells = (line: string) =>
    line
      .split('|')
      .slice(1, -1)
      .map((cell) => cell.trim())
  const [head, , ...rows] = lines.map(cells) as [string[], string[], ...string[][]]
  return rows.map(([route = '', , ...answers]) => ({
    route: route.replaceAll('`', ''),
    answers: Object.fromEntries(answers.map((answer, i) => [head[i + 2]!, answer === 'yes'])),
  }))
}

/** One thing of each kind, all of one lecture. */
async function everyThing(app: Awaited<ReturnType<typeof openSchoolApp>>, ownerId: string) {
  const { db } = app.context
  const lectureId = await app.lectureOf(ownerId)
  const [slide] = await db.read.select().from(slides).where(eq(slides.lectureId, lectureId))
  const [step] = await db.read.select().from(steps).where(eq(steps.slideId, slide!.id))
  const [track] = await db.read.select().from(captionTracks).where(eq(captionTracks.lectureId, lectureId))
  const ids = {
    take: randomUUID(),
    bed: randomUUID(),
    film: randomUUID(),
    footage: randomUUID(),
    recording: randomUUID(),
    edition: randomUUID(),
    replacement: randomUUID(),
    comment: randomUUID(),
  }
  const job = randomUUID()
  const sound = { sound: 'a'.repeat(64), peaks: 'b'.repeat(64), samples: 1 }
  const now = Date.now()
  await db.write(async (tx) => {
    await tx
      .insert(takes)
      .values({ id: ids.take, slideId: slide!.id, number: 1, state: 'sealed', startedAt: now, microphone: '' })
    const run = { ...DEFAULT_BED, fromSlideId: slide!.id, toSlideId: slide!.id }
    await tx.insert(beds).values({ id: ids.bed, lectureId, name: 'Music', ...sound, settings: run, createdAt: now })
    await tx.insert(films).values({
      id: ids.film,
      stepId: step!.id,
      position: 0,
      name: 'Film',
      original: 'c'.repeat(64),
      settings: {},
      createdAt: now,
    })
    await tx.insert(footage).values({
      id: ids.footage,
      lectureId,
      takeId: ids.take,
      kind: 'screen',
      codec: 'avc',
      width: 640,
      height: 360,
      state: 'sealed',
      original: 'c'.repeat(64),
      createdAt: now,
    })
    await tx.insert(recordings).values({ id: ids.recording, lectureId, name: 'Long', ...sound, speech: [], createdAt: now })
    const manifest = { title: 'Clouds', language: 'en', lengthSamples: 1, chapters: [], captions: [], checks: [] }
    await tx.insert(editions).values({ id: ids.edition, lectureId, number: 1, createdAt: now, manifest })
    const found = { pages: [], changed: [], added: [], removed: [] } as never
    await tx.insert(replacements).values({ id: ids.replacement, lectureId, createdAt: now, found })
    await tx
      .insert(comments)
      .values({ id: ids.comment, lectureId, slideId: slide!.id, text: 'So?', personId: ownerId, createdAt: now })
    await tx.insert(jobs).values({ id: job, kind: 'publish', lectureId, payload: { lectureId }, state: 'done', createdAt: now })
  })
  return {
    ...ids,
    job,
    lectureId,
    slide: slide!.id,
    picture: step!.picture,
    track: track!.id,
    token: await makeLink(db, lectureId, 'Class'),
    voiceLink: await makeVoiceLink(db, lectureId, { kind: 'class', name: 'Class', slideIds: [slide!.id] }),
  }
}
type Things = Awaited<ReturnType<typeof everyThing>>

/** The address of a route with things in the place of their names. */
function addressOf(path: string, things: Things, space: string, person: string, token: string) {
  const by = path
    .split('/')
    .find((part) =>
      [
        'slides',
        'takes',
        'answers',
        'beds',
        'films',
        'footage',
        'captions',
        'recordings',
        'editions',
        'jobs',
        'comments',
        'replacements',
        'spaces',
        'people',
        'lectures',
      ].includes(part),
    )
  const isReplacement = path.includes('/replacements/')
  const ids: Record<string, string> = {
    slides: things.slide,
    takes: things.take,
    answers: things.take,
    beds: things.bed,
    films: things.film,
    footage: things.footage,
    captions: things.track,
    recordings: things.recording,
    editions: things.edition,
    jobs: things.job,
    comments: things.comment,
    spaces: space,
    people: person,
    lectures: things.lectureId,
  }
  const id = isReplacement ? things.replacement : path.includes('/me/') ? randomUUID() : (ids[by ?? ''] ?? 'none')
  const named: Record<string, string> = {
    ...{
      id,
      slideId: things.slide,
      footageId: things.footage,
      personId: person,
      token: path.startsWith('/watch/')
        ? token
        : path.includes('/links/')
          ? things.token
          : path.includes('/voiceLinks/')
            ? things.voiceLink
            : 'none',
    },
    ...{
      edition: things.edition,
      name: 'video.mp4',
      chunk: '0',
      piece: 'script.md',
      provider: 'school',
      file: `${things.picture}.png`,
    },
  }
  const file = path.includes('/captions/:file') ? `${things.track}.vtt` : named.file
  return path.replace(/:(\w+)/g, (_, name: string) => (name === 'file' ? file! : (named[name] ?? 'none')))
}

/** What a route needs to know what it is about; for all others a body that changes nothing. */
const bodyOf = (route: string, { slide, take }: Things): unknown =>
  ({
    'PUT /api/slides/steps': { slides: [{ id: slide }] },
    'PUT /api/takes/:id': { slideId: slide },
    'POST /api/takes/again': { takeId: take, againTakeId: take },
    'POST /api/takes/moved': { takeId: take, slideId: slide },
  })[route] ?? {}

test('every route answers those whom the table names, and nobody else', async () => {
  const app = await openSchoolApp({ demoFolder: '/nowhere', webFolder: join(import.meta.dirname, '../../../dist/web') })
  const { db } = app.context
  const rows = table()
  // the table, the server and the app know the same routes
  const known = new Set(
    app.app.routes
      .filter(({ method, path }) => method !== 'ALL' && !path.includes('*'))
      .map(({ method, path }) => `${method} ${path.replace(/\{.*?\}$/, '')}`),
  )
  expect(rows.map(({ route }) => route).sort()).toEqual([...known].sort())
  expect(Object.keys(NEEDS).sort()).toEqual([...known].sort())

  const owner = await app.person('teacher')
  const people: Record<string, Browser & { id?: string }> = {
    stranger: app.browser(),
    'learner with a link': app.browser(),
    'other teacher': await app.person('teacher'),
    reviewer: await app.person('reviewer'),
    'teacher who may change it': await app.person('teacher'),
    owner,
    administrator: await app.person('administrator'),
  }
  const things = await everyThing(app, owner.id)
  await db.write(async (tx) => {
    await giveRight(tx, things.lectureId, people.reviewer!.id!, 'comment')
    await giveRight(tx, things.lectureId, people['teacher who may change it']!.id!, 'edit')
  })
  const { id: space } = (await (await owner.json('POST', '/api/spaces', { name: 'Course' })).json()) as { id: string }
  const extra = await app.person('reviewer')

  const wrong: string[] = []
  // who signs out is nobody from then on
  const inOrder = rows.toSorted((a, b) => Number(a.route.includes('sign-out')) - Number(b.route.includes('sign-out')))
  for (const { route, answers } of inOrder) {
    const [method = '', path = ''] = route.split(' ')
    for (const [who, may] of Object.entries(answers)) {
      const token = who === 'learner with a link' ? things.token : 'no-such-link-at-all-here'
      const address = addressOf(path, things, space, extra.id, token)
      const answer = await (method === 'GET'
        ? people[who]!.ask(address)
        : people[who]!.json(method, address, bodyOf(route, things)))
      const isStream = /event-stream|zip/.test(answer.headers.get('content-type') ?? '')
      if (isStream) await answer.body?.cancel()
      const text = isStream ? '' : await answer.text()
      const isRefused =
        text.includes('"refused":true') ||
        (/^\/(record|lti)\/|\/launches\//.test(path) && [401, 403, 404, 422].includes(answer.status)) ||
        (path.startsWith('/watch/:token/') && /link/.test(text) && answer.status === 404)
      if (isRefused === may || answer.status >= 500) wrong.push(`${route} by ${who}: ${answer.status} ${text.slice(0, 120)}`)
    }
  }
  expect(wrong).toEqual([])
  await app.end()
})

test('figures of the server are for programs on its machine, and a route that nobody wrote down is refused', async () => {
  const app = await openSchoolApp({ publicUrl: 'http://localhost' })
  const administrator = await app.person('administrator')
  expect((await app.ask('/metrics', {}, '198.51.100.7')).status).toBe(404)
  expect((await app.ask('/metrics')).status).toBe(200)
  const kept = NEEDS['GET /api/lectures']!
  delete NEEDS['GET /api/lectures']
  try {
    expect((await administrator.ask('/api/lectures')).status).toBe(404)
    expect((await app.browser().ask('/api/lectures')).status).toBe(401)
  } finally {
    NEEDS['GET /api/lectures'] = kept
  }
  await app.end()
})

test('a thing of another’s lecture is not there, whatever else one names beside it', async () => {
  const app = await openSchoolApp()
  const [mine, theirs] = [await app.person('teacher'), await app.person('teacher')]
  const [own, other] = [await everyThing(app, mine.id), await everyThing(app, theirs.id)]
  const refused = async (answer: Response) => [answer.status, ((await answer.json()) as { refused?: boolean }).refused]
  expect(await refused(await mine.json('PUT', `/api/takes/${other.take}`, { slideId: own.slide }))).toEqual([404, true])
  expect(await refused(await mine.json('POST', '/api/takes/moved', { takeId: other.take, slideId: own.slide }))).toEqual([
    404,
    true,
  ])
  expect(await refused(await mine.json('POST', '/api/takes/moved', { takeId: own.take, slideId: other.slide }))).toEqual([
    404,
    true,
  ])
  expect(await refused(await mine.json('POST', '/api/takes/again', { takeId: own.take, againTakeId: other.take }))).toEqual([
    404,
    true,
  ])
  const both = { slides: [own, other].map(({ slide }) => ({ id: slide, steps: [], deleted: false })) }
  expect(await refused(await mine.json('PUT', '/api/slides/steps', both))).toEqual([404, true])
  // an address that cannot be read names nothing
  expect(await refused(await mine.ask('/api/lectures/%E0%A4%A'))).toEqual([404, true])
  // what is not there and what is not shared are answered alike
  expect(await refused(await mine.ask(`/api/lectures/${randomUUID()}`))).toEqual(
    await refused(await mine.ask(`/api/lectures/${other.lectureId}`)),
  )
  // a file both use is for both, one that only the other uses is not
  await app.context.db.write((tx) =>
    tx
      .update(steps)
      .set({ picture: 'f'.repeat(64) })
      .where(eq(steps.slideId, other.slide)),
  )
  expect(await refused(await mine.ask(`/api/files/${'f'.repeat(64)}.png`))).toEqual([404, true])
  expect((await mine.ask(`/api/files/${own.picture}.png`)).status).toBe(200)
  // nor is it had by putting it into a lecture of one's own
  const crest = { picture: 'f'.repeat(64), corner: 'top-right', share: 0.1, opacity: 1 }
  const put = await mine.json('PATCH', `/api/lectures/${own.lectureId}`, {
    exportSettings: { ...DEFAULT_EXPORT_SETTINGS, crest },
  })
  expect([put.status, ((await put.json()) as { error: string }).error]).toEqual([404, expect.stringMatching(/Choose it again/)])
  await app.end()
})

test('what a body names is not read before the body is bounded', async () => {
  const app = await openSchoolApp()
  const teacher = await app.person('teacher')
  const answer = await teacher.json('PUT', '/api/slides/steps', { slides: [{ id: 'x'.repeat(17 * 1024 ** 2) }] })
  expect(answer.status).toBe(413)
  await app.end()
})
