/** What an administrator looks at: room on the disk, work in hand, what failed and why, and who uses how much. */

import { and, count, desc, eq, gt, inArray, isNotNull, min, sql } from 'drizzle-orm'
import type { JobKind } from '#core/jobs/job.ts'
import { unpacked } from '#core/words/packed.ts'
import type { AppContext } from '#server/context/context.ts'
import { lectureMembers, people } from '#server/db/people-schema.ts'
import { jobs } from '#server/db/schema.ts'
import { usedByPeople, usedBySpaces } from '#server/people/quotas.ts'
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

export async function readUpkeep(context: Pick<AppContext, 'config' | 'db' | 'sending' | 'tasks'>, now = Date.now()) {
  const { read } = context.db
  const [storage, work, failed, slow, byPeople, bySpaces] = await Promise.all([
    roomOf(context),
    inHand(read),
    failures(read, now),
    slowness(read, now),
    usedByPeople(read),
    usedBySpaces(read),
  ])
  const { sending } = context
  const elsewhere = sending && {
    ...(await sending.there()),
    address: sending.address,
    waiting: sending.waiting(),
    problem: sending.problem(),
    damaged: sending.damaged().length,
  }
  return { storage, elsewhere, machines: context.tasks.state(), work, failed, slow, usedBy: byPeople, usedBySpaces: bySpaces }
}
