/** How much memory an hour takes to tidy: the command line does it in a process of its own. `npm run bench -- tidy-memory`, about five minutes. */
import { spawnSync } from 'node:child_process'
import { closeSync, mkdtempSync, openSync, rmSync, writeSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { toInt16 } from '#core/audio/pcm.ts'
import { wavHeader } from '#core/audio/wav.ts'
import { bytesOf } from '#server/media/sound-files.ts'
import { tidy } from '../../cli/tidy.ts'
import type { BenchOptions, Figure } from '../report.ts'
import { lectureTake } from './speed.ts'

const LENGTH = 3600 * 48_000

/** An hour of the same four voices, again and again. */
function writeHour(path: string, seed: number) {
  const part = toInt16(lectureTake(seed))
  const file = openSync(path, 'w')
  writeSync(file, wavHeader(LENGTH, 48_000))
  for (let at = 0; at < LENGTH; at += part.length) writeSync(file, bytesOf(part.subarray(0, LENGTH - at)))
  closeSync(file)
}

export async function bench({ seed }: BenchOptions): Promise<Figure[]> {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-hour-'))
  try {
    writeHour(join(folder, 'hour.wav'), seed)
    const told = spawnSync(process.execPath, ['--import', 'tsx', import.meta.filename, folder], { encoding: 'utf8' })
    if (told.status !== 0) throw new Error(told.stderr)
    const { megabytes, seconds } = JSON.parse(told.stdout.trim().split('\n').at(-1)!)
    return [
      {
        name: 'memory for an hour, above the process that loads it',
        value: megabytes,
        goal: '≤ 500',
        unit: 'MB',
        ok: megabytes <= 500,
      },
      { name: 'times realtime, reading and writing files and all', value: 3600 / seconds, goal: '–', unit: '×', ok: null },
    ]
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

if (process.argv[1] === import.meta.filename) {
  const folder = process.argv[2]!
  const [before, began] = [process.memoryUsage().rss, performance.now()]
  await tidy([join(folder, 'hour.wav'), '-o', join(folder, 'tidied.wav'), '--json'])
  const seconds = (performance.now() - began) / 1000
  // kilobytes, the most there ever was
  console.log(JSON.stringify({ megabytes: (process.resourceUsage().maxRSS * 1024 - before) / 2 ** 20, seconds }))
}
