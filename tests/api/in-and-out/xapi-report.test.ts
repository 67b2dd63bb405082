/** Reports to a store that answers, does not answer, or has another tab's report; judged by the practice platform and by @xapi/cmi5. */
import { zipSync } from 'fflate'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { NOTHING_KEPT, type Progress } from '#core/packages/listening.ts'
import type { Course } from '#demo/platform/courses.ts'
import { platformApp } from '#demo/platform/platform.ts'
import { cmi5Structure, xapiManifest } from '#server/publish/packages/manifests.ts'
import { launchOf, XapiReport } from '#web/watch/packages/xapi-report.ts'

const ORIGIN = 'http://platform.test'
const TIMES = { lengthSeconds: 100, slideStarts: [0, 50], share: 0.9 }
const LECTURE = {
  lectureId: crypto.randomUUID(),
  editionId: '',
  title: 'Rain',
  language: 'en',
  description: 'About rain',
  files: [],
}

let isDown = false
let asked: string[] = []
let keptHere: () => [string, string][]
const { app, courses } = platformApp()

beforeEach(() => {
  isDown = false
  asked = []
  const kept = new Map<string, string>()
  keptHere = () => [...kept]
  vi.stubGlobal('localStorage', {
    getItem: (name: string) => kept.get(name) ?? null,
    setItem: (name: string, value: string) => void kept.set(name, value),
  })
  vi.stubGlobal('fetch', async (address: string, init?: RequestInit) => {
    asked.push(`${init?.method ?? 'GET'} ${address}`)
    if (isDown) throw new TypeError('Failed to fetch')
    return app.request(address, init)
  })
})
afterEach(() => {
  vi.unstubAllGlobals()
  for (const course of courses.splice(0)) course.end()
})

async function added(kind: 'cmi5' | 'xapi'): Promise<Course> {
  const [name, xml] = kind === 'cmi5' ? ['cmi5.xml', cmi5Structure(LECTURE)] : ['tincan.xml', xapiManifest(LECTURE)]
  const form = new FormData()
  form.append('file', new File([zipSync({ [name]: new TextEncoder().encode(xml) }) as BlobPart], 'x.zip'))
  await app.request(`${ORIGIN}/packages`, { method: 'POST', body: form, headers: { accept: 'application/json' } })
  return courses.at(-1)!
}
const opened = (course: Course, kind: 'cmi5' | 'xapi') =>
  new XapiReport(launchOf(kind, course.launch(ORIGIN), { title: 'Rain', language: 'en', activityId: 'urn:x' })!, TIMES)
const progress = (place: number, heard: Progress['heard'], isCompleted = false): Progress => ({
  ...{ place, heard, isCompleted, sessionSeconds: 5, slidesSeen: 1, slides: 2, answered: [], questions: 0 },
  heardShare: heard.reduce((sum, { start, end }) => sum + end - start, 0) / 100,
})
const verbs = (course: Course) =>
  course
    .statements()
    .map((one) =>
      String((one.verb as { id: string }).id)
        .split('/')
        .at(-1),
    )
    .filter((verb) => verb !== 'progressed')
/** Until what was asked has been answered. */
const settled = () => new Promise((resolve) => setTimeout(resolve, 30))

test.each(['cmi5', 'xapi'] as const)(
  '%s: a session is told, the next one goes on where it ended, and no rule is broken',
  async (kind) => {
    const course = await added(kind)
    const first = opened(course, kind)
    expect(await first.begin()).toEqual(NOTHING_KEPT)
    first.tell(progress(40, [{ start: 0, end: 40 }]))
    await settled()
    first.end(progress(42, [{ start: 0, end: 42 }]))
    await settled()
    const second = opened(course, kind)
    expect(await second.begin()).toEqual({ place: 42, heard: [{ start: 0, end: 42 }], isCompleted: false })
    second.tell(progress(95, [{ start: 0, end: 95 }], true))
    second.tell(progress(96, [{ start: 0, end: 96 }], true))
    await settled()
    second.end(progress(96, [{ start: 0, end: 96 }], true))
    await settled()
    expect(verbs(course)).toEqual(['initialized', 'terminated', 'initialized', 'completed', 'terminated'])
    expect(course.told().faults).toEqual([])
  },
)

test('a platform that does not answer: nothing is lost, and all of it is told when it answers again', async () => {
  const course = await added('xapi')
  isDown = true
  const first = opened(course, 'xapi')
  expect(await first.begin()).toBeNull()
  first.tell(progress(95, [{ start: 0, end: 95 }], true))
  await settled()
  first.end(progress(95, [{ start: 0, end: 95 }], true))
  await settled()
  expect(course.statements()).toEqual([])
  isDown = false
  const second = opened(course, 'xapi')
  expect(await second.begin()).toEqual({ place: 95, heard: [{ start: 0, end: 95 }], isCompleted: true })
  await settled()
  expect(verbs(course)).toEqual(['initialized', 'completed', 'terminated', 'initialized'])
  // it answers in the middle of a session
  isDown = true
  second.tell(progress(97, [{ start: 0, end: 97 }], true))
  await settled()
  isDown = false
  second.end(progress(98, [{ start: 0, end: 98 }], true))
  await settled()
  expect(verbs(course)).toEqual(['initialized', 'completed', 'terminated', 'initialized', 'terminated'])
  expect(new Set(course.statements().map((one) => one.id)).size).toBe(course.statements().length)
})

test('an answer is told once, and again when it is another one', async () => {
  const course = await added('cmi5')
  const report = opened(course, 'cmi5')
  await report.begin()
  const question = {
    id: crypto.randomUUID(),
    text: 'Which?',
    explanation: '',
    kind: 'one' as const,
    options: ['a', 'b'],
    right: 1,
  }
  const answered = (answer: number) => ({
    ...progress(5, []),
    answered: [{ question, index: 0, answer, isRight: answer === 1 }],
    questions: 1,
  })
  report.tell(answered(0))
  report.tell(answered(0))
  report.tell(answered(1))
  await settled()
  report.end(answered(1))
  await settled()
  expect(verbs(course)).toEqual(['initialized', 'answered', 'answered', 'terminated'])
  const results = course
    .statements()
    .flatMap((one) => (String((one.object as { id: string }).id).endsWith('/question-1') ? [one.result] : []))
  expect(results).toEqual([
    { response: 'a', success: false },
    { response: 'b', success: true },
  ])
})

test('two tabs of one package: what either heard counts', async () => {
  const course = await added('xapi')
  const [one, other] = [opened(course, 'xapi'), opened(course, 'xapi')]
  await one.begin()
  await other.begin()
  one.tell(progress(30, [{ start: 0, end: 30 }]))
  await settled()
  other.tell(progress(90, [{ start: 60, end: 90 }]))
  await settled()
  const { heard } = (await opened(course, 'xapi').begin())!
  expect(heard).toEqual([
    { start: 0, end: 30 },
    { start: 60, end: 90 },
  ])
})

test('a statement that the store will never take is not sent again and again', async () => {
  const course = await added('xapi')
  const query = course.launch(ORIGIN)
  query.set('actor', '{"name":"nobody that can be told"}')
  const report = new XapiReport(launchOf('xapi', query, { title: 'Rain', language: 'en', activityId: 'urn:x' })!, TIMES)
  await report.begin()
  await settled()
  const before = asked.filter((one) => one.endsWith('/statements')).length
  report.tell(progress(0, []))
  await settled()
  expect(asked.filter((one) => one.endsWith('/statements')).length).toBe(before)
})

test('one statement that the store does not take costs none of the others that waited with it', async () => {
  const course = await added('xapi')
  isDown = true
  const report = opened(course, 'xapi')
  await report.begin()
  report.tell(progress(95, [{ start: 0, end: 95 }], true))
  await settled()
  // another statement has the id of the second one already
  const waiting = JSON.parse(keptHere().find(([name]) => name.includes('statements'))![1]) as { id: string }[]
  const other = { ...waiting[1]!, verb: { id: 'urn:other' } }
  course.store.add([other])
  isDown = false
  report.end(progress(96, [{ start: 0, end: 96 }], true))
  await settled()
  expect(verbs(course).filter((verb) => verb !== 'urn:other')).toEqual(['initialized', 'terminated'])
})

test('a page that no platform opened has nobody to tell', () => {
  for (const query of ['', 'endpoint=x', 'endpoint=x&actor={', 'endpoint=x&actor={}&auth=']) {
    const told = { title: '', language: 'en', activityId: 'urn:x' }
    expect(launchOf('xapi', new URLSearchParams(query), told)).toBeNull()
    expect(launchOf('cmi5', new URLSearchParams(query), told)).toBeNull()
  }
})
