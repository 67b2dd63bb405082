/** A shelf of 5,000 lectures: how soon it is seen, and how soon words are found in all of their scripts. */
import { randomUUID } from 'node:crypto'
import { rmSync } from 'node:fs'
import { chromium } from '@playwright/test'
import { eq, inArray } from 'drizzle-orm'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { openDatabase } from '#server/db/database.ts'
import { lectures, slides, steps } from '#server/db/schema.ts'
import { folderStore } from '#server/storage/file-store.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { seedLecture } from '#tests/support/seed.ts'
import { serverProcess } from '#tests/support/server-process.ts'
import { benchFolder, quantile, randomOf } from './measure.ts'

const LECTURES = 5000
const SLIDES = 12
const WORDS_A_SCRIPT = 80
const VOCABULARY = 8000
/** Words come as often as in a language: the second half as often as the first, and so on (Zipf's law; common knowledge, no table). */
const wordAt = (random: number) => Math.floor(VOCABULARY ** random) - 1

/** Words that nobody says, of syllables. */
function makeVocabulary(random: () => number): string[] {
  const syllables = ['ba', 'ken', 'lor', 'mi', 'nus', 'pra', 'ti', 'vel', 'zon', 'wer', 'stu', 'dal', 'gri', 'fo', 'hem']
  const made = new Set<string>()
  while (made.size < VOCABULARY)
    made.add(
      Array.from({ length: 1 + Math.floor(random() * 4) }, () => syllables[Math.floor(random() * syllables.length)]).join(''),
    )
  return [...made]
}

/** Lays the lectures into a folder, each with slides and scripts of its own. */
async function layShelf(dataFolder: string, vocabulary: readonly string[], random: () => number) {
  const db = await openDatabase(dataFolder)
  const id = await seedLecture(db, folderStore(dataFolder), 'A lecture')
  const [lecture] = await db.read.select().from(lectures).where(eq(lectures.id, id))
  const slideRows = await db.read.select().from(slides).where(eq(slides.lectureId, id))
  const stepRows = await db.read
    .select()
    .from(steps)
    .where(
      inArray(
        steps.slideId,
        slideRows.map((row) => row.id),
      ),
    )
  const said = (count: number) => Array.from({ length: count }, () => vocabulary[wordAt(random())]).join(' ')
  for (let n = 1; n < LECTURES; n++)
    await db.write(async (tx) => {
      const lectureId = randomUUID()
      await tx.insert(lectures).values({ ...lecture!, id: lectureId, title: said(4), updatedAt: Date.now() + n })
      const own = Array.from({ length: SLIDES }, (_, i) => ({
        ...slideRows[i % slideRows.length]!,
        id: randomUUID(),
        lectureId,
        position: i,
        title: said(3),
        script: said(WORDS_A_SCRIPT),
      }))
      await tx.insert(slides).values(own)
      await tx
        .insert(steps)
        .values(own.map((slide, i) => ({ ...stepRows[i % stepRows.length]!, id: randomUUID(), slideId: slide.id })))
    })
  db.close()
}

/** @returns seconds until the title of a lecture is seen in a browser that was never here, ms */
async function firstSeen(address: string): Promise<number> {
  const browser = await chromium.launch(BROWSER)
  try {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
    const began = performance.now()
    await page.goto(address, { waitUntil: 'commit' })
    await page.getByRole('list', { name: 'Lectures' }).getByRole('link').nth(1).waitFor()
    return performance.now() - began
  } finally {
    await browser.close()
  }
}

export async function shelf({ seed }: BenchOptions): Promise<Figure[]> {
  const random = randomOf(seed ?? 1)
  const vocabulary = makeVocabulary(random)
  const dataFolder = benchFolder()
  await layShelf(dataFolder, vocabulary, random)
  const server = await serverProcess(dataFolder, {})
  try {
    await server.start()
    const seen: number[] = []
    for (let n = 0; n < 5; n++) seen.push(await firstSeen(server.address))
    const times: number[] = []
    let nothing = 0
    for (let n = 0; n < 200; n++) {
      // one word to three, common and rare
      const words = Array.from({ length: 1 + (n % 3) }, () => vocabulary[wordAt(random())]).join(' ')
      const began = performance.now()
      const answer = await fetch(`${server.address}/api/lectures?${new URLSearchParams({ words })}`)
      const { total } = (await answer.json()) as { total: number }
      times.push(performance.now() - began)
      if (total === 0) nothing++
    }
    return [
      {
        name: `a shelf of ${LECTURES} lectures, seen after`,
        value: quantile(seen, 0.5),
        goal: '< 1000',
        unit: 'ms',
        ok: quantile(seen, 0.5) < 1000,
      },
      { name: 'words sought in all its scripts, median', value: quantile(times, 0.5), goal: '', unit: 'ms', ok: null },
      {
        name: 'words sought in all its scripts, 95th percentile',
        value: quantile(times, 0.95),
        goal: '< 100',
        unit: 'ms',
        ok: quantile(times, 0.95) < 100,
      },
      { name: 'words that no slide holds', value: (100 * nothing) / times.length, goal: '', unit: '%', ok: null },
    ]
  } finally {
    if (server.isRunning()) await server.kill()
    rmSync(dataFolder, { recursive: true, force: true })
  }
}
