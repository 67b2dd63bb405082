/** Publishing by a real server, and what it costs: processor time of the server and of the media tool. */
import { chmodSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { editionFiles, jobs } from '#server/db/schema.ts'
import type { BenchServer } from '../sheet/lecture.ts'

const say = (what: string) => console.error(`  ${what}`)

/** Seconds of processor time that ffmpeg has had, by a wrapper that writes it down after each call. */
export function countedTool() {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-tool-'))
  const log = join(folder, 'times')
  const program = join(folder, 'ffmpeg')
  // times is told to a file: behind a pipe it would be that of another shell
  writeFileSync(program, `#!/bin/bash\nffmpeg "$@"\ncode=$?\ntimes > ${log}.$$\ntail -1 ${log}.$$ >> ${log}\nexit $code\n`)
  chmodSync(program, 0o755)
  return {
    program,
    seconds() {
      if (!existsSync(log)) return 0
      const parts = readFileSync(log, 'utf8').match(/(\d+)m([\d.]+)s/g) ?? []
      return parts.reduce((sum, part) => {
        const [, minutes, seconds] = /(\d+)m([\d.]+)s/.exec(part)!
        return sum + Number(minutes) * 60 + Number(seconds)
      }, 0)
    },
    end: () => rmSync(folder, { recursive: true, force: true }),
  }
}
export type Counted = ReturnType<typeof countedTool>

export interface Cost {
  wall: number
  /** Of the server and everything it started. */
  processor: number
}

export async function costOf(tool: Counted, work: () => Promise<void>): Promise<Cost> {
  const before = { wall: performance.now(), own: process.cpuUsage(), tool: tool.seconds() }
  await work()
  const own = process.cpuUsage(before.own)
  say(`the media tool ${(tool.seconds() - before.tool).toFixed(1)} s, all else ${((own.user + own.system) / 1e6).toFixed(1)} s`)
  return {
    wall: (performance.now() - before.wall) / 1000,
    processor: (own.user + own.system) / 1e6 + tool.seconds() - before.tool,
  }
}

export async function publish(server: BenchServer, lectureId: string): Promise<string> {
  const job = await server.queue.add('publish', lectureId, { lectureId })
  const ended = await server.ended(job.id)
  await server.context.db.write((tx) => tx.delete(jobs).where(eq(jobs.id, job.id)))
  return (ended.result as { editionId: string }).editionId
}

export async function fileOf(server: BenchServer, editionId: string, name: string) {
  const rows = await server.context.db.read.select().from(editionFiles).where(eq(editionFiles.editionId, editionId))
  const row = rows.find((r) => r.name === name)!
  return { name: row.file, bytes: row.bytes }
}
