/** Figures of a running server, as Prometheus reads them. @see Prometheus, "Metric and label naming": base units, one prefix */
import { statfs } from 'node:fs/promises'
import { count, eq, min } from 'drizzle-orm'
import { collectDefaultMetrics, Gauge, Histogram, Registry } from 'prom-client'
import type { AppContext } from '#server/context/context.ts'
import { jobs, lectures, takes } from '#server/db/schema.ts'
import type { ServerLog } from './log.ts'

const SECONDS = [0.005, 0.02, 0.05, 0.15, 0.5, 1.5, 5, 15, 60]

export interface Metrics {
  request: ServerLog['request']
  /** @returns the text that Prometheus reads, and its type */
  read(): Promise<{ text: string; type: string }>
}

function tellSending(sending: NonNullable<AppContext['sending']>, registers: Registry[]) {
  new Gauge({
    name: 'lectern_store_waiting_files',
    help: 'Files that are on this machine alone and not in the store of files yet',
    registers,
    collect() {
      this.set(sending.waiting())
    },
  })
  new Gauge({
    name: 'lectern_store_up',
    help: '1 while files can be sent to the store of files',
    registers,
    collect() {
      this.set(sending.problem() ? 0 : 1)
    },
  })
}

function tellTasks(tasks: AppContext['tasks'], registers: Registry[]) {
  new Gauge({
    name: 'lectern_queue_up',
    help: '1 while Redis answers',
    registers,
    collect() {
      this.set(tasks.state()?.isUp ? 1 : 0)
    },
  })
  new Gauge({
    name: 'lectern_tasks_elsewhere_most',
    help: 'How many tasks other machines can work on at the same time',
    registers,
    collect() {
      this.set(tasks.elsewhere())
    },
  })
  new Gauge({
    name: 'lectern_tasks_elsewhere',
    help: 'Tasks that other machines are working on',
    registers,
    collect() {
      this.set(tasks.state()?.away ?? 0)
    },
  })
}

export function makeMetrics({ db, config, sending, tasks }: Pick<AppContext, 'db' | 'config' | 'sending' | 'tasks'>): Metrics {
  const register = new Registry()
  const registers = [register]
  const requests = new Histogram({
    name: 'lectern_http_request_seconds',
    help: 'Time until a request is answered',
    labelNames: ['method', 'route', 'status'],
    buckets: SECONDS,
    registers,
  })
  new Gauge({
    name: 'lectern_jobs',
    help: 'Jobs by kind and state',
    labelNames: ['kind', 'state'],
    registers,
    async collect() {
      this.reset()
      const rows = await db.read
        .select({ kind: jobs.kind, state: jobs.state, jobs: count() })
        .from(jobs)
        .groupBy(jobs.kind, jobs.state)
      for (const row of rows) this.set({ kind: row.kind, state: row.state }, row.jobs)
    },
  })
  new Gauge({
    name: 'lectern_job_oldest_waiting_seconds',
    help: 'How long the oldest job waits that nobody has begun',
    registers,
    async collect() {
      const [row] = await db.read
        .select({ oldest: min(jobs.createdAt) })
        .from(jobs)
        .where(eq(jobs.state, 'queued'))
      this.set(row?.oldest ? (Date.now() - row.oldest) / 1000 : 0)
    },
  })
  new Gauge({
    name: 'lectern_disk_free_bytes',
    help: 'Free on the disk of the data folder',
    registers,
    async collect() {
      const { bavail, bsize } = await statfs(config.dataFolder)
      this.set(bavail * bsize)
    },
  })
  for (const [name, table] of [
    ['lectern_lectures', lectures],
    ['lectern_takes', takes],
  ] as const)
    new Gauge({
      name,
      help: `How many ${name.replace('lectern_', '')} the database holds`,
      registers,
      async collect() {
        this.set(await db.read.$count(table))
      },
    })
  if (sending) tellSending(sending, registers)
  if (tasks.state()) tellTasks(tasks, registers)
  let hasDefaults = false
  return {
    request: ({ method, route, status, ms }) => requests.observe({ method, route, status: String(status) }, ms / 1000),
    async read() {
      // of the process itself, gathered from the first time on that somebody asks
      if (!hasDefaults) collectDefaultMetrics({ register })
      hasDefaults = true
      return { text: await register.metrics(), type: register.contentType }
    },
  }
}
