/**
 * Starts programs from a small process. Starting one copies the memory map of whoever starts it: from a server of 500 MB that stops every thread
 * for 50 ms and more, and each page that is written afterwards costs again (`npm run bench -- launch`).
 *
 * The small process is asked by messages; what a program reads and writes goes over sockets straight to us, and does not pass through it.
 */
import { type ChildProcess, fork } from 'node:child_process'
import { once } from 'node:events'
import { mkdtempSync, rmSync } from 'node:fs'
import { createServer, type Server, type Socket } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ALLOCATOR } from '#server/config/allocator.ts'

export interface Start {
  id: number
  program: string
  args: readonly string[]
  hasInput: boolean
  /** The folder that paths in `args` begin at: ours at the moment. */
  cwd: string
  /** Where the program's sockets are awaited. */
  address: string
}
export type Order = Start | { kill: number }
export type Report = { id: number; code: number | null } | { id: number; failed: string; errno: string | undefined }

/** Which of a program's streams a socket is: its first bytes say so. */
export const STREAMS = ['stdin', 'stdout', 'stderr'] as const
export type StreamName = (typeof STREAMS)[number]
/** One byte for the stream, four for the program's number. */
export const HEADER_BYTES = 5

export interface Running {
  /** Null when it was started without input. */
  stdin: Socket | null
  stdout: Socket
  stderr: Socket
  kill(): void
  /** Its exit code when it has ended and all that it wrote has been read, null when it was killed. @throws when it could not be started */
  ended: Promise<number | null>
}

interface Expected {
  sockets: Partial<Record<StreamName, Socket>>
  wanted: number
  connected: () => void
  report: (report: Report) => void
  failed: (error: Error) => void
}

/** A promise that is kept or broken from outside. */
function promised<T>() {
  let resolve!: (value: T) => void
  let reject!: (error: Error) => void
  const promise = new Promise<T>((kept, broken) => {
    resolve = kept
    reject = broken
  })
  return { promise, resolve, reject }
}

class Launcher {
  readonly #expected = new Map<number, Expected>()
  readonly #folder = mkdtempSync(join(tmpdir(), 'lectern-launch-'))
  readonly #server: Server
  readonly #child: ChildProcess
  #last = 0
  isOver = false

  constructor() {
    const fromSource = import.meta.filename.endsWith('.ts')
    // the bundle runs even under a test runner: Node 20 cannot load TypeScript in a process of its own
    const program = join(import.meta.dirname, fromSource ? '../../../dist/server/launcher.js' : 'launcher.js')
    this.#child = fork(program, [this.#folder], {
      env: { ...process.env, ...ALLOCATOR },
      execArgv: [],
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    })
    this.#child.on('message', (report: Report) => this.#expected.get(report.id)?.report(report))
    this.#child.on('exit', () => this.#end())
    this.#child.on('error', () => this.#end())
    this.#server = createServer((socket) => this.#admit(socket)).listen(join(this.#folder, 's'))
    this.#rest()
  }

  get pid() {
    return this.#child.pid
  }

  async start(program: string, args: readonly string[], hasInput: boolean): Promise<Running> {
    const id = ++this.#last
    const cwd = process.cwd()
    const address = join(this.#folder, 's')
    if (!this.#server.listening) await once(this.#server, 'listening')
    const sockets: Expected['sockets'] = {}
    const ended = promised<number | null>()
    const connected = promised<void>()
    // whoever asked may never come to wait for the end
    ended.promise.catch(() => {})
    const failed = (error: Error) => {
      connected.reject(error)
      ended.reject(error)
    }
    this.#work()
    this.#expected.set(id, {
      sockets,
      wanted: hasInput ? 3 : 2,
      connected: connected.resolve,
      report: (report) => {
        if ('failed' in report) return failed(Object.assign(new Error(report.failed), { code: report.errno }))
        // a program that ends at once may be told before its sockets have been looked at
        const isRead = connected.promise.then(() =>
          Promise.all([sockets.stdout!, sockets.stderr!].map((socket) => (socket.closed ? null : once(socket, 'close')))),
        )
        isRead.then(() => ended.resolve(report.code), ended.reject)
      },
      failed,
    })
    const over = () => {
      this.#expected.delete(id)
      if (this.#expected.size === 0) this.#rest()
    }
    ended.promise.then(over, over)
    if (this.isOver) this.#end()
    else this.#child.send({ id, program, args, hasInput, cwd, address } satisfies Order)
    await connected.promise
    return {
      stdin: sockets.stdin ?? null,
      stdout: sockets.stdout!,
      stderr: sockets.stderr!,
      kill: () => {
        if (!this.isOver) this.#child.send({ kill: id } satisfies Order)
      },
      ended: ended.promise,
    }
  }

  /** A socket whose first bytes say whose it is. */
  #admit(socket: Socket) {
    socket.on('error', () => {}) // a program that ends closes its input; its end is told by its code
    socket.once('readable', () => {
      const header: Buffer | null = socket.read(HEADER_BYTES)
      const expected = header && this.#expected.get(header.readUInt32LE(1))
      if (!expected) return socket.destroy()
      expected.sockets[STREAMS[header[0]!]!] = socket
      if (Object.keys(expected.sockets).length === expected.wanted) expected.connected()
    })
  }

  /** While nothing runs neither the process nor the socket keeps us from ending. */
  #rest() {
    this.#child.unref()
    this.#child.channel?.unref()
    this.#server.unref()
  }

  #work() {
    this.#child.ref()
    this.#child.channel?.ref()
    this.#server.ref()
  }

  #end() {
    this.isOver = true
    this.#server.close()
    rmSync(this.#folder, { recursive: true, force: true })
    for (const { sockets, failed } of this.#expected.values()) {
      // nobody can end its programs any more: what they write goes nowhere, and ends them
      for (const socket of Object.values(sockets)) socket.destroy()
      failed(new Error('What starts programs was ended from outside.'))
    }
  }
}

let launcher: Launcher | null = null

/** The process that starts programs: one for each of ours, begun while it is needed first. */
function current(): Launcher {
  if (!launcher || launcher.isOver) launcher = new Launcher()
  return launcher
}

/** Begins the small process while we are small ourselves. @returns its number */
export const readyToLaunch = () => current().pid

/**
 * @param program path or name
 * @param hasInput whether its standard input is ours to write; else it reads nothing
 * @throws when the small process was ended; a program that cannot be started is told by `ended`
 */
export const launch = (program: string, args: readonly string[], { hasInput }: { hasInput: boolean }): Promise<Running> =>
  current().start(program, args, hasInput)
