/** A machine that works for a server: `lectern worker` as it is built, with a folder of its own. */
import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'

export interface WorkerProcess {
  folder: string
  pid(): number
  said(): string
  /** Of a process that ended. */
  code(): number | null
  /** kill -9. */
  kill(): Promise<void>
  /** Asks it to end, as Ctrl+C does. */
  end(): Promise<number | null>
  remove(): void
}

/** @param settings LECTERN_QUEUE and LECTERN_STORE @param cpu the only processor it may use */
export async function workerProcess(settings: Record<string, string>, atOnce = 1, cpu?: number): Promise<WorkerProcess> {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-worker-'))
  const command = ['node', join(import.meta.dirname, '../../../dist/server/cli.js'), 'worker', '--folder', folder]
  const all = [...(cpu === undefined ? [] : ['taskset', '-c', String(cpu)]), ...command, '--at-once', String(atOnce)]
  const child: ChildProcess = spawn(all[0]!, all.slice(1), {
    env: { ...process.env, LC_ALL: 'C.UTF-8', ...settings },
    stdio: ['ignore', 'pipe', 'pipe'],
  })
  let said = ''
  for (const stream of [child.stdout!, child.stderr!]) stream.on('data', (piece) => (said += piece))
  const exited = new Promise<number | null>((resolve) => child.once('exit', resolve))
  while (child.exitCode === null && !said.includes('at the same time')) await wait(20)
  return {
    folder,
    pid: () => child.pid!,
    said: () => said,
    code: () => child.exitCode,
    async kill() {
      child.kill('SIGKILL')
      await exited
    },
    end() {
      child.kill('SIGTERM')
      return exited
    },
    remove: () => rmSync(folder, { recursive: true, force: true }),
  }
}
