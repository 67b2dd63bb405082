/**
 * How faithfully presentation files of others are drawn: `npm run bench -- fidelity`. With `--sheets FOLDER` it writes contact sheets of the
 * half that is for building, and judges nothing.
 */
import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import type { Deck } from '#core/deck/deck.ts'
import type { RowsSoFar } from '#core/jobs/job.ts'
import { jobs } from '#server/db/schema.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { narratedPresentation } from '#server/export/presentation.ts'
import { madeTake } from '#tests/made/sound.ts'
import { openBenchServer } from '../sheet/lecture.ts'
import { contentsOf, type SlideContents } from './contents.ts'
import { type CorpusFile, corpus } from './corpus.ts'
import { type DrawnDeck, drawDeck } from './draw.ts'
import { Judge } from './judge.ts'
import { clicksRight } from './made-clicks.ts'
import { judgePdfs } from './pdfs.ts'
import { faultsOf } from './schema.ts'
import { writeSheets } from './sheets.ts'

/** Slides of one deck that are looked at: decks of a thousand repeat themselves. */
const MOST_SLIDES = 40
const CASES = 400

interface Lost {
  all: number
  drawn: number
  told: number
  silent: string[]
}

/** What of a slide is drawn, what is told, and what is neither. */
function lossesOf(
  contents: SlideContents,
  drawn: DrawnDeck['slides'][number],
  slide: Deck['slides'][number],
  name: string,
): Lost {
  const items = (slide.steps.at(-1)?.drawing ?? slide.drawing).items
  // what has gone by the last click was drawn before it
  const every = [slide.drawing, ...slide.steps.map((step) => step.drawing)]
  const most = (kind: 'picture' | 'chart') =>
    Math.max(...every.map((one) => one.items.filter((item) => item.kind === kind).length))
  const parts = new Set(every.flatMap((one) => one.items.flatMap((item) => (item.kind === 'picture' ? [item.part] : []))))
  const missing = drawn.missing.length
  const told = drawn.warnings.length + missing
  const all = contents.pictures + contents.charts + contents.tables + contents.objects
  const pictures = Math.min(contents.pictures + contents.objects, Math.max(most('picture'), parts.size) - missing)
  const charts = Math.min(contents.charts, most('chart'))
  const tables = items.length > 0 ? contents.tables : 0
  // a diagram is shapes of its own
  const diagrams = Math.max(0, contents.objects - Math.max(0, most('picture') - contents.pictures))
  const ofObjects = told > 0 ? 0 : Math.min(diagrams, items.length)
  const seen = Math.min(all, Math.max(0, pictures) + charts + tables + ofObjects)
  return { all, drawn: seen, told: Math.min(told, all - seen), silent: seen < all && told === 0 ? [name] : [] }
}

interface Judged {
  slides: number
  right: number
  decks: number
  rightSize: number
  lost: Lost
  unread: string[]
}

async function judgeAll(files: readonly CorpusFile[], judge: Judge): Promise<Judged> {
  const found: Judged = {
    slides: 0,
    right: 0,
    decks: 0,
    rightSize: 0,
    lost: { all: 0, drawn: 0, told: 0, silent: [] },
    unread: [],
  }
  for (const { path, name } of files) {
    const contents = contentsOf(path)
    const drawn = await drawDeck(path, name, MOST_SLIDES).catch(() => null)
    if (!drawn || !contents) {
      if (contents && contents.slides.length > 0) found.unread.push(name)
      continue
    }
    found.decks++
    const isRight = (slide: Deck['slides'][number], i: number) =>
      Math.abs(slide.drawing.width / slide.drawing.height / contents.ratios[i]! - 1) < 0.01
    if (drawn.deck.slides.every(isRight)) found.rightSize++
    for (const [i, one] of drawn.slides.entries()) {
      const slide = drawn.deck.slides[i]!
      const lost = lossesOf(contents.slides[i]!, one, slide, `${name} ${i + 1}`)
      found.lost.all += lost.all
      found.lost.drawn += lost.drawn
      found.lost.told += lost.told
      found.lost.silent.push(...lost.silent)
      if (!name.endsWith('.pptx')) continue
      found.slides++
      const boxes = await judge.boxes((slide.steps.at(-1) ?? slide).drawing)
      if (boxes.every((box) => box.ok)) found.right++
    }
  }
  return found
}

/**
 * A deck of a hundred slides: how long until the last and the first of its rows; and what the schemas refuse of the narrated presentation file
 * that is made of it again. A spoiled copy has to be refused, or the judge judges nothing.
 */
async function speed(): Promise<{ all: number; first: number; faults: string[] | null; isJudge: boolean }> {
  const { default: Pptx } = await import('pptxgenjs')
  const deck = new (Pptx as unknown as { new (): import('pptxgenjs').default })()
  for (let i = 0; i < 100; i++) {
    const slide = deck.addSlide()
    slide.addText(`Slide ${i + 1}`, { x: 0.5, y: 0.3, w: 9, h: 0.8, fontSize: 32 })
    slide.addText(
      Array.from({ length: 6 }, (_, k) => ({
        text: `Point ${k + 1} of what is said there`,
        options: { bullet: true, breakLine: true },
      })),
      { x: 0.5, y: 1.3, w: 5, h: 3.5 },
    )
    const values = [1, 3, 2, 5].map((v) => v + (i % 3))
    slide.addChart('bar', [{ name: 'Rain', labels: ['a', 'b', 'c', 'd'], values }], { x: 5.6, y: 1.3, w: 4, h: 3 })
  }
  const bytes = new Uint8Array((await deck.write({ outputType: 'nodebuffer' })) as Buffer)
  const server = await openBenchServer(4934)
  try {
    const file = await server.context.store.put(bytes)
    const spoken = writeWav(toInt16(madeTake().samples), 48_000)
    const files = [
      { name: 'd.pptx', file },
      { name: 'slide 1.wav', file: await server.context.store.put(spoken) },
    ]
    const began = performance.now()
    const lectureId = randomUUID()
    const job = await server.queue.add('import', null, {
      lectureId,
      language: 'en',
      chosenLanguage: null,
      files,
    })
    let first = 0
    for (;;) {
      const [row] = await server.context.db.read.select().from(jobs).where(eq(jobs.id, job.id))
      const { rows = [] } = (row?.result ?? {}) as Partial<RowsSoFar>
      if (rows.length > 0 && first === 0) first = (performance.now() - began) / 1000
      if (row?.state === 'failed') throw new Error(row.error ?? 'The deck could not be read')
      if (row?.state === 'done') {
        const all = (performance.now() - began) / 1000
        let lecture = await readLecture(server.context.db.read, lectureId)
        for (; !lecture.slides[0]!.takes[0]?.clip; lecture = await readLecture(server.context.db.read, lectureId))
          await new Promise((resolve) => setTimeout(resolve, 100))
        const out = await narratedPresentation(server.context, lecture, new AbortController().signal)
        const spoiled = unzipSync(out)
        const name = 'ppt/slides/slide2.xml'
        spoiled[name] = strToU8(strFromU8(spoiled[name]!).replace('<p:transition ', '<p:transition loop="1" '))
        return { all, first, faults: faultsOf(out), isJudge: (faultsOf(zipSync(spoiled)) ?? []).length === 1 }
      }
      await new Promise((resolve) => setTimeout(resolve, 50))
    }
  } finally {
    await server.end()
  }
}

const share = (a: number, b: number) => (b === 0 ? 1 : a / b)

export async function bench({ seed, sheets }: BenchOptions): Promise<Figure[]> {
  const files = corpus()
  if (sheets) {
    for (const { path, name, half } of files)
      if (half === 'building')
        await drawDeck(path, name, MOST_SLIDES).then(
          (deck) => writeSheets(sheets, deck),
          () => {},
        )
    return []
  }
  const judge = await Judge.open()
  try {
    const figures: Figure[] = []
    for (const half of ['building', 'held back'] as const) {
      const found = await judgeAll(
        files.filter((one) => one.half === half),
        judge,
      )
      const isReported = half === 'held back'
      const add = (name: string, value: number, goal: string, unit: string, ok: boolean) =>
        figures.push({ name: `${half}: ${name}`, value, goal: isReported ? goal : '–', unit, ok: isReported ? ok : null })
      const text = 100 * share(found.right, found.slides)
      add(`slides of PPTX whose text stands as in the independent layout (of ${found.slides})`, text, '≥ 95', '%', text >= 95)
      add(`decks with the right size of page (of ${found.decks})`, found.rightSize, 'all', '', found.rightSize === found.decks)
      const drawn = 100 * share(found.lost.drawn, found.lost.all)
      add(`pictures, charts, tables, objects that are drawn (of ${found.lost.all})`, drawn, '≥ 97', '%', drawn >= 97)
      add(
        'slides on which something is neither drawn nor told',
        found.lost.silent.length,
        '0',
        '',
        found.lost.silent.length === 0,
      )
      add(`files with slides that cannot be read (${found.unread.join(', ') || 'none'})`, found.unread.length, '–', '', true)
      const pdfs = await judgePdfs(half)
      const near = 100 * share(pdfs.near, pdfs.pages)
      add(`pages of PDFs within 3 % of poppler’s (of ${pdfs.pages})`, near, '≥ 94.6', '%', near >= 94.6)
      add('PDFs that poppler draws and we refuse', pdfs.refused.length, '–', '', true)
      if (half === 'building' && pdfs.far.length > 0) console.error(`farther from poppler: ${pdfs.far.join('; ')}`)
      if (found.lost.silent.length > 0) console.error(`${half}: neither drawn nor told: ${found.lost.silent.join('; ')}`)
    }
    const clicks = 100 * clicksRight(seed + 1000, CASES)
    const took = await speed()
    return [
      ...figures,
      {
        name: `effects of ${CASES} made slides read as steps, in both formats`,
        value: clicks,
        goal: '≥ 98',
        unit: '%',
        ok: clicks >= 98,
      },
      { name: 'a deck of 100 slides with charts, to its sheet', value: took.all, goal: '< 30', unit: 's', ok: took.all < 30 },
      { name: 'the same: first rows after', value: took.first, goal: '< 2', unit: 's', ok: took.first < 2 },
      {
        name: 'faults of its narrated presentation file against the schemas of ECMA-376',
        value: took.faults?.length ?? null,
        goal: '0',
        unit: '',
        ok: took.faults && took.isJudge ? took.faults.length === 0 : null,
      },
    ]
  } finally {
    await judge.close()
  }
}
