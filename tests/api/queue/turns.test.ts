/** Whose work comes next: by itself, and in the queue of a school's server. */
import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { expect, test, vi } from 'vitest'
import { JOB_KINDS } from '#core/jobs/job.ts'
import type { AppContext } from '#server/context/context.ts'
import { openDatabase } from '#server/db/database.ts'
import { people } from '#server/db/people-schema.ts'
import { makeEvents } from '#server/events/events.ts'
import { giveRight, handOver } from '#server/people/lecture-rights.ts'
import { addJob, JobQueue, type JobRegistry } from '#server/queue/queue.ts'
import { Turns } from '#server/queue/turns.ts'
import { folderStore } from '#server/storage/file-store.ts'
import { seedLecture } from '#tests/support/seed.ts'

/** Works off what each has, one job after another. @returns whose work was done, in order */
function work(turns: Turns, jobs: Record<string, number[]>, count = Number.POSITIVE_INFINITY) {
  const left = new Map(Object.entries(jobs).map(([party, own]) => [party, [...own]]))
  const done: string[] = []
  while (left.size > 0 && done.length < count) {
    const party = turns.next([...left.keys()])
    const own = left.get(party)!
    turns.worked(party, own.shift()!)
    if (own.length === 0) left.delete(party)
    done.push(party)
  }
  return done
}

test('who waits alone is served in the order of coming, and a newcomer comes next however much waits before', () => {
  const turns = new Turns()
  expect(work(turns, { mira: Array(20).fill(1000) }, 15)).toEqual(Array(15).fill('mira'))
  expect(work(turns, { mira: Array(5).fill(1000), jonas: [1000] }).indexOf('jonas')).toBeLessThanOrEqual(1)
})

test('all have the same time, whatever their jobs are like', () => {
  const done = work(new Turns(), { long: Array(10).fill(3000), short: Array(30).fill(1000) }, 24)
  const spent = (party: string, each: number) => done.filter((one) => one === party).length * each
  expect(Math.abs(spent('long', 3000) - spent('short', 1000))).toBeLessThanOrEqual(3000)
})

test('who had nothing to do saves up no turns', () => {
  const turns = new Turns()
  work(turns, { idle: [1000] })
  work(turns, { mira: Array(50).fill(1000) })
  const done = work(turns, { mira: Array(20).fill(1000), idle: Array(20).fill(1000) }, 20)
  expect(done.filter((one) => one === 'idle').length).toBeLessThanOrEqual(11)
})

test('of those who have had as much, whoever waited longest comes first', () => {
  expect(work(new Turns(), { a: [1], b: [1], c: [1] })).toEqual(['a', 'b', 'c'])
})

test('one fresh take of a colleague does not wait for all forty of somebody’s long lecture', async () => {
  const dataFolder = mkdtempSync(join(tmpdir(), 'lectern-turns-'))
  const db = await openDatabase(dataFolder)
  const context = { db, events: makeEvents() } as AppContext
  const lectureOf = async (name: string) => {
    const id = randomUUID()
    const now = new Date()
    const person = { id, name, email: `${name}@school.example`, role: 'teacher' as const, createdAt: now, updatedAt: now }
    await db.write((tx) => tx.insert(people).values(person))
    const lectureId = await seedLecture(db, folderStore(dataFolder), name)
    await db.write((tx) => giveRight(tx, lectureId, id, 'own'))
    return lectureId
  }
  const [miras, alsoMiras, jonas] = [await lectureOf('mira'), await lectureOf('ada'), await lectureOf('jonas')]
  const [mira] = await db.read.select().from(people).where(eq(people.name, 'mira'))
  await db.write((tx) => handOver(tx, alsoMiras, mira!.id))
  const done: (string | null)[] = []
  const run = async ({ takeId }: { takeId: string }) => {
    await new Promise((resolve) => setTimeout(resolve, 5))
    done.push(takeId)
  }
  const registry = Object.fromEntries(JOB_KINDS.map((kind) => [kind, { lane: 'tidy', run }])) as unknown as JobRegistry
  for (let n = 0; n < 40; n++) await addJob(context, 'tidy', n % 2 ? miras : alsoMiras, { takeId: `long ${n}` })
  await addJob(context, 'tidy', jonas, { takeId: 'fresh' })
  const queue = new JobQueue(context, registry)
  await queue.start()
  await vi.waitFor(() => expect(done).toHaveLength(41), { timeout: 30_000 })
  expect(done.indexOf('fresh')).toBeLessThanOrEqual(1)
  // and the others keep the order in which they came
  expect(done.filter((one) => one !== 'fresh')).toEqual(Array.from({ length: 40 }, (_, n) => `long ${n}`))
  await queue.stop()
  db.close()
  rmSync(dataFolder, { recursive: true, force: true })
})
