/** A server of the bench's own, asked over loopback; its memory with that of all its helpers, and what it leaves behind. */
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { basename, join } from 'node:path'
import type { Lecture } from '#core/model/lecture.ts'
import type { JobView } from '#server/events/job-view.ts'
import { serverProcess } from '#tests/support/processes/server-process.ts'
import { recordOver } from '#tests/support/recording.ts'
import type { Asked } from '#tests/support/target.ts'

const LOOK_MS = 50
/** Nothing that is asked for may take longer: the bounds of an import are a minute without progress. */
export const HANG_MS = 150_000
const PAGE_MB = 4096 / 1024 ** 2

/** Memory of a process and all that it started, MB. */
interface Memory {
  megabytes: number
  /** Of each of its processes. */
  parts: { program: string; megabytes: number }[]
}

const programOf = (pid: number) =>
  basename(
    readFileSync(`/proc/${pid}/cmdline`, 'utf8')
      .split('\0')
      .filter((word) => word && !word.startsWith('-'))
      .slice(0, 2)
      .at(-1) ?? '',
  )

function treeOf(root: number): Memory {
  const parents = new Map<number, number>()
  for (const name of readdirSync('/proc')) {
    if (!/^\d+$/.test(name)) continue
    try {
      parents.set(Number(name), Number(/\) \S (\d+)/.exec(readFileSync(`/proc/${name}/stat`, 'utf8'))![1]))
    } catch {
      // it has ended
    }
  }
  const tree = new Set([root])
  for (let grew = true; grew; ) {
    grew = false
    for (const [pid, parent] of parents)
      if (tree.has(parent) && !tree.has(pid)) {
        tree.add(pid)
        grew = true
      }
  }
  const parts: Memory['parts'] = []
  for (const pid of tree) {
    try {
      const megabytes = Number(readFileSync(`/proc/${pid}/statm`, 'utf8').split(' ')[1]) * PAGE_MB
      parts.push({ program: programOf(pid), megabytes })
    } catch {
      // it has ended
    }
  }
  return { megabytes: parts.reduce((sum, part) => sum + part.megabytes, 0), parts }
}

const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

export async function openHost() {
  const data = mkdtempSync(join(tmpdir(), 'lectern-abuse-'))
  const server = await serverProcess(data)
  await server.start()
  let most: Memory = { megabytes: 0, parts: [] }
  const watch = setInterval(() => {
    if (!server.isRunning()) return
    const now = treeOf(server.pid())
    if (now.megabytes > most.megabytes) most = now
  }, LOOK_MS)
  const ask = (path: string, init: RequestInit = {}) =>
    fetch(`${server.address}${path}`, { signal: AbortSignal.timeout(HANG_MS), ...init })
  const read = async <T>(path: string) => (await (await ask(path)).json()) as T
  const jobs = async () => (await read<{ jobs: JobView[] }>('/api/jobs')).jobs
  const isOpen = (job: JobView) => job.state === 'queued' || job.state === 'running'
  async function ended(id: string): Promise<JobView> {
    for (const until = Date.now() + HANG_MS; Date.now() < until; await wait(LOOK_MS)) {
      const job = (await jobs()).find((one) => one.id === id)
      if (job && !isOpen(job)) return job
    }
    throw new Error(`Job ${id} hangs`)
  }
  const app: Asked = {
    ask,
    read,
    ended,
    json: (method, path, body) =>
      ask(path, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
    async idle() {
      for (const until = Date.now() + 4 * HANG_MS; Date.now() < until; await wait(LOOK_MS))
        if (!(await jobs()).some(isOpen)) return
      throw new Error('Jobs hang')
    },
    async newLecture() {
      const form = new FormData()
      form.append('files', new File([readFileSync('demo/files/clouds-by-their-shapes.pdf')], 'clouds.pdf'))
      const { job } = (await (await ask('/api/lectures', { method: 'POST', body: form })).json()) as { job: JobView }
      const { lectureId } = (await ended(job.id)).result as { lectureId: string }
      return read<Lecture>(`/api/lectures/${lectureId}`)
    },
    record: (slideId, samples) => recordOver(server.address, slideId, samples),
  }
  return {
    app,
    server,
    data,
    /** MB now, with everything it started. */
    memory: () => treeOf(server.pid()),
    processes: () => treeOf(server.pid()).parts.length,
    /** The most there ever was. */
    mostMemory: () => most,
    scratch: () => readdirSync(join(data, 'scratch')),
    async close() {
      clearInterval(watch)
      if (server.isRunning()) await server.kill()
      rmSync(data, { recursive: true, force: true })
    },
  }
}
export type Host = Awaited<ReturnType<typeof openHost>>
