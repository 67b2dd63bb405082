/** A process of the size of a busy server starts programs: how long it stands still each time, directly and through the small process. */
import { spawn } from 'node:child_process'
import { once } from 'node:events'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { launch } from '#server/media/launch/launch.ts'

const MEGABYTES = 500
const STARTS = 20
const GOAL = 0.2

const middle = (values: number[]) => values.toSorted((a, b) => a - b)[values.length >> 1]!

/** Memory that is there, as sound and pictures take it. */
const taken = Array.from({ length: MEGABYTES }, () => new Float64Array(1_000_000 / 8).fill(1))
/** Writes to each page of it, as work goes on: what was shared with a child is copied then. */
function goOn() {
  for (const piece of taken) for (let i = 0; i < piece.length; i += 512) piece[i]!++
}

/** @returns processor time of this process for one start and the work after it, ms */
async function cost(start: () => Promise<unknown>): Promise<number> {
  goOn()
  const before = process.cpuUsage()
  await start()
  goOn()
  const { user, system } = process.cpuUsage(before)
  return (user + system) / 1000
}

const direct = async () => {
  const child = spawn('true', { stdio: 'ignore' })
  await once(child, 'close')
}
const launched = async () => {
  const { stdout, stderr, ended } = await launch('true', [], { hasInput: false })
  stdout.resume()
  stderr.resume()
  await ended
}

export async function bench({ rounds }: BenchOptions): Promise<Figure[]> {
  await launched()
  const times: { direct: number[]; launched: number[] } = { direct: [], launched: [] }
  // in turn: what else the machine does falls on both
  for (let i = 0; i < (rounds ?? STARTS); i++) {
    times.direct.push(await cost(direct))
    times.launched.push(await cost(launched))
  }
  const [one, other] = [middle(times.direct), middle(times.launched)]
  const figure = (name: string, value: number, unit: string): Figure => ({ name, value, goal: '–', unit, ok: null })
  return [
    figure(`a process of ${MEGABYTES} MB starts a program itself, processor time`, one, 'ms'),
    figure('the same through the small process', other, 'ms'),
    { name: 'ratio of the two', value: other / one, goal: `≤ ${GOAL}`, unit: '', ok: other / one <= GOAL },
  ]
}
