/** Jobs that outlive a request: kept in the database, claimed in turn, resumed after a restart. */
import { randomUUID } from 'node:crypto'
import { and, asc, eq, inArray, isNull, lt, or } from 'drizzle-orm'
import type { AppContext } from '#server/context/context.ts'
import { jobs } from '#server/db/schema.ts'
import { asUserFacing } from '#server/errors/user-facing-error.ts'
import { type JobKind, type JobRow, type JobView, viewOf } from '#server/events/job-view.ts'
import { namesIn, release } from '#server/maintenance/used-files.ts'

/** @param progress 0 to 1; @param soFar stands as the job's result until it has one */
export type Report = (progress: number, stage: string, soFar?: unknown) => void
/** A plain function: takes the input, does the work in named steps, reports, returns. */
export type Job = (input: never, context: AppContext, report: Report, signal: AbortSignal) => Promise<unknown>

const LEASE_MS = 30_000
const MOST_ATTEMPTS = 3
const WRITE_AGAIN_MS = 1000
/** Lanes of their own: neither a long publication nor a long file must keep a fresh take from being tidied. */
const LANES: JobKind[][] = [
  ['tidy'],
  ['import', 'replace', 'demo'],
  ['align', 'import-sound', 'bed', 'recording', 'split-recording', 'split-session', 'patch-sentence'],
  ['publish'],
  ['pre-encode'],
  ['recognise'],
]

export interface JobQueue {
  add(kind: JobKind, lectureId: string | null, payload: unknown): Promise<JobView>
  cancel(id: string): Promise<JobView | null>
  /** Takes up what another process has added. */
  look(): void
  /** Begins to work; jobs left running by a process that ended are taken up again. */
  start(): Promise<void>
  /** Ends running work without marking it: it is taken up again at the next start. */
  stop(): Promise<void>
}

/** Adds a job, unless the same waits already; who runs a queue on this data takes it up. */
export async function addJob(
  { db, events }: Pick<AppContext, 'db' | 'events'>,
  kind: JobKind,
  lectureId: string | null,
  payload: unknown,
): Promise<JobView> {
  const values = { id: randomUUID(), kind, lectureId, payload, state: 'queued' as const, createdAt: Date.now() }
  const [row] = await db.write(async (tx) => {
    const same = and(
      eq(jobs.kind, kind),
      eq(jobs.state, 'queued'),
      eq(jobs.payload, payload),
      lectureId === null ? isNull(jobs.lectureId) : eq(jobs.lectureId, lectureId),
    )
    const waiting = await tx.select().from(jobs).where(same).limit(1)
    return waiting.length > 0 ? waiting : tx.insert(jobs).values(values).returning()
  })
  events.tell({ type: 'job', job: viewOf(row!) })
  return viewOf(row!)
}

export function jobQueue(context: AppContext, work: Record<JobKind, Job>): JobQueue {
  const { db, events } = context
  const running = new Map<string, AbortController>()
  const lanes = new Map<JobKind[], Promise<void>>()
  let stopped = true

  async function change(id: string, values: Partial<JobRow>, from: JobRow['state'][]): Promise<JobRow | null> {
    const [row] = await db.write((tx) =>
      tx
        .update(jobs)
        .set(values)
        .where(and(eq(jobs.id, id), inArray(jobs.state, from)))
        .returning(),
    )
    if (row) events.tell({ type: 'job', job: viewOf(row) })
    return row ?? null
  }

  /** Takes the oldest job of a lane that is free, or whose worker has not been heard of. */
  async function claim(kinds: JobKind[]): Promise<JobRow | null> {
    const now = Date.now()
    const row = await db.write(async (tx) => {
      const free = or(eq(jobs.state, 'queued'), and(eq(jobs.state, 'running'), lt(jobs.leaseUntil, now)))
      const [next] = await tx
        .select()
        .from(jobs)
        .where(and(inArray(jobs.kind, kinds), free))
        .orderBy(asc(jobs.createdAt))
        .limit(1)
      if (!next) return null
      const [claimed] = await tx
        .update(jobs)
        .set({ state: 'running', attempts: next.attempts + 1, leaseUntil: now + LEASE_MS })
        .where(eq(jobs.id, next.id))
        .returning()
      return claimed ?? null
    })
    if (row) events.tell({ type: 'job', job: viewOf(row) })
    return row
  }

  /** Marks a job as failed. On a full disk that cannot be written: it is told at once and written when there is room. */
  async function fail(row: JobRow, error: string) {
    const values = { state: 'failed' as const, error, endedAt: Date.now() }
    for (let isTold = false; ; ) {
      try {
        return await change(row.id, values, ['running'])
      } catch {
        if (!isTold) events.tell({ type: 'job', job: viewOf({ ...row, ...values }) })
        isTold = true
        if (stopped) return
        await new Promise((resolve) => setTimeout(resolve, WRITE_AGAIN_MS))
      }
    }
  }

  /** Files that a job was given and that came to nothing do not stay. */
  const letGo = (row: JobRow) =>
    release(context, namesIn(row.payload)).catch((error) =>
      console.error('Files of a failed job could not be removed yet:', error),
    )

  async function perform(row: JobRow) {
    if (row.attempts > MOST_ATTEMPTS) {
      await change(
        row.id,
        { state: 'failed', error: 'This was tried three times and did not end. Try it again later.', endedAt: Date.now() },
        ['running'],
      )
      return
    }
    const controller = new AbortController()
    running.set(row.id, controller)
    const heartbeat = setInterval(
      () => void change(row.id, { leaseUntil: Date.now() + LEASE_MS }, ['running']).catch(() => {}),
      LEASE_MS / 3,
    )
    let reported = 0
    const report: Report = (progress, stage, soFar) => {
      // at most ten a second: each one is a write
      if (progress < 1 && Date.now() - reported < 100) return
      reported = Date.now()
      void change(row.id, { progress, stage, ...(soFar === undefined ? {} : { result: soFar }) }, ['running']).catch(() => {})
    }
    try {
      const result = await work[row.kind](row.payload as never, context, report, controller.signal)
      await change(row.id, { state: 'done', progress: 1, result: result ?? null, endedAt: Date.now() }, ['running'])
    } catch (error) {
      // cancelled: said already; or stopping: taken up at the next start
      if (controller.signal.aborted) {
        if (!stopped) await letGo(row)
        return
      }
      const sentence = asUserFacing(error)
      if (sentence !== error) console.error(`Job ${row.kind} ${row.id} failed:`, error)
      await fail(row, sentence.message)
      await letGo(row)
    } finally {
      clearInterval(heartbeat)
      running.delete(row.id)
    }
  }

  /** Works a lane until it is empty. */
  function wake(kinds: JobKind[]) {
    if (stopped || lanes.has(kinds)) return
    const loop = (async () => {
      for (let row = await claim(kinds); row && !stopped; row = await claim(kinds)) await perform(row)
    })()
      .catch((error) => console.error('The job queue stumbled:', error))
      .finally(() => lanes.delete(kinds))
    lanes.set(kinds, loop)
  }

  return {
    async add(kind, lectureId, payload) {
      const job = await addJob(context, kind, lectureId, payload)
      // a lane that is just running empty may have looked before this job was there: ask again when it has ended
      for (const kinds of LANES) if (kinds.includes(kind)) void (lanes.get(kinds) ?? Promise.resolve()).then(() => wake(kinds))
      return job
    },
    async cancel(id) {
      const row = await change(id, { state: 'cancelled', endedAt: Date.now() }, ['queued', 'running'])
      const controller = running.get(id)
      controller?.abort(new Error('cancelled'))
      if (row && !controller) await letGo(row)
      return row && viewOf(row)
    },
    look() {
      for (const kinds of LANES) wake(kinds)
    },
    async start() {
      stopped = false
      await db.write((tx) => tx.update(jobs).set({ state: 'queued', leaseUntil: null }).where(eq(jobs.state, 'running')))
      for (const kinds of LANES) wake(kinds)
    },
    async stop() {
      stopped = true
      for (const controller of running.values()) controller.abort(new Error('stopping'))
      await Promise.all(lanes.values())
    },
  }
}
