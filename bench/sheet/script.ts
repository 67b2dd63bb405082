/** What a browser loads before a place is shown: its scripts as they are sent, compressed. */
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { chromium } from '@playwright/test'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { importDeck, openBenchServer } from './lecture.ts'

/** A place, the address behind the lecture's, and what stands there once it is shown. */
const PLACES: [name: string, address: (lecture: string) => string, shown: string][] = [
  ['shelf', () => '/', 'main a[href^="/lectures/"]'],
  ['sheet', (lecture) => `/lectures/${lecture}`, 'main img'],
  ['booth', (lecture) => `/lectures/${lecture}/booth`, '[role="timer"]'],
  ['publish', (lecture) => `/lectures/${lecture}/publish`, 'main button:visible'],
  ['watch page', () => '/watch/unknown', 'main, [role="alert"]'],
]
/** Half of what it was before its scripts were divided, compressed the same way. */
const SHEET_GOAL_KB = 157

const ASSETS = join(import.meta.dirname, '../../dist/web/assets')

/** What a place cannot be drawn without: its scripts and all that they import at once, and not what comes when it is there. kB, compressed. */
function neededFor(entries: readonly string[]): number {
  const files = readdirSync(ASSETS)
  const needed = new Set<string>()
  const follow = (file: string) => {
    if (needed.has(file)) return
    needed.add(file)
    const source = readFileSync(join(ASSETS, file), 'utf8')
    for (const [, imported] of source.matchAll(/(?:from|import)\s*["']\.\/([^"']+\.js)["']/g)) follow(imported!)
  }
  for (const entry of entries) for (const file of files) if (file.startsWith(`${entry}-`) && file.endsWith('.js')) follow(file)
  return [...needed].reduce((sum, file) => sum + compressedSize(join(ASSETS, file)), 0) / 1000
}

/** As it is sent: a short file is not compressed. */
const compressedSize = (path: string) => statSync(existsSync(`${path}.br`) ? `${path}.br` : path).size

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
      figures.push({
        name: `script that is loaded by the time the ${name} is shown, compressed`,
        value: kilobytes,
        goal: '–',
        unit: 'kB',
        ok: null,
      })
      await page.close()
    }
    const needed = neededFor(['main', 'index', 'author', 'client', 'sheet'])
    figures.push({
      name: 'script that the sheet cannot be drawn without, compressed',
      value: needed,
      goal: `≤ ${SHEET_GOAL_KB}`,
      unit: 'kB',
      ok: needed <= SHEET_GOAL_KB,
    })
    return figures
  } finally {
    await browser.close()
    await server.end()
  }
}
