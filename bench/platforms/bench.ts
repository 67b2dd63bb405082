/** `npm run bench -- platforms [--rounds SESSIONS]`: packages in an independent runtime, and what counts as heard against a plain count. */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { chromium } from '@playwright/test'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { Listening, NOTHING_KEPT } from '#core/packages/listening.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { madeTake, random } from '#tests/made/sound.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { serverProcess } from '#tests/support/processes/server-process.ts'
import { recordOver } from '#tests/support/recording.ts'
import { seedFolder } from '#tests/support/seed.ts'
import { KINDS, openPlatform, playPackage } from './round.ts'

const USUAL_SESSIONS = 1000
const LENGTH_S = 900
const say = (what: string) => console.error(`  ${what}`)

/** A session of playing and going elsewhere. @returns seconds that count as heard, and tenths counted one by one */
function session(next: () => number): { heard: number; counted: number } {
  const listening = new Listening({ lengthSeconds: LENGTH_S, slideStarts: [0], share: 0.9 }, NOTHING_KEPT, 0)
  const tenths = new Set<number>()
  let now = 0
  for (let act = 0; act < 3 + next() * 20; act++) {
    const from = Math.floor(next() * (LENGTH_S - 1) * 10) / 10
    const to = Math.min(LENGTH_S, from + Math.ceil(next() * 600) / 10)
    const rate = 0.5 + Math.floor(next() * 4) / 2
    listening.see(from, true, now)
    for (let place = from; place < to; ) {
      const step = Math.min(rate * (next() < 0.1 ? 1 : 1 / 60), to - place)
      place += step
      now += (step / rate) * 1000
      listening.see(place, true, now)
    }
    listening.see(to, false, now)
    now += 500
    for (let tenth = Math.round(from * 10); tenth < Math.round(to * 10); tenth++) tenths.add(tenth)
  }
  return { heard: listening.progress(now).heardShare * LENGTH_S, counted: tenths.size / 10 }
}

async function packages(): Promise<Figure> {
  const data = mkdtempSync(join(tmpdir(), 'lectern-platforms-'))
  const id = await seedFolder(data, 'clouds-by-their-shapes', 'en-GB', 3)
  const server = await serverProcess(data)
  await server.start()
  const platform = await openPlatform()
  const browser = await chromium.launch(BROWSER)
  try {
    const { slides } = await server.lecture(id)
    for (const [i, slide] of slides.entries()) await recordOver(server.address, slide.id, madeTake({ seed: i }).samples)
    const idle = async () => {
      const { jobs } = (await (await fetch(`${server.address}/api/jobs`)).json()) as { jobs: { state: string }[] }
      return jobs.every(({ state }) => state !== 'queued' && state !== 'running')
    }
    const wait = async () => {
      while (!(await idle())) await new Promise((resolve) => setTimeout(resolve, 200))
    }
    await wait()
    await fetch(`${server.address}/api/lectures/${id}/editions`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: '{}',
    })
    await wait()
    const { editions } = (await (await fetch(`${server.address}/api/lectures/${id}/editions`)).json()) as {
      editions: { id: string; lengthSamples: number }[]
    }
    const [edition] = editions
    let right = 0
    for (const kind of KINDS) {
      const zip = await fetch(`${server.address}/api/editions/${edition!.id}/packages/${kind}?share=0.6`)
      const outcome = await playPackage(
        platform,
        browser,
        Buffer.from(await zip.arrayBuffer()),
        toSeconds(edition!.lengthSamples),
      ).catch((error: Error) => ({ faults: [error.message], statuses: [], resumedAt: 0, leftAt: 0 }))
      const [before, left, done] = outcome.statuses
      const isRight =
        outcome.faults.length === 0 &&
        before !== 'completed' &&
        left === 'incomplete' &&
        done === 'completed' &&
        Math.abs(outcome.resumedAt - outcome.leftAt) < 0.3
      if (isRight) right++
      say(`${kind}: ${isRight ? 'right' : JSON.stringify(outcome)}`)
    }
    return {
      name: 'packages that ran without an error, went on where they were left, and completed when enough was heard',
      value: right,
      goal: `${KINDS.length}`,
      unit: `of ${KINDS.length}`,
      ok: right === KINDS.length,
    }
  } finally {
    await browser.close()
    platform.end()
    await server.kill()
    rmSync(data, { recursive: true, force: true })
  }
}

export async function bench({ seed, rounds }: BenchOptions): Promise<Figure[]> {
  const next = random(seed)
  let worst = 0
  const sessions = rounds ?? USUAL_SESSIONS
  for (let i = 0; i < sessions; i++) {
    const { heard, counted } = session(next)
    worst = Math.max(worst, Math.abs(heard - counted))
  }
  return [
    {
      name: `heard in ${sessions} sessions of random seeking, beside a plain count of tenths of seconds, worst`,
      value: worst,
      // neighbours nearer together than a player's steps are one
      goal: '≤ 0.5',
      unit: 's',
      ok: worst <= 0.5,
    },
    await packages(),
  ]
}
