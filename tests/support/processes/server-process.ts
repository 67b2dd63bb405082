/** The built server as a process of its own, which can be killed and started again on the same data. */
import { type ChildProcess, spawn } from 'node:child_process'
import { once } from 'node:events'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Lecture } from '#core/model/lecture.ts'
import { ALLOCATOR } from '#server/config/allocator.ts'
import { freePort } from './free-port.ts'

const root = join(import.meta.dirname, '../../..')

export interface ServerProcess {
  address: string
  dataFolder: string
  start(): Promise<void>
  /** kill -9. */
  kill(): Promise<void>
  isRunning(): boolean
  pid(): number
  /** What it wrote to its console. */
  said(): string
  lecture(id: string): Promise<Lecture>
  /** The most memory it ever had, MB. */
  mostMegabytes(): number
}

/** @param data folder that outlives the process @param settings beside those of all tests */
export async function serverProcess(data: string, settings: Record<string, string> = {}): Promise<ServerProcess> {
  const port = await freePort()
  const address = `http://localhost:${port}`
  let child: ChildProcess | null = null
  let said = ''
  return {
    address,
    dataFolder: data,
    async start() {
      said = ''
      child = spawn('node', ['dist/server/main.js'], {
        cwd: root,
        env: {
          ...process.env,
          ...ALLOCATOR,
          LECTERN_DATA: data,
          LECTERN_PORT: String(port),
          // nothing is encoded beside the journeys but what they ask for
          LECTERN_PREPARE: 'off',
          LECTERN_RECOGNISER: 'practice',
          ...settings,
        },
        stdio: ['ignore', 'pipe', 'inherit'],
      })
      const started = child
      await new Promise<void>((resolve, reject) => {
        started.stdout!.on('data', (text: Buffer) => {
          said += String(text)
          if (said.includes('is open at')) resolve()
        })
        started.on('exit', () => reject(new Error('The server ended before it was open')))
      })
    },
    async kill() {
      const exited = once(child!, 'exit')
      child!.kill('SIGKILL')
      await exited
    },
    isRunning: () => child !== null && child.exitCode === null && child.signalCode === null,
    pid: () => child!.pid!,
    said: () => said,
    mostMegabytes() {
      const told = /VmHWM:\s+(\d+) kB/.exec(readFileSync(`/proc/${child!.pid}/status`, 'utf8'))
      return Number(told![1]) / 1024
    },
    lecture: async (id) => (await fetch(`${address}/api/lectures/${id}`)).json() as Promise<Lecture>,
  }
}
