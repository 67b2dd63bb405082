/** An hour's recording over sixty slides in a real browser: how long a proposal takes, and how long the page is busy at a time. */
import { randomUUID } from 'node:crypto'
import { chromium } from '@playwright/test'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { speakingWeight } from '#core/script/syllables.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { proposeBoundaries } from '#core/timing/division/split.ts'
import { recordings } from '#server/db/schema.ts'
import { random } from '#tests/made/sound.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { type BenchServer, longLecture, openBenchServer } from './lecture.ts'

const SLIDES = 60
const STRETCHES = 1171
const HOUR = toSamples(3600)
const KEYS = 10

/** Stretches of speech with pauses of a fifth of a second to two seconds. */
function spoken(seed: number): SampleRange[] {
  const next = random(seed)
  const shares = Array.from({ length: STRETCHES }, () => [1 + 4 * next(), 0.2 + 1.8 * next() ** 3] as const)
  const scale = HOUR / shares.reduce((sum, [said, pause]) => sum + said + pause, 0)
  let at = 0
  return shares.map(([said, pause]) => {
    const start = at
    at += Math.round((said + pause) * scale)
    return { start, end: start + Math.round(said * scale) }
  })
}

export async function divisionFigures(server: BenchServer, seed: number): Promise<Figure[]> {
  const lecture = await longLecture(server, SLIDES, 0)
  const speech = spoken(seed)
  const began = performance.now()
  const weights = lecture.slides.map((slide) => speakingWeight(slide.script, lecture.language))
  proposeBoundaries(speech, { from: 'scripts', weights })
  const proposal = performance.now() - began
  const id = randomUUID()
  const { context } = server
  const peaks = await context.store.put(new Uint8Array(Math.ceil(HOUR / 512) * 4))
  const row = {
    id,
    lectureId: lecture.id,
    name: 'evening.flac',
    sound: peaks,
    peaks,
    samples: HOUR,
    speech,
    createdAt: Date.now(),
  }
  await context.db.write((tx) => tx.insert(recordings).values(row))
  const browser = await chromium.launch(BROWSER)
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    await page.addInitScript({
      content: `globalThis.__name = (f) => f; window.busy = []
        new PerformanceObserver((list) => window.busy.push(...list.getEntries().map((e) => e.duration))).observe({ type: 'longtask' })`,
    })
    const busiest = () => page.evaluate(() => Math.max(0, ...(window as unknown as { busy: number[] }).busy.splice(0)))
    await page.goto(`${server.address}/lectures/${lecture.id}/divide/${id}`)
    // by its label: seeking a role and a name keeps the page busy itself
    const handle = page.locator('[aria-label^="Slide 30 begins at"]')
    await handle.waitFor()
    await page.waitForTimeout(1000)
    const opening = await busiest()
    await handle.focus()
    for (let i = 0; i < KEYS; i++) {
      await page.keyboard.press('ArrowRight')
      await page.waitForTimeout(100)
    }
    const pressing = await busiest()
    const figure = (name: string, value: number, most: number): Figure => ({
      name,
      value,
      goal: `≤ ${most}`,
      unit: 'ms',
      ok: value <= most,
    })
    return [
      figure('60 slides, an hour of 1,171 stretches: proposal from the scripts', proposal, 100),
      figure('the same on the page: longest task at opening', opening, 50),
      figure(`the same on the page: longest task of ${KEYS} arrow keys`, pressing, 50),
    ]
  } finally {
    await browser.close()
  }
}

/** The same alone. */
export async function bench({ seed }: BenchOptions): Promise<Figure[]> {
  const server = await openBenchServer(4943)
  try {
    return await divisionFigures(server, seed)
  } finally {
    await server.end()
  }
}
