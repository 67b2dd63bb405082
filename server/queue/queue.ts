/** Jobs that outlive a request: kept in the database, claimed in turn, resumed after a restart. */
import { randomUUID } from 'node:crypto'
import { and, asc, eq, inArray, isNull, lt, or } from 'drizzle-orm'
import { JOB_KINDS, JOBS, type JobKind, type JobPayload, type JobResult, type JobSoFar } from '#core/jobs/job.ts'
import type { AppContext } from '#server/context/context.ts'
import { jobs } from '#server/db/schema.ts'
import { asUserFacing } from '#server/errors/user-facing-error.ts'
import { type JobRow, type JobView, viewOf } from '#server/events/job-view.ts'
import { namesIn, release } from '#server/maintenance/used-files.ts'

/** @param progress 0 to 1; @param soFar what is to be seen until there is a result */
export type Report<SoFar = never> = (progress: number, stage: string, soFar?: SoFar) => void
/** What a job works with; it may add others. */
export type JobContext = AppContext & { queue: JobAdder }
/** Those of one lane are worked one after another, those of several beside each other. */
export type Lane = 'tidy' | 'decks' | 'sounds' | 'publish' | 'pre-encode' | 'recognise'

export interface JobDefinition<K extends JobKind> {
  lane: Lane
  /** A plain function: takes the input, does the work in named steps, reports, returns. It never touches its row. */
  run(
    input: JobPayload<K>,
    context: JobContext,
    report: Report<JobSoFar<K>>,
    signal: AbortSignal,
  ): Promise<JobResult<K> | (null extends JobResult<K> ? undefined : never)>
}
export type JobRegistry = { [K in JobKind]: JobDefinition<K> }

const LEASE_MS = 30_000
const MOST_ATTEMPTS = 3
const WRITE_AGAIN_MS = 1000
export interface JobQueue {
  add<K extends JobKind>(kind: K, lectureId: string | null, payload: JobPayload<K>): Promise<JobView>
  cancel(id: string): Promise<JobView | null>
  /** Takes up what another process has added. */
  look(): void
  /** Begins to work; jobs left running by a process that ended are taken up again. */
  start(): Promise<void>
  /** Ends running work without marking it: it is taken up again at the next start. */
  stop(): Promise<void>
}

/** For those who only give it work. */
export type JobAdder = Pick<JobQueue, 'add'>

/** Adds a job, unless the same waits already; who runs a queue on this data takes it up. */
export async function addJob<K extends JobKind>(
  { db, events }: Pick<AppContext, 'db' | 'events'>,
  kind: K,
  lectureId: string | null,
  payload: JobPayload<K>,
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

export function jobQueue(context: AppContext, registry: JobRegistry): JobQueue {
  const { db, events } = context
  const kindsByLane = new Map<Lane, JobKind[]>()
  for (const kind of JOB_KINDS) {
    const { lane } = registry[kind]
    kindsByLane.set(lane, [...(kindsByLane.get(lane) ?? []), kind])
  }
  const running = new Map<string, AbortController>()
  const working = new Map<Lane, Promise<void>>()
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

  /** Work of one kind, from what it was given to what it gives, both by their schemas. */
  async function workOn<K extends JobKind>(kind: K, given: unknown, report: Report<JobSoFar<K>>, signal: AbortSignal) {
    const { payload, result } = JOBS[kind]
    const input = payload.parse(given) as JobPayload<K>
    return result.parse((await registry[kind].run(input, { ...context, queue }, report, signal)) ?? null)
  }

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
    const report: Report<unknown> = (progress, stage, soFar) => {
      // at most ten a second: each one is a write
      if (progress < 1 && Date.now() - reported < 100) return
      reported = Date.now()
      void change(row.id, { progress, stage, ...(soFar === undefined ? {} : { result: soFar }) }, ['running']).catch(() => {})
    }
    try {
      const result = await workOn(row.kind, row.payload, report, controller.signal)
      await change(row.id, { state: 'done', progress: 1, result, endedAt: Date.now() }, ['running'])
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
  function wake(lane: Lane) {
    if (stopped || working.has(lane)) return
    const kinds = kindsByLane.get(lane)!
    const loop = (async () => {
      for (let row = await claim(kinds); row && !stopped; row = await claim(kinds)) await perform(row)
    })()
      .catch((error) => console.error('The job queue stumbled:', error))
      .finally(() => working.delete(lane))
    working.set(lane, loop)
  }

  const queue: JobQueue = {
    async add(kind, lectureId, payload) {
      const job = await addJob(context, kind, lectureId, payload)
      // a lane that is just running empty may have looked before this job was there: ask again when it has ended
      const { lane } = registry[kind]
      void (working.get(lane) ?? Promise.resolve()).then(() => wake(lane))
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
      for (const lane of kindsByLane.keys()) wake(lane)
    },
    async start() {
      stopped = false
      await db.write((tx) => tx.update(jobs).set({ state: 'queued', leaseUntil: null }).where(eq(jobs.state, 'running')))
      for (const lane of kindsByLane.keys()) wake(lane)
    },
    async stop() {
      stopped = true
      for (const controller of running.values()) controller.abort(new Error('stopping'))
      await Promise.all(working.values())
    },
  }
  return queue
}
