/** How fast a fresh take of a few minutes is tidied. Run alone: `npm run bench -- tidy-speed`. */

import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { tidyFresh } from '#core/audio/render/render.ts'
import { LANGUAGES, recording } from './corpus.ts'
import { speedInPage } from './in-page.ts'

/** Four voices in a room with a fan, one after the other. */
export function lectureTake(seed: number): Float32Array {
  const parts = LANGUAGES.map((language, i) => recording(language, 'fan', 15, seed * 1000 + 900 + i, 20).noisy)
  const take = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0))
  let at = 0
  for (const part of parts) {
    take.set(part, at)
    at += part.length
  }
  return take
}

/** Times realtime of everything that happens to a fresh take, after two runs that warm the engine up: by the clock, and by CPU seconds of all threads. */
export function speedOf(take: Float32Array): { clock: number; cpu: number } {
  for (let run = 0; run < 2; run++) tidyFresh(take)
  const [began, before] = [performance.now(), process.cpuUsage()]
  tidyFresh(take)
  const { user, system } = process.cpuUsage(before)
  const seconds = take.length / 48_000
  return { clock: seconds / ((performance.now() - began) / 1000), cpu: seconds / ((user + system) / 1e6) }
}

export async function bench({ seed }: BenchOptions): Promise<Figure[]> {
  const take = lectureTake(seed)
  const { clock, cpu } = speedOf(take)
  const page = await speedInPage(take)
  return [
    { name: 'length of the take', value: take.length / 48_000, goal: '', unit: 's', ok: null },
    { name: 'whole tidy, times realtime, by the clock', value: clock, goal: '≥ 30', unit: '×', ok: clock >= 30 },
    { name: 'whole tidy, times realtime, CPU of all threads', value: cpu, goal: '≥ 30', unit: '×', ok: cpu >= 30 },
    { name: 'the same in a worker of a page, by the clock', value: page, goal: '≥ 20', unit: '×', ok: page >= 20 },
  ]
}
