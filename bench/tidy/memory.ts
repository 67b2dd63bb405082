/** How much memory an hour takes to tidy, on the command line and on the server. `npm run bench -- tidy-memory`, about a quarter of an hour; the server is the built one. */
import { spawnSync } from 'node:child_process'
import { closeSync, mkdtempSync, openSync, rmSync, writeSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { wavHeader } from '#core/audio/signal/wav.ts'
import { bytesOf } from '#server/media/sound-files.ts'
import { serverMegabytes } from './server-memory.ts'
import { lectureTake } from './speed.ts'

const SECONDS = 3600
const LENGTH = SECONDS * 48_000

/** An hour of the same four voices, again and again. */
function writeHour(path: string, seed: number) {
  const part = toInt16(lectureTake(seed))
  const file = openSync(path, 'w')
  writeSync(file, wavHeader(LENGTH, 48_000))
  for (let at = 0; at < LENGTH; at += part.length) writeSync(file, bytesOf(part.subarray(0, LENGTH - at)))
  closeSync(file)
}

const TELL = 'data:text/javascript,process.on("exit",()=>console.error("rss "+process.resourceUsage().maxRSS))'

/** The command line in a process of its own. @returns the most memory it ever had, MB, and how long it took, seconds */
function run(args: readonly string[], status: number) {
  const began = performance.now()
  const told = spawnSync(process.execPath, ['--import', 'tsx', '--import', TELL, 'cli/main.ts', ...args], { encoding: 'utf8' })
  const rss = /rss (\d+)/.exec(told.stderr)
  if (told.status !== status || !rss) throw new Error(told.stderr)
  return { megabytes: Number(rss[1]) / 1024, seconds: (performance.now() - began) / 1000 }
}

export async function bench({ seed }: BenchOptions): Promise<Figure[]> {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-hour-'))
  try {
    const hour = join(folder, 'hour.wav')
    writeHour(hour, seed)
    const base = run(['tidy'], 2)
    const { megabytes, seconds } = run(['tidy', hour, '-o', join(folder, 'tidied.wav'), '--json'], 0)
    const more = megabytes - base.megabytes
    const onServer = await serverMegabytes(lectureTake(seed), SECONDS, false)
    const through = await serverMegabytes(lectureTake(seed), SECONDS, true)
    return [
      {
        name: 'memory for an hour, above the process with nothing to do',
        value: more,
        goal: '≤ 500',
        unit: 'MB',
        ok: more <= 500,
      },
      {
        name: 'memory for an hour in one take on the server, above one of ten seconds',
        value: onServer,
        goal: '≤ 500',
        unit: 'MB',
        ok: onServer <= 500,
      },
      {
        name: 'memory for an hour straight through on the server, above a take of ten seconds',
        value: through,
        goal: '≤ 500',
        unit: 'MB',
        ok: through <= 500,
      },
      { name: 'times realtime, reading and writing files and all', value: SECONDS / seconds, goal: '–', unit: '×', ok: null },
    ]
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
