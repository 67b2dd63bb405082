/** Jobs that outlive a request: kept in the database, claimed in turn, resumed after a restart. */

import { randomUUID } from 'node:crypto'
import { and, asc, eq, gte, inArray, isNull, lt, min, ne, notExists, or, sql } from 'drizzle-orm'
import { alias } from 'drizzle-orm/sqlite-core'
import { JOB_KINDS, JOBS, type JobKind, type JobPayload, type JobResult, type JobSoFar } from '#core/jobs/job.ts'
import { packed } from '#core/words/packed.ts'
import { type Message, message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { lectureMembers } from '#server/db/people-schema.ts'
import { jobs } from '#server/db/schema.ts'
import { asUserFacing } from '#server/errors/user-facing-error.ts'
import { type JobRow, type JobView, viewOf } from '#server/events/job-view.ts'
import { namesIn, release } from '#server/maintenance/used-files.ts'
import { Turns } from './turns.ts'

/** @param progress 0 to 1; @param soFar what is to be seen until there is a result */
export type Report<SoFar = never> = (progress: number, stage: Message, soFar?: SoFar) => void
/** What a job works with; it may add others. */
export type JobContext = AppContext & { queue: JobAdder }
/** Those of one lane are worked one after another, those of several beside each other. */
export type Lane = 'tidy' | 'decks' | 'sounds' | 'films' | 'publish' | 'pre-encode' | 'recognise'

export interface JobDefinition<K extends JobKind> {
  lane: Lane
  /** Its heavy work is tasks: where other machines are there, several are worked beside each other. */
  isTask?: boolean
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

/** Of jobs, what may be changed while they are in one of these states. */
async function change({ db, events }: AppContext, id: string, values: Partial<JobRow>, from: JobRow['state'][]) {
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

/** Takes a job of these kinds that is free, or whose worker has not been heard of: the oldest of whoever's turn it is. */
async function claim({ db, events }: AppContext, kinds: JobKind[], turns: Turns): Promise<{ row: JobRow; party: string } | null> {
  const now = Date.now()
  const claimed = await db.write(async (tx) => {
    const same = alias(jobs, 'same')
    const isUnderWay = tx
      .select({ id: same.id })
      .from(same)
      .where(
        and(
          eq(same.state, 'running'),
          ne(same.id, jobs.id),
          gte(same.leaseUntil, now),
          eq(same.kind, jobs.kind),
          eq(same.payload, jobs.payload),
        ),
      )
    const free = and(
      inArray(jobs.kind, kinds),
      // what is asked for again while it is worked on comes after it
      notExists(isUnderWay),
      or(eq(jobs.state, 'queued'), and(eq(jobs.state, 'running'), lt(jobs.leaseUntil, now))),
    )
    // whose lecture it is; where one person is alone, the lecture. One that is only being brought in stands in the payload.
    const about = sql<string>`coalesce(${jobs.lectureId}, json_extract(${jobs.payload}, '$.lectureId'), '')`
    const party = sql<string>`coalesce(${lectureMembers.personId}, ${about})`
    const owner = and(eq(lectureMembers.lectureId, about), eq(lectureMembers.right, 'own'))
    const waiting = await tx
      .select({ party })
      .from(jobs)
      .leftJoin(lectureMembers, owner)
      .where(free)
      .groupBy(party)
      .orderBy(min(jobs.createdAt))
    if (waiting.length === 0) return null
    const chosen = turns.next(waiting.map((one) => one.party))
    const [next] = await tx
      .select({ id: jobs.id, attempts: jobs.attempts })
      .from(jobs)
      .leftJoin(lectureMembers, owner)
      .where(and(free, eq(party, chosen)))
      .orderBy(asc(jobs.createdAt))
      .limit(1)
    const [row] = await tx
      .update(jobs)
      .set({ state: 'running', attempts: next!.attempts + 1, leaseUntil: now + LEASE_MS })
      .where(eq(jobs.id, next!.id))
      .returning()
    return row ? { row, party: chosen } : null
  })
  if (claimed) events.tell({ type: 'job', job: viewOf(claimed.row) })
  return claimed
}

/** Files that a job was given and that came to nothing do not stay. */
const releaseFiles = (context: AppContext, row: JobRow) =>
  release(context, namesIn(row.payload)).catch((error) => console.error('Files of a failed job could not be removed yet:', error))

/** Says that a job is worked on, and how far it is. */
function followProgress(context: AppContext, id: string): { report: Report<unknown>; end(): void } {
  const write = (values: Partial<JobRow>) => void change(context, id, values, ['running']).catch(() => {})
  const heartbeat = setInterval(() => write({ leaseUntil: Date.now() + LEASE_MS }), LEASE_MS / 3)
  let reported = 0
  return {
    report(progress, stage, soFar) {
      // at most ten a second: each one is a write
      if (progress < 1 && Date.now() - reported < 100) return
      reported = Date.now()
      write({ progress, stage: packed(stage), ...(soFar === undefined ? {} : { result: soFar }) })
    },
    end: () => clearInterval(heartbeat),
  }
}

export class JobQueue {
  readonly #context: AppContext
  readonly #registry: JobRegistry
  readonly #kindsByLane = new Map<Lane, JobKind[]>()
  readonly #running = new Map<string, AbortController>()
  readonly #working = new Map<Lane, { main: Promise<void> | null; beside: Set<Promise<void>> }>()
  readonly #turns = new Map<Lane, Turns>()
  #isStopped = true

  constructor(context: AppContext, registry: JobRegistry) {
    this.#context = context
    this.#registry = registry
    for (const kind of JOB_KINDS) {
      const { lane } = registry[kind]
      this.#kindsByLane.set(lane, [...(this.#kindsByLane.get(lane) ?? []), kind])
    }
  }

  async add<K extends JobKind>(kind: K, lectureId: string | null, payload: JobPayload<K>): Promise<JobView> {
    const job = await addJob(this.#context, kind, lectureId, payload)
    // a lane that is just running empty may have looked before this job was there: ask again when it has ended
    const { lane } = this.#registry[kind]
    void this.#loops(lane).main?.then(() => this.#wake(lane))
    this.#wake(lane)
    return job
  }

  async cancel(id: string): Promise<JobView | null> {
    const row = await change(this.#context, id, { state: 'cancelled', endedAt: Date.now() }, ['queued', 'running'])
    const controller = this.#running.get(id)
    controller?.abort(new Error('cancelled'))
    if (row && !controller) await releaseFiles(this.#context, row)
    return row && viewOf(row)
  }

  /** Takes up what another process has added. */
  look() {
    for (const lane of this.#kindsByLane.keys()) this.#wake(lane)
  }

  /** Begins to work; jobs left running by a process that ended are taken up again. */
  async start() {
    this.#isStopped = false
    const { db } = this.#context
    await db.write((tx) => tx.update(jobs).set({ state: 'queued', leaseUntil: null }).where(eq(jobs.state, 'running')))
    this.look()
  }

  /** Ends running work without marking it: it is taken up again at the next start. */
  async stop() {
    this.#isStopped = true
    for (const controller of this.#running.values()) controller.abort(new Error('stopping'))
    await Promise.all([...this.#working.values()].flatMap(({ main, beside }) => [main, ...beside]))
  }

  /** What works on a lane now. */
  #loops(lane: Lane) {
    const loops = this.#working.get(lane) ?? { main: null, beside: new Set<Promise<void>>() }
    this.#working.set(lane, loops)
    return loops
  }

  /** Works a lane until it is empty: what is worked here one after another, and beside it as much as other machines can take. */
  #wake(lane: Lane) {
    if (this.#isStopped) return
    const all = this.#kindsByLane.get(lane)!
    const tasks = all.filter((kind) => this.#registry[kind].isTask)
    const most = tasks.length > 0 ? this.#context.tasks.elsewhere() : 0
    const loops = this.#loops(lane)
    loops.main ??= this.#work(lane, all).finally(() => {
      loops.main = null
    })
    while (loops.beside.size < most) {
      const loop = this.#work(lane, tasks).finally(() => loops.beside.delete(loop))
      loops.beside.add(loop)
    }
  }

  async #work(lane: Lane, kinds: JobKind[]) {
    const turns = this.#turns.get(lane) ?? new Turns()
    this.#turns.set(lane, turns)
    try {
      for (;;) {
        const claimed = await claim(this.#context, kinds, turns)
        if (!claimed || this.#isStopped) return
        const began = performance.now()
        await this.#perform(claimed.row)
        turns.worked(claimed.party, performance.now() - began)
      }
    } catch (error) {
      console.error('The job queue stumbled:', error)
    }
  }

  async #perform(row: JobRow) {
    const context = this.#context
    if (row.attempts > MOST_ATTEMPTS) {
      const error = packed(message('This was tried three times and did not end. Try it again later.'))
      await change(context, row.id, { state: 'failed', error, endedAt: Date.now() }, ['running'])
      return
    }
    const controller = new AbortController()
    this.#running.set(row.id, controller)
    const progress = followProgress(context, row.id)
    try {
      const result = await this.#workOn(row.kind, row.payload, progress.report, controller.signal)
      await change(context, row.id, { state: 'done', progress: 1, result, endedAt: Date.now() }, ['running'])
    } catch (error) {
      // cancelled: said already; or stopping: taken up at the next start
      if (controller.signal.aborted) {
        if (!this.#isStopped) await releaseFiles(context, row)
        return
      }
      const sentence = asUserFacing(error)
      if (sentence !== error) console.error(`Job ${row.kind} ${row.id} failed:`, error)
      await this.#fail(row, packed(sentence.said))
      await releaseFiles(context, row)
    } finally {
      progress.end()
      this.#running.delete(row.id)
    }
  }

  /** Work of one kind, from what it was given to what it gives, both by their schemas. */
  async #workOn<K extends JobKind>(kind: K, given: unknown, report: Report<JobSoFar<K>>, signal: AbortSignal) {
    const { payload, result } = JOBS[kind]
    const input = payload.parse(given) as JobPayload<K>
    const context = { ...this.#context, queue: this }
    return result.parse((await this.#registry[kind].run(input, context, report, signal)) ?? null)
  }

  /** Marks a job as failed. On a full disk that cannot be written: it is told at once and written when there is room. */
  async #fail(row: JobRow, error: string) {
    const values = { state: 'failed' as const, error, endedAt: Date.now() }
    for (let isTold = false; ; ) {
      try {
        return await change(this.#context, row.id, values, ['running'])
      } catch {
        if (!isTold) this.#context.events.tell({ type: 'job', job: viewOf({ ...row, ...values }) })
        isTold = true
        if (this.#isStopped) return
        await new Promise((resolve) => setTimeout(resolve, WRITE_AGAIN_MS))
      }
    }
  }
}
