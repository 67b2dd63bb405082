/**
 * Reads files of strangers in a process of its own, which has bounds of time and memory: a drawing that never ends, or a file that breaks the
 * engine, ends that process and nothing else, and the next file has a new one.
 */

import { type ChildProcess, fork } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import pLimit from 'p-limit'
import { type Message, message } from '#core/words/say.ts'
import { ALLOCATOR } from '#server/config/allocator.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { Tasks } from './tasks.ts'

export interface Question {
  task: keyof Tasks
  input: unknown
}
export type Answer =
  | { progress: unknown }
  | { result: unknown }
  | { said: Message; status: UserFacingError['status'] }
  | { failed: string; diskFull: boolean }

export interface ImportLimits {
  /** A task that works for so long, in processor time, without telling of progress is ended. */
  silenceMs: number
  /** Memory of the process, MB. */
  megabytes: number
  /** A process that has nothing to do for so long ends: memory is given back. */
  idleMs: number
}
/** Of the clock in `/proc`. */
const TICK_MS = 10
/** So many times as long a file may take by the wall clock, for what waits and does not work. */
const BUSY_MACHINE = 5
/** A page takes a fraction of a second. Memory: decks of large photographs stay within it (`tests/api/abuse/import-bounds.test.ts`). */
const LIMITS: ImportLimits = { silenceMs: 60_000, megabytes: 600, idleMs: 30_000 }
const LOOK_MS = 50
const PAGE_BYTES = 4096

type Input<T extends keyof Tasks> = Parameters<Tasks[T]>[0]
type Told<T extends keyof Tasks> = Parameters<Tasks[T]>[1] extends (told: infer P) => void ? P : never

export interface Importer {
  /**
   * @param name of the file as the person knows it, for what is said of it
   * @throws UserFacingError for what is wrong with the file, and when it needs more time or memory than is given
   */
  run<T extends keyof Tasks>(
    task: T,
    input: Input<T>,
    options: { name: string; tell?: (progress: Told<T>) => void; signal?: AbortSignal },
  ): Promise<Awaited<ReturnType<Tasks[T]>>>
  close(): void
}

/** Memory that a process has now, MB; 0 where the system does not tell. */
function megabytesOf(pid: number | undefined): number {
  try {
    return (Number(readFileSync(`/proc/${pid}/statm`, 'utf8').split(' ')[1]) * PAGE_BYTES) / 1024 ** 2
  } catch {
    return 0
  }
}

/** Processor time that a process has had, ms; 0 where the system does not tell. */
function processorMsOf(pid: number | undefined): number {
  try {
    const fields = readFileSync(`/proc/${pid}/stat`, 'utf8')
      .replace(/^.*\) /s, '')
      .split(' ')
    return (Number(fields[11]) + Number(fields[12])) * TICK_MS
  } catch {
    return 0
  }
}

/** Processes that read files: each has one at a time, and rests for a while before it ends. */
class ImportProcesses {
  readonly #limits: ImportLimits
  readonly #idle = new Map<ChildProcess, NodeJS.Timeout>()
  readonly #all = new Set<ChildProcess>()

  constructor(limits: ImportLimits) {
    this.#limits = limits
  }

  /** One that rests, or a new one. */
  take(): ChildProcess {
    const [free] = this.#idle.keys()
    if (!free) return this.#start()
    clearTimeout(this.#idle.get(free))
    this.#idle.delete(free)
    free.ref()
    free.channel?.ref()
    return free
  }

  rest(child: ChildProcess) {
    // neither the process nor its channel keeps the server from ending
    child.unref()
    child.channel?.unref()
    const tooLong = setTimeout(() => {
      // it dies a moment later: meanwhile nobody may be given to it
      this.#idle.delete(child)
      child.kill('SIGKILL')
    }, this.#limits.idleMs)
    this.#idle.set(child, tooLong.unref())
  }

  endAll() {
    for (const child of this.#all) child.kill('SIGKILL')
  }

  #start(): ChildProcess {
    const fromSource = import.meta.filename.endsWith('.ts')
    // the bundle runs even under a test runner: Node 20 cannot load TypeScript in a process of its own
    const program = join(import.meta.dirname, fromSource ? '../../dist/server/import.js' : 'import.js')
    const child = fork(program, {
      serialization: 'advanced',
      execArgv: [`--max-old-space-size=${this.#limits.megabytes}`],
      env: { ...process.env, ...ALLOCATOR },
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    })
    this.#all.add(child)
    child.on('exit', () => {
      this.#all.delete(child)
      clearTimeout(this.#idle.get(child))
      this.#idle.delete(child)
    })
    child.on('error', (error) => console.error('The import process stumbled:', error))
    return child
  }
}

/** What a file needs too much of, null while it stays within its bounds. @param where what is being read */
function excess(
  child: ChildProcess,
  limits: ImportLimits,
  heard: { at: number; worked: number },
  where: Message,
): Message | null {
  if (megabytesOf(child.pid) > limits.megabytes)
    return message(
      '{where} needs more than {megabytes} MB of memory to be drawn. Export the deck as a PDF with smaller pictures, or divide it.',
      { where, megabytes: limits.megabytes },
    )
  // what it worked counts: on a machine that is busy with other things a good file is read slowly
  const isSilent = processorMsOf(child.pid) - heard.worked > limits.silenceMs
  if (isSilent || Date.now() - heard.at > limits.silenceMs * BUSY_MACHINE)
    return message('{where} was not drawn within {seconds} seconds of work. Simplify its drawing, or export it as a picture.', {
      where,
      seconds: Math.round(limits.silenceMs / 1000),
    })
  return null
}

interface Asked {
  question: Question
  name: string
  tell: (progress: never) => void
  signal: AbortSignal | undefined
}

/** Has one question answered by one process. */
function perform(processes: ImportProcesses, limits: ImportLimits, { question, name, tell, signal }: Asked): Promise<unknown> {
  return new Promise((resolve, reject) => {
    if (signal?.aborted) return reject(signal.reason)
    const child = processes.take()
    let heard = { at: Date.now(), worked: processorMsOf(child.pid) }
    let page = 0
    const end = (settle: () => void, isWell: boolean) => {
      clearInterval(watch)
      signal?.removeEventListener('abort', abort)
      child.off('message', hear)
      child.off('exit', gone)
      if (isWell) processes.rest(child)
      else child.kill('SIGKILL')
      settle()
    }
    const refuse = (said: Message) => end(() => reject(new UserFacingError(said, 422)), false)
    const abort = () => end(() => reject(signal!.reason), false)
    const gone = () =>
      refuse(
        page > 0
          ? message('“{name}” broke off what reads it, after page {page}. It may be damaged: export it again.', { name, page })
          : message('“{name}” broke off what reads it. It may be damaged: export it again.', { name }),
      )
    const hear = (answer: Answer) => {
      heard = { at: Date.now(), worked: processorMsOf(child.pid) }
      if ('progress' in answer) {
        page = (answer.progress as { page?: number } | null)?.page ?? page
        tell(answer.progress as never)
      } else if ('result' in answer) end(() => resolve(answer.result), true)
      else if ('said' in answer) end(() => reject(new UserFacingError(answer.said, answer.status)), true)
      else {
        const error = new Error(answer.failed)
        end(() => reject(answer.diskFull ? Object.assign(error, { code: 'ENOSPC' }) : error), false)
      }
    }
    const watch = setInterval(() => {
      const where = page > 0 ? message('What comes after page {page} of “{name}”', { page, name }) : message('“{name}”', { name })
      const problem = excess(child, limits, heard, where)
      if (problem) refuse(problem)
    }, LOOK_MS)
    signal?.addEventListener('abort', abort, { once: true })
    child.on('message', hear)
    child.on('exit', gone)
    child.send(question)
  })
}

export function startImporter(changed: Partial<ImportLimits> = {}): Importer {
  const limits = { ...LIMITS, ...changed }
  const processes = new ImportProcesses(limits)
  // a picture that somebody adds does not wait for the deck that somebody imports
  const inTurn = pLimit(2)
  return {
    run: (task, input, { name, tell = () => {}, signal }) =>
      inTurn(() =>
        perform(processes, limits, { question: { task, input }, name, tell: tell as (progress: never) => void, signal }),
      ) as never,
    close: () => processes.endAll(),
  }
}
