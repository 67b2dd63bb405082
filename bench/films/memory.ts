/** `npm run bench -- films-memory [--rounds MINUTES]`: how much memory the server and its media tool take while a long film is made ready and published. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { jobsOf } from '#bench/measure/import-deck.ts'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { serverProcess } from '#tests/support/processes/server-process.ts'
import { seedFolder } from '#tests/support/seed.ts'

const USUAL_MINUTES = 30
const say = (what: string) => console.error(`  ${what}`)
const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

/** Megabytes that a process and all that it began have in memory now. */
function memoryOf(root: number): number {
  const parents = new Map<number, number>()
  for (const name of readdirSync('/proc').filter((one) => /^\d+$/.test(one))) {
    try {
      parents.set(Number(name), Number(readFileSync(`/proc/${name}/stat`, 'utf8').split(') ')[1]!.split(' ')[1]))
    } catch {
      // gone already
    }
  }
  const isOurs = (id: number | undefined): boolean => id !== undefined && id > 1 && (id === root || isOurs(parents.get(id)))
  let kilobytes = 0
  for (const id of parents.keys()) {
    if (!isOurs(id)) continue
    try {
      kilobytes += Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${id}/status`, 'utf8'))?.[1] ?? 0)
    } catch {
      // gone already
    }
  }
  return kilobytes / 1024
}

/** Waits until nothing is at work. @returns the most memory meanwhile */
async function untilIdle(address: string, root: number): Promise<number> {
  let most = 0
  for (let looks = 0; ; looks++) {
    most = Math.max(most, memoryOf(root))
    await sleep(200)
    if (looks % 10 === 9 && (await jobsOf({ address })).every(({ state }) => state !== 'queued' && state !== 'running'))
      return most
  }
}

export async function bench({ rounds }: BenchOptions): Promise<Figure[]> {
  const minutes = rounds ?? USUAL_MINUTES
  const data = mkdtempSync(join(tmpdir(), 'lectern-film-memory-'))
  const film = join(data, 'film.mp4')
  say(`making a film of ${minutes} minutes`)
  const picture = ['-f', 'lavfi', '-i', `testsrc2=s=1280x720:r=10:d=${minutes * 60}`]
  const sound = ['-f', 'lavfi', '-i', `sine=d=${minutes * 60}`]
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    ...picture,
    ...sound,
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    '-c:a',
    'aac',
    film,
  ])
  const id = await seedFolder(data, 'clouds-by-their-shapes', 'en-GB', 3)
  const server = await serverProcess(data)
  await server.start()
  try {
    const { address } = server
    const before = memoryOf(server.pid())
    const { slides } = await server.lecture(id)
    const form = new FormData()
    form.append('file', new File([readFileSync(film)], 'film.mp4'))
    say('making it ready')
    await fetch(`${address}/api/slides/${slides[1]!.id}/films`, { method: 'POST', body: form })
    const ready = await untilIdle(address, server.pid())
    say('publishing')
    const headers = { 'content-type': 'application/json' }
    await fetch(`${address}/api/lectures/${id}/editions`, { method: 'POST', headers, body: '{}' })
    const published = await untilIdle(address, server.pid())
    const { editions } = (await (await fetch(`${address}/api/lectures/${id}/editions`)).json()) as { editions: unknown[] }
    if (editions.length !== 1) throw new Error('It was not published')
    const figure = (name: string, most: number): Figure => ({
      name: `${name} a film of ${minutes} minutes, above the server with nothing to do`,
      value: most - before,
      goal: '≤ 1000',
      unit: 'MB',
      ok: most - before <= 1000,
    })
    return [figure('memory while making ready', ready), figure('memory while publishing', published)]
  } finally {
    await server.kill()
    rmSync(data, { recursive: true, force: true })
  }
}
