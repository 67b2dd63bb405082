/** Judged by an independent runtime of SCORM (scorm-again): calls in their order, values within the limits of the data model. */
import { Scorm12API, Scorm2004API } from 'scorm-again'
import { describe, expect, test } from 'vitest'
import { isoDuration, scormTimespan } from './durations.ts'
import { type KeptListening, type LectureTimes, NOTHING_KEPT, type Progress } from './listening.ts'
import { type Scorm12Api, type Scorm2004Api, ScormReport, scorm12, scorm2004 } from './scorm.ts'

const TIMES: LectureTimes = { lengthSeconds: 600, slideStarts: [0, 200, 400], share: 0.9 }
const progress = (more: Partial<Progress> = {}): Progress => ({
  ...NOTHING_KEPT,
  heardShare: 0,
  sessionSeconds: 12.345,
  slidesSeen: 1,
  slides: 3,
  answered: [],
  questions: 0,
  ...more,
})

/** A runtime that throws for whatever a strict one refuses, and what it has in the end. */
function judged(kind: 'scorm-1.2' | 'scorm-2004', before: Record<string, string> = {}) {
  const runtime = kind === 'scorm-1.2' ? new Scorm12API({ logLevel: 5 }) : new Scorm2004API({ logLevel: 5 })
  const isOld = kind === 'scorm-1.2'
  if (Object.keys(before).length > 0) runtime.loadFromFlattenedJSON(before, '')
  const api = runtime as unknown as Scorm12Api & Scorm2004Api
  const report = new ScormReport(isOld ? scorm12(api) : scorm2004(api), TIMES)
  const read = (name: string) => name.split('.').reduce<unknown>((at, part) => (at as Record<string, unknown>)[part], runtime)
  return { runtime, report, read, error: () => (isOld ? api.LMSGetLastError() : api.GetLastError()) }
}

const many: KeptListening['heard'] = Array.from({ length: 3000 }, (_, i) => ({ start: i / 5, end: i / 5 + 0.1 }))

describe.each([
  ['scorm-1.2', 'cmi.core.lesson_status', 'cmi.core.lesson_location', 'cmi.core.exit'],
  ['scorm-2004', 'cmi.completion_status', 'cmi.location', 'cmi.exit'],
] as const)('%s', (kind, status, place, exit) => {
  test('a first session that is left is told as incomplete, with its place, and no error', () => {
    const { report, read, error } = judged(kind)
    expect(report.begin()).toEqual(NOTHING_KEPT)
    report.tell(progress({ place: 42.34, heard: [{ start: 0, end: 42.3 }], heardShare: 0.07 }))
    report.end(progress({ place: 42.34, heard: [{ start: 0, end: 42.3 }], heardShare: 0.07, sessionSeconds: 50 }))
    expect([...report.refused]).toEqual([])
    expect(error()).toBe('0')
    expect(read(status)).toBe('incomplete')
    expect(read(place)).toBe('42.3')
  })
  test('the next session goes on there, and completes when enough was heard; nothing is told after its end', () => {
    const { report, read } = judged(kind, { [place]: '42.3', 'cmi.suspend_data': '1;6000;423;0;0-br', [status]: 'incomplete' })
    expect(report.begin()).toEqual({ place: 42.3, heard: [{ start: 0, end: 42.3 }], isCompleted: false })
    report.tell(progress({ place: 590, heardShare: 0.93, isCompleted: true }))
    expect(read(status)).toBe('completed')
    report.end(progress({ place: 600, heardShare: 0.95, isCompleted: true }))
    report.tell(progress({ place: 1 }))
    expect(read(place)).toBe('600.0')
    expect([...report.refused]).toEqual([])
  })
  test('what was heard in thousands of pieces is shortened to what the standard lets it keep, and is taken', () => {
    const { report, read } = judged(kind)
    report.begin()
    report.end(progress({ heard: many, place: 599 }))
    expect([...report.refused]).toEqual([])
    const kept = read('cmi.suspend_data') as string
    expect(kept.length).toBeGreaterThan(3500)
    expect(kept.length).toBeLessThanOrEqual(kind === 'scorm-1.2' ? 4096 : 64_000)
  })
  test('who has completed it stays so, whatever is heard later; a review is told no status', () => {
    const again = judged(kind, { [status]: 'completed' })
    expect(again.report.begin()!.isCompleted).toBe(true)
    again.report.end(progress({ isCompleted: true, place: 5 }))
    expect(again.read(status)).toBe('completed')
    const review = judged(kind, { [kind === 'scorm-1.2' ? 'cmi.core.lesson_mode' : 'cmi.mode']: 'review' })
    const before = review.read(status)
    review.report.begin()
    review.report.end(progress({ isCompleted: true }))
    expect(review.read(status)).toBe(before)
  })
  test('answers are told each at its place, with a score of all questions, and written over when they are given anew', () => {
    const { report, read } = judged(kind)
    const shared = { id: crypto.randomUUID(), text: 'Which?', explanation: '' }
    const several = { ...shared, kind: 'several' as const, options: ['a', 'b', 'c'], right: [0, 2] }
    const word = { ...shared, kind: 'word' as const, right: ['rain'] }
    const number = { ...shared, kind: 'number' as const, right: 2, within: 0 }
    report.begin()
    const first = { question: several, index: 0, answer: [2, 0], isRight: true }
    report.tell(progress({ answered: [first], questions: 4 }))
    const more = [
      first,
      { question: number, index: 2, answer: 2.5, isRight: false },
      { question: word, index: 1, answer: 'snow', isRight: false },
    ]
    report.tell(progress({ answered: more, questions: 4 }))
    report.end(progress({ answered: [...more.slice(0, 2), { ...more[2]!, answer: 'rain', isRight: true }], questions: 4 }))
    expect([...report.refused]).toEqual([])
    const isOld = kind === 'scorm-1.2'
    expect(read(isOld ? 'cmi.core.score.raw' : 'cmi.score.raw')).toBe('50')
    if (!isOld) expect(read('cmi.score.scaled')).toBe('0.5')
    // some of it is write-only
    const written = JSON.parse(JSON.stringify(read('cmi.interactions.childArray'))) as Record<string, string>[]
    const told = written.map((one) => [one.id, one.type, one[isOld ? 'student_response' : 'learner_response'], one.result])
    expect(told).toEqual([
      ['question-1', 'choice', isOld ? 'a,c' : 'a[,]c', 'correct'],
      ['question-3', 'numeric', '2.5', isOld ? 'wrong' : 'incorrect'],
      ['question-2', 'fill-in', 'rain', 'correct'],
    ])
  })
  test('a status that was refused is told again, and answers stand after those of earlier sessions', () => {
    let isRefusing = true
    const told: [string, string][] = []
    const api = new Proxy(
      {},
      {
        get: (_, name) => (key: string, value?: string) => {
          if (/Get/.test(String(name))) return key === 'cmi.interactions._count' ? '3' : ''
          if (!/Set/.test(String(name))) return 'true'
          if (key === status && value === 'completed' && isRefusing) return 'false'
          told.push([key, value!])
          return 'true'
        },
      },
    ) as Scorm12Api & Scorm2004Api
    const report = new ScormReport(kind === 'scorm-1.2' ? scorm12(api) : scorm2004(api), TIMES)
    const question = { id: crypto.randomUUID(), text: 'Which?', explanation: '', kind: 'word' as const, right: ['rain'] }
    const answered = [{ question, index: 0, answer: 'rain', isRight: true }]
    report.begin()
    report.tell(progress({ isCompleted: true, answered, questions: 1 }))
    expect(told.some(([key, value]) => key === status && value === 'completed')).toBe(false)
    isRefusing = false
    report.tell(progress({ isCompleted: true, answered, questions: 1 }))
    expect(told).toContainEqual([status, 'completed'])
    expect(told).toContainEqual(['cmi.interactions.3.id', 'question-1'])
  })
  test('a platform that does not begin is told nothing', () => {
    const calls: string[] = []
    const silent = new Proxy(
      {},
      {
        get: (_, name) => () => {
          calls.push(String(name))
          return 'false'
        },
      },
    ) as Scorm12Api & Scorm2004Api
    const report = new ScormReport(kind === 'scorm-1.2' ? scorm12(silent) : scorm2004(silent), TIMES)
    expect(report.begin()).toBeNull()
    report.tell(progress())
    report.end(progress())
    expect(calls).toHaveLength(1)
  })
  test('how it ends says whether one comes back to the place', () => {
    const ends: string[] = []
    const api = new Proxy(
      {},
      {
        get: (_, name) => (key: string, value?: string) => {
          if (key === exit) ends.push(value!)
          return /Get/.test(String(name)) ? '' : 'true'
        },
      },
    ) as Scorm12Api & Scorm2004Api
    for (const isCompleted of [false, true]) {
      const report = new ScormReport(kind === 'scorm-1.2' ? scorm12(api) : scorm2004(api), TIMES)
      report.begin()
      report.end(progress({ isCompleted }))
    }
    expect(ends).toEqual(['suspend', kind === 'scorm-1.2' ? '' : 'normal'])
  })
})

test('times are written as each standard has them', () => {
  expect([0, 59.999, 3661.05, 36_000_000].map(scormTimespan)).toEqual([
    '00:00:00.00',
    '00:01:00.00',
    '01:01:01.05',
    '9999:00:00.00',
  ])
  expect([0, 12.345, 60, 3600, 3723.4].map(isoDuration)).toEqual(['PT0S', 'PT12.35S', 'PT1M', 'PT1H', 'PT1H2M3.40S'])
})
