/** Runs a program that is not ours: with a bound to its time, its memory and what it prints, and with all that it has started ended with it. */
import { spawn } from 'node:child_process'
import { readdir, readFile } from 'node:fs/promises'
import { setPriority } from 'node:os'

export interface Bounds {
  seconds: number
  /** Of the program and all it has started together. */
  memoryBytes: number
  outputBytes: number
}

/** How it ended. `over`: the bound that ended it. */
export type Ended =
  | { over: null; code: number; stdout: Buffer; stderr: string }
  | { over: 'seconds' | 'memoryBytes' | 'outputBytes' }
  | { over: 'crash'; signal: string; stderr: string }

const LOOK_MS = 500
const PAGE_BYTES = 4096
const STDERR_LETTERS = 4000

/** Memory of all processes of a group; 0 where the system does not tell. @see proc(5), /proc/pid/stat: pgrp is the third value after the name, rss the 22nd */
async function memoryOfGroup(group: number): Promise<number> {
  const names = await readdir('/proc').catch(() => [])
  const sizes = await Promise.all(
    names
      .filter((name) => /^\d+$/.test(name))
      .map(async (name) => {
        const stat = await readFile(`/proc/${name}/stat`, 'utf8').catch(() => '')
        const values = stat.slice(stat.lastIndexOf(')') + 2).split(' ')
        return Number(values[2]) === group ? Number(values[21]) * PAGE_BYTES : 0
      }),
  )
  return sizes.reduce((sum, bytes) => sum + bytes, 0)
}

/**
 * @param env what the program finds in its environment besides ours
 * @throws the error of the system when the program cannot be started, and the signal's reason when it was cancelled
 */
export function runBounded(
  program: string,
  args: readonly string[],
  bounds: Bounds,
  signal?: AbortSignal,
  env: Record<string, string> = {},
): Promise<Ended> {
  signal?.throwIfAborted()
  return new Promise((resolve, reject) => {
    // a group of its own: what it has started ends with it
    const child = spawn(program, args, { detached: true, stdio: ['ignore', 'pipe', 'pipe'], env: { ...process.env, ...env } })
    let over: 'seconds' | 'memoryBytes' | 'outputBytes' | null = null
    const out: Buffer[] = []
    let bytes = 0
    let stderr = ''
    const endAll = () => {
      try {
        if (child.pid) process.kill(-child.pid, 'SIGKILL')
      } catch {
        // all of it has ended
      }
    }
    const endFor = (bound: typeof over) => {
      over ??= bound
      endAll()
    }
    const timer = setTimeout(() => endFor('seconds'), bounds.seconds * 1000)
    const looking = setInterval(() => {
      if (child.pid)
        void memoryOfGroup(child.pid).then((memory) => {
          if (memory > bounds.memoryBytes) endFor('memoryBytes')
        })
    }, LOOK_MS)
    signal?.addEventListener('abort', endAll, { once: true })
    const tidyUpAfter = () => {
      clearTimeout(timer)
      clearInterval(looking)
      signal?.removeEventListener('abort', endAll)
    }
    child.stdout.on('data', (piece: Buffer) => {
      bytes += piece.length
      if (bytes > bounds.outputBytes) endFor('outputBytes')
      else out.push(piece)
    })
    child.stderr.on('data', (piece: Buffer) => {
      stderr = (stderr + piece.toString('utf8')).slice(-STDERR_LETTERS)
    })
    child.on('spawn', () => {
      try {
        setPriority(child.pid!, 10)
      } catch {
        // it may have ended already
      }
    })
    child.on('error', (error) => {
      tidyUpAfter()
      reject(error)
    })
    // what it left running has no one to answer to, and would keep its output open
    child.on('exit', endAll)
    child.on('close', (code, killedBy) => {
      tidyUpAfter()
      if (signal?.aborted) return reject(signal.reason)
      if (over) return resolve({ over })
      if (code === null) return resolve({ over: 'crash', signal: killedBy ?? '', stderr })
      resolve({ over: null, code, stdout: Buffer.concat(out), stderr })
    })
  })
}
