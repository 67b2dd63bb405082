/** The sheet of a three-hour lecture in a real browser: first rows, scrolling, starting to play, and playing against the schedule. */
import { chromium, type Page } from '@playwright/test'
import type { Figure } from '#bench/report/report.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { random } from '#tests/made/sound.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { type BenchServer, longLecture } from './lecture.ts'

const quantile = (values: readonly number[], part: number) =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(part * values.length))]!

/** From the lecture's data to the first row that is drawn, ms. */
async function firstPaint(page: Page, address: string, id: string): Promise<number> {
  await page.addInitScript(() => {
    new MutationObserver((_, observer) => {
      if (!document.querySelector('ol[aria-label="Slides"] li svg[role=img]')) return
      observer.disconnect()
      requestAnimationFrame(() => requestAnimationFrame((now) => Object.assign(window, { rowsAt: now })))
    }).observe(document, { childList: true, subtree: true })
  })
  await page.goto(`${address}/lectures/${id}`)
  await page.waitForFunction(() => 'rowsAt' in window)
  return page.evaluate((lectureId) => {
    const data = performance
      .getEntriesByType('resource')
      .find((e) => e.name.endsWith(`/api/lectures/${lectureId}`)) as PerformanceResourceTiming
    return (window as unknown as { rowsAt: number }).rowsAt - data.responseEnd
  }, id)
}

/** Lengths of frames while the page is scrolled as fast as a hand does, ms. */
const scrollFrames = (page: Page) =>
  page.evaluate(
    () =>
      new Promise<number[]>((resolve) => {
        const frames: number[] = []
        let last = performance.now()
        const step = (now: number) => {
          frames.push(now - last)
          last = now
          window.scrollBy(0, 30)
          if (frames.length < 360) requestAnimationFrame(step)
          else resolve(frames.slice(5))
        }
        requestAnimationFrame(step)
      }),
  )

/** From the press to sound at random moments of the lecture, ms. */
export async function startTimes(page: Page, lecture: Lecture, seed: number): Promise<number[]> {
  const next = random(seed)
  const total = toSeconds(schedule(lecture).lengthSamples)
  const times: number[] = []
  for (let i = 0; i < 20; i++) {
    const slider = page.getByRole('slider', { name: 'Moment of the lecture' })
    const box = (await slider.boundingBox())!
    // somewhere in speech: a start in a rest waits for the voice
    const slide = schedule(lecture).slides[Math.floor(next() * lecture.slides.length)]!
    const moment = toSeconds(slide.startSamples) + 5 + 20 * next()
    await page.mouse.click(box.x + (box.width * moment) / total, box.y + box.height / 2)
    times.push(
      await page.evaluate(
        () =>
          new Promise<number>((resolve) => {
            const play = HTMLMediaElement.prototype.play
            const pressed = performance.now()
            HTMLMediaElement.prototype.play = function (this: HTMLMediaElement) {
              const from = this.currentTime
              const look = () => (this.currentTime > from ? resolve(performance.now() - pressed) : setTimeout(look, 2))
              look()
              HTMLMediaElement.prototype.play = play
              return play.call(this)
            }
            document.getElementById('play-lecture')!.click()
          }),
      ),
    )
    await page.locator('#play-lecture').click()
  }
  return times
}

/** How far pictures change from where the schedule and the sound before them say, ms. */
async function playThrough(page: Page, address: string, lecture: Lecture): Promise<number[]> {
  await page.goto(`${address}/lectures/${lecture.id}`)
  await page.getByRole('button', { name: 'Play the lecture' }).waitFor()
  await page.evaluate(() => {
    const changes: { at: number; src: string }[] = []
    const look = (now: number) => {
      const src = document.querySelector<HTMLImageElement>('[data-testid=stage] img:last-of-type')?.getAttribute('src')
      if (src && changes.at(-1)?.src !== src) changes.push({ at: now, src })
      requestAnimationFrame(look)
    }
    requestAnimationFrame(look)
    Object.assign(window, { changes })
  })
  await page.getByRole('button', { name: 'Play the lecture' }).click()
  const times = schedule(lecture)
  await page.getByRole('button', { name: 'Play the lecture' }).waitFor({ timeout: 1000 * (toSeconds(times.lengthSamples) + 30) })
  const changes = await page.evaluate(() => (window as unknown as { changes: { at: number; src: string }[] }).changes)
  const first = changes[1]!.at - 1000 * toSeconds(times.slides[1]!.startSamples)
  return times.slides.slice(2).map((s, i) => Math.abs(changes[i + 2]!.at - first - 1000 * toSeconds(s.startSamples)))
}

export async function browserFigures(server: BenchServer, seed: number): Promise<Figure[]> {
  const long = await longLecture(server, 200, 54)
  const short = await longLecture(server, 14, 3)
  const browser = await chromium.launch(BROWSER)
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    // what runs this file marks functions with their names, also those that are sent to the page
    await page.addInitScript({ content: 'globalThis.__name = (f) => f' })
    const paint = await firstPaint(page, server.address, long.id)
    const frames = await scrollFrames(page)
    await page.goto(`${server.address}/lectures/${long.id}`)
    await page.getByRole('button', { name: 'Play the lecture' }).waitFor()
    const starts = await startTimes(page, long, seed)
    const off = await playThrough(page, server.address, short)
    const figure = (name: string, value: number, most: number, unit: string): Figure => ({
      name,
      value,
      goal: `≤ ${most}`,
      unit,
      ok: value <= most,
    })
    return [
      figure('200 slides, 3 h: data to first rows', paint, 1000, 'ms'),
      figure('scrolling 200 slides: frame, 95th', quantile(frames, 0.95), 20, 'ms'),
      figure('start of play anywhere in 3 h, 95th', quantile(starts, 0.95), 200, 'ms'),
      figure('start of play anywhere in 3 h, median', quantile(starts, 0.5), 200, 'ms'),
      figure('play-through against schedule, worst of 12 changes', Math.max(...off), 40, 'ms'),
    ]
  } finally {
    await browser.close()
  }
}
