/** What a browser loads before a place is shown: its scripts as they are sent, compressed. */
import { chromium } from '@playwright/test'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { importDeck, openBenchServer } from './lecture.ts'

/** A place, the address behind the lecture's, and what stands there once it is shown. */
const PLACES: [name: string, address: (lecture: string) => string, shown: string][] = [
  ['shelf', () => '/', 'main a[href^="/lectures/"]'],
  ['sheet', (lecture) => `/lectures/${lecture}`, 'main img'],
  ['booth', (lecture) => `/lectures/${lecture}/booth`, '[role="timer"]'],
  ['publish', (lecture) => `/lectures/${lecture}/publish`, 'main button'],
  ['watch page', () => '/watch/unknown', 'main, [role="alert"]'],
]
/** Of the sheet, before its scripts were divided: that state's chunks, compressed the same way. */
const SHEET_GOAL_KB = 165

export async function bench(_: BenchOptions): Promise<Figure[]> {
  const server = await openBenchServer(4944)
  const browser = await chromium.launch(BROWSER)
  try {
    const lecture = await importDeck(server)
    const figures: Figure[] = []
    for (const [name, address, shown] of PLACES) {
      const page = await browser.newPage()
      await page.goto(server.address + address(lecture))
      await page.locator(shown).first().waitFor()
      const loaded = await page.evaluate(() =>
        (performance.getEntriesByType('resource') as PerformanceResourceTiming[])
          .filter((entry) => new URL(entry.name).pathname.endsWith('.js'))
          .map((entry) => ({ name: new URL(entry.name).pathname, bytes: entry.encodedBodySize })),
      )
      if (process.env.LECTERN_BENCH_FILES) console.error(name, loaded)
      const kilobytes = loaded.reduce((sum, { bytes }) => sum + bytes, 0) / 1000
      const goal = name === 'sheet' ? SHEET_GOAL_KB : null
      figures.push({
        name: `script before the ${name} is shown, compressed`,
        value: kilobytes,
        goal: goal ? `≤ ${goal}` : '–',
        unit: 'kB',
        ok: goal ? kilobytes <= goal : null,
      })
      await page.close()
    }
    return figures
  } finally {
    await browser.close()
    await server.end()
  }
}
