/** What an administrator looks at: room on the disk, work in hand, what failed and why, and who uses how much. */

import { and, asc, count, desc, eq, gt, inArray, isNotNull, isNull, min, sql, sum } from 'drizzle-orm'
import type { JobKind } from '#core/jobs/job.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { unpacked } from '#core/words/packed.ts'
import type { AppContext } from '#server/context/context.ts'
import { lectureMembers, people } from '#server/db/people-schema.ts'
import { editionFiles, editions, jobs, slides, takes } from '#server/db/schema.ts'
import { isShownTake } from '#server/db/shown.ts'
import { usedInSpaces } from '#server/people/quotas.ts'
import { type StorageUse, storageUse } from './usage.ts'

/** A week: what is older was looked at, or is of no use any more. */
const SINCE_MS = 7 * 24 * 3600_000
const SHOWN = 20

type Tables = AppContext['db']['read']

const inHand = async (read: Tables) => {
  const rows = await read
    .select({ kind: jobs.kind, state: jobs.state, count: count(), oldest: min(jobs.createdAt) })
    .from(jobs)
    .where(inArray(jobs.state, ['queued', 'running']))
    .groupBy(jobs.kind, jobs.state)
  return rows.map(({ kind, state, count: jobsOfIt, oldest }) => ({ kind, state, count: jobsOfIt, oldestAt: oldest ?? 0 }))
}

/** What failed, with its words; of whose lecture it was, no title is told. */
async function failures(read: Tables, now: number) {
  const rows = await read
    .select({ id: jobs.id, kind: jobs.kind, error: jobs.error, endedAt: jobs.endedAt, owner: people.name })
    .from(jobs)
    .leftJoin(lectureMembers, and(eq(lectureMembers.lectureId, jobs.lectureId), eq(lectureMembers.right, 'own')))
    .leftJoin(people, eq(people.id, lectureMembers.personId))
    .where(and(eq(jobs.state, 'failed'), gt(jobs.endedAt, now - SINCE_MS)))
    .orderBy(desc(jobs.endedAt))
    .limit(SHOWN)
  return rows.map(({ error, ...row }) => ({ ...row, error: error === null ? null : unpacked(error) }))
}

/** How long jobs of each kind took from when they were asked for, the slowest kind first. */
async function slowness(read: Tables, now: number): Promise<{ kind: JobKind; count: number; meanMs: number; mostMs: number }[]> {
  const took = sql<number>`${jobs.endedAt} - ${jobs.createdAt}`
  return read
    .select({ kind: jobs.kind, count: count(), meanMs: sql<number>`avg(${took})`, mostMs: sql<number>`max(${took})` })
    .from(jobs)
    .where(and(eq(jobs.state, 'done'), isNotNull(jobs.endedAt), gt(jobs.endedAt, now - SINCE_MS)))
    .groupBy(jobs.kind)
    .orderBy(desc(sql`max(${took})`))
}

async function use(read: Tables) {
  const owned = and(eq(lectureMembers.personId, people.id), eq(lectureMembers.right, 'own'))
  const recorded = await read
    .select({ id: people.id, samples: sum(takes.samples) })
    .from(people)
    .innerJoin(lectureMembers, owned)
    .innerJoin(slides, eq(slides.lectureId, lectureMembers.lectureId))
    .innerJoin(takes, and(eq(takes.slideId, slides.id), isShownTake))
    .groupBy(people.id)
  const published = await read
    .select({ id: people.id, bytes: sum(editionFiles.bytes) })
    .from(people)
    .innerJoin(lectureMembers, owned)
    .innerJoin(editions, and(eq(editions.lectureId, lectureMembers.lectureId), isNull(editions.deletedAt)))
    .innerJoin(editionFiles, eq(editionFiles.editionId, editions.id))
    .groupBy(people.id)
  const all = await read.select({ id: people.id, name: people.name }).from(people).orderBy(asc(people.name))
  return all.map(({ id, name }) => ({
    id,
    name,
    recordedSeconds: toSeconds(Number(recorded.find((row) => row.id === id)?.samples ?? 0)),
    editionsBytes: Number(published.find((row) => row.id === id)?.bytes ?? 0),
  }))
}

/** Every file is looked at to tell how much room all of them take: so seldom. */
const ROOM_FOR_MS = 5 * 60_000
const rooms = new WeakMap<object, { room: Promise<StorageUse>; until: number }>()

function roomOf(context: Pick<AppContext, 'config' | 'db'>): Promise<StorageUse> {
  const known = rooms.get(context.db)
  if (known && known.until > performance.now()) return known.room
  const room = storageUse(context)
  rooms.set(context.db, { room, until: performance.now() + ROOM_FOR_MS })
  return room
}

export async function readUpkeep(context: Pick<AppContext, 'config' | 'db'>, now = Date.now()) {
  const { read } = context.db
  const [storage, work, failed, slow, usedBy, usedBySpaces] = await Promise.all([
    roomOf(context),
    inHand(read),
    failures(read, now),
    slowness(read, now),
    use(read),
    usedInSpaces(read),
  ])
  return { storage, work, failed, slow, usedBy, usedBySpaces }
}
