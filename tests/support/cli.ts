/** The command line: as it is built, and in this process, where threads and code are warm. */
import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { run } from '#cli/run.ts'
import type { Workers } from '#server/workers/pool.ts'

export interface Called {
  status: number
  stdout: string
  stderr: string
  /** What went to standard output, as it is. */
  bytes: Buffer
}

const BUILT = join(import.meta.dirname, '../../dist/server/cli.js')

/** In a process of its own, as people call it. */
export function built(words: string[], { cwd, env }: { cwd?: string; env?: NodeJS.ProcessEnv } = {}): Called {
  const { status, stdout, stderr } = spawnSync('node', [BUILT, ...words], {
    cwd,
    // whoever runs the tests may speak another language
    env: { ...process.env, LC_ALL: 'C.UTF-8', ...env },
    maxBuffer: 1e8,
  })
  return { status: status ?? 1, stdout: stdout.toString(), stderr: stderr.toString(), bytes: stdout }
}

/** In this process. @param env what the call finds in its environment beside ours */
export async function lectern(
  words: string[],
  { cwd = process.cwd(), env = {}, workers }: { cwd?: string; env?: NodeJS.ProcessEnv; workers?: Workers } = {},
): Promise<Called> {
  const said = { stdout: [] as Buffer[], stderr: [] as Buffer[] }
  const [outside, own] = [process.cwd(), { ...process.env }]
  const { stdout, stderr } = process
  const write = { stdout: stdout.write, stderr: stderr.write }
  const keep = (pieces: Buffer[]) =>
    ((piece: string | Uint8Array, ...rest: unknown[]) => {
      pieces.push(Buffer.from(piece as string))
      const done = rest.at(-1)
      if (typeof done === 'function') done()
      return true
    }) as typeof stdout.write
  process.chdir(cwd)
  Object.assign(process.env, env)
  stdout.write = keep(said.stdout)
  stderr.write = keep(said.stderr)
  try {
    const status = await run(words, workers)
    const bytes = Buffer.concat(said.stdout)
    return { status, stdout: bytes.toString(), stderr: Buffer.concat(said.stderr).toString(), bytes }
  } finally {
    stdout.write = write.stdout
    stderr.write = write.stderr
    for (const name of Object.keys(env)) delete process.env[name]
    Object.assign(process.env, own)
    process.chdir(outside)
  }
}
