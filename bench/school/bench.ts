/**
 * `npm run bench -- school`: 200 teachers who come within ten seconds and edit at once, each with a line of events, for a minute a round (`--rounds 10` for ten
 * minutes); 1,000 learners who watch, from the app alone and through nginx; a shelf of 5,000 lectures; permissions of the table.
 */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { NEEDS } from '#server/http/permissions/needs.ts'
import { quantile, randomOf } from './measure.ts'
import { type BenchTeacher, withSchool } from './school.ts'
import { shelf } from './shelf.ts'
import { watching } from './watching.ts'

const TEACHERS = 200
const ROUND_MS = 60_000
/** So long until all of them are there. */
const COME_S = 10
/** Seconds between the edits of one teacher: who types pauses that often, and each pause saves. */
const PAUSE_S = { least: 2, most: 6 }

const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

/** Hears what the server tells, as an open page does. @returns how often it was told of the teacher's own lecture, and a way to end */
async function listen(address: string, { cookie, lectureId }: BenchTeacher) {
  const ending = new AbortController()
  const answer = await fetch(`${address}/api/events`, { headers: { cookie }, signal: ending.signal })
  let [own, others] = [0, 0]
  const decoder = new TextDecoder()
  const reading = (async () => {
    for await (const piece of answer.body!)
      for (const [, id] of decoder.decode(piece as Uint8Array).matchAll(/"type":"lecture","lectureId":"([^"]+)"/g))
        if (id === lectureId) own++
        else others++
  })().catch(() => {})
  return {
    counts: () => ({ own, others }),
    async end() {
      ending.abort()
      await reading
    },
  }
}

interface Edited {
  times: number[]
  failed: number
  lost: number
  told: number
  foreign: number
}

/** One teacher types into scripts, a slide at a time, until the time is over. */
async function edit(address: string, teacher: BenchTeacher, until: number, random: () => number) {
  // they come one after another, as to a first lesson
  await sleep(random() * COME_S * 1000)
  const line = await listen(address, teacher)
  const written = new Map<string, string>()
  const edited: Edited = { times: [], failed: 0, lost: 0, told: 0, foreign: 0 }
  const headers = { cookie: teacher.cookie, 'content-type': 'application/json' }
  for (let n = 0; ; n++) {
    await sleep((PAUSE_S.least + random() * (PAUSE_S.most - PAUSE_S.least)) * 1000)
    if (Date.now() >= until) break
    const slideId = teacher.slideIds[n % teacher.slideIds.length]!
    const script = `This is what was typed for the ${n}th time, and a sentence after it.`
    const began = performance.now()
    const answer = await fetch(`${address}/api/slides/${slideId}`, { method: 'PATCH', headers, body: JSON.stringify({ script }) })
    edited.times.push(performance.now() - began)
    if (answer.ok) written.set(slideId, script)
    else edited.failed++
    await answer.body?.cancel()
  }
  return {
    /** Looks, when all have ended, at what is there. */
    async look(): Promise<Edited> {
      const answer = await fetch(`${address}/api/lectures/${teacher.lectureId}`, { headers })
      const { slides } = (await answer.json()) as { slides: { id: string; script: string }[] }
      for (const [id, script] of written) if (slides.find((slide) => slide.id === id)?.script !== script) edited.lost++
      await line.end()
      const { own, others } = line.counts()
      return { ...edited, told: own, foreign: others }
    },
  }
}

/** @returns whether docs/permissions.md names each route the server knows of */
function permissionsNamed(): number {
  const page = readFileSync(join(import.meta.dirname, '../../docs/permissions.md'), 'utf8')
  return Object.keys(NEEDS).filter((route) => page.includes(`\`${route}\``)).length / Object.keys(NEEDS).length
}

export async function bench(options: BenchOptions): Promise<Figure[]> {
  const { rounds, seed } = options
  const edits = await withSchool(TEACHERS, async (server, teachers) => {
    const until = Date.now() + ROUND_MS * (rounds ?? 1)
    const typed = await Promise.all(
      teachers.map((teacher, i) => edit(server.address, teacher, until, randomOf((seed ?? 1) * 1000 + i))),
    )
    const found: Edited[] = []
    for (const { look } of typed) found.push(await look())
    return found
  })
  const times = edits.flatMap((one) => one.times)
  const sum = (of: (one: Edited) => number) => edits.reduce((total, one) => total + of(one), 0)
  return [
    {
      name: 'routes of the server in the table of permissions',
      value: 100 * permissionsNamed(),
      goal: '= 100',
      unit: '%',
      ok: permissionsNamed() === 1,
    },
    { name: `edits of ${TEACHERS} teachers at once`, value: times.length, goal: '', unit: '', ok: null },
    { name: 'an edit, median', value: quantile(times, 0.5), goal: '', unit: 'ms', ok: null },
    {
      name: 'an edit, 99th percentile',
      value: quantile(times, 0.99),
      goal: '≤ 150',
      unit: 'ms',
      ok: quantile(times, 0.99) <= 150,
    },
    { name: 'edits refused', value: sum((one) => one.failed), goal: '0', unit: '', ok: sum((one) => one.failed) === 0 },
    { name: 'edits lost', value: sum((one) => one.lost), goal: '0', unit: '', ok: sum((one) => one.lost) === 0 },
    {
      name: 'edits that were told on the teacher’s own line',
      value:
        (100 *
          Math.min(
            times.length,
            sum((one) => one.told),
          )) /
        Math.max(1, times.length),
      goal: '= 100',
      unit: '%',
      ok: sum((one) => one.told) >= times.length,
    },
    {
      name: 'events of other people’s lectures',
      value: sum((one) => one.foreign),
      goal: '0',
      unit: '',
      ok: sum((one) => one.foreign) === 0,
    },
    ...(await watching()),
    ...(await shelf(options)),
  ]
}
