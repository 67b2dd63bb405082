/** A shelf of 5,000 lectures: how soon it is seen, and how soon words are found in all of their scripts. */
import { randomUUID } from 'node:crypto'
import { rmSync } from 'node:fs'
import { chromium } from '@playwright/test'
import { eq, inArray } from 'drizzle-orm'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { openDatabase } from '#server/db/database.ts'
import { lectures, slides, steps } from '#server/db/schema.ts'
import { readWordsAtLeisure } from '#server/domain/lectures/word-index.ts'
import { folderStore } from '#server/storage/file-store.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { serverProcess } from '#tests/support/processes/server-process.ts'
import { seedLecture } from '#tests/support/seed.ts'
import { benchFolder, quantile, randomOf } from './measure.ts'

const LECTURES = 5000
const SLIDES = 12
const WORDS_A_SCRIPT = 80
const VOCABULARY = 8000
/** A shelf that is seen at once, to compare with. */
const FEW = 20
/** Questions that are not counted: the server has just been started. */
const WARM = 30
/** Lectures that are laid at a time. */
const AT_A_TIME = 50
const QUESTIONS = 200
/** Words come as often as in a language: the second half as often as the first, and so on (Zipf's law; common knowledge, no table). */
const wordAt = (random: number) => Math.floor(VOCABULARY ** random) - 1

/** Words that nobody says, of syllables: a beginning, a vowel, an end. */
function makeVocabulary(random: () => number): string[] {
  const [begins, vowels, ends] = [
    'b d f g h k l m n p r s t w z br dr gr kl pr sch st tr'.split(' '),
    [...'aeiou'],
    ['', ...'nrstlmk'],
  ]
  const syllables = begins.flatMap((begin) => vowels.flatMap((vowel) => ends.map((end) => begin + vowel + end)))
  const made = new Set<string>()
  while (made.size < VOCABULARY)
    made.add(
      Array.from({ length: 1 + Math.floor(random() * 4) }, () => syllables[Math.floor(random() * syllables.length)]).join(''),
    )
  return [...made]
}

/** Lays the lectures into a folder, each with slides and scripts of its own. */
async function layShelf(dataFolder: string, vocabulary: readonly string[], random: () => number, count: number) {
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
  for (let n = 1; n < count; n += AT_A_TIME)
    await db.write(async (tx) => {
      for (let i = n; i < Math.min(count, n + AT_A_TIME); i++) {
        const lectureId = randomUUID()
        await tx.insert(lectures).values({ ...lecture!, id: lectureId, title: said(4), updatedAt: Date.now() + i })
        const own = Array.from({ length: SLIDES }, (_, position) => ({
          ...slideRows[position % slideRows.length]!,
          ...{ id: randomUUID(), lectureId, position, title: said(3), script: said(WORDS_A_SCRIPT) },
        }))
        await tx.insert(slides).values(own)
        await tx
          .insert(steps)
          .values(own.map((slide, at) => ({ ...stepRows[at % stepRows.length]!, id: randomUUID(), slideId: slide.id })))
      }
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

/** @returns milliseconds until the shelf of a folder is seen, the middle of five, and what else is measured of its server */
async function withShelf<T>(
  vocabulary: readonly string[],
  random: () => number,
  count: number,
  measure: (address: string) => Promise<T>,
) {
  const dataFolder = benchFolder()
  await layShelf(dataFolder, vocabulary, random, count)
  // as in a folder that has been in use: words are read as they are written
  const db = await openDatabase(dataFolder)
  await readWordsAtLeisure(db, new AbortController().signal, 0)
  db.close()
  const server = await serverProcess(dataFolder, {})
  try {
    await server.start()
    const seen: number[] = []
    for (let n = 0; n < 5; n++) seen.push(await firstSeen(server.address))
    return { seen: quantile(seen, 0.5), measured: await measure(server.address) }
  } finally {
    if (server.isRunning()) await server.kill()
    rmSync(dataFolder, { recursive: true, force: true })
  }
}

/** @returns milliseconds of each question for words, common and rare, and how many found nothing */
async function seek(address: string, vocabulary: readonly string[], random: () => number) {
  const times: number[] = []
  let nothing = 0
  for (let n = -WARM; n < QUESTIONS; n++) {
    // one word to three
    const words = Array.from({ length: 1 + ((n + WARM) % 3) }, () => vocabulary[wordAt(random())]).join(' ')
    const began = performance.now()
    const answer = await fetch(`${address}/api/lectures?${new URLSearchParams({ words })}`)
    const { total } = (await answer.json()) as { total: number }
    if (n < 0) continue
    times.push(performance.now() - began)
    if (total === 0) nothing++
  }
  return { times, nothing }
}

export async function shelf({ seed }: BenchOptions): Promise<Figure[]> {
  const random = randomOf(seed ?? 1)
  const vocabulary = makeVocabulary(random)
  const few = await withShelf(vocabulary, random, FEW, async () => null)
  const { seen, measured } = await withShelf(vocabulary, random, LECTURES, (address) => seek(address, vocabulary, random))
  const { times, nothing } = measured
  return [
    { name: `a shelf of ${FEW} lectures, seen after`, value: few.seen, goal: '', unit: 'ms', ok: null },
    { name: `a shelf of ${LECTURES} lectures, seen after`, value: seen, goal: '< 1000', unit: 'ms', ok: seen < 1000 },
    { name: 'words sought in all its scripts, median', value: quantile(times, 0.5), goal: '', unit: 'ms', ok: null },
    {
      name: 'words sought in all its scripts, 95th percentile',
      value: quantile(times, 0.95),
      goal: '< 100',
      unit: 'ms',
      ok: quantile(times, 0.95) < 100,
    },
    { name: 'questions that found nothing', value: (100 * nothing) / times.length, goal: '', unit: '%', ok: null },
  ]
}
