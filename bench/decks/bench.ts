/** A deck of sixty pages: how long until its sheet can be used, what it costs meanwhile, and whether its pictures are right. */
import { execFileSync, spawn } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { once } from 'node:events'
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { monitorEventLoopDelay } from 'node:perf_hooks'
import { chromium } from '@playwright/test'
import { eq } from 'drizzle-orm'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import type { RowsSoFar } from '#core/jobs/job.ts'
import { jobs } from '#server/db/schema.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { makeDeck } from '#tests/made/deck-maker.ts'
import { random } from '#tests/made/sound.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { drawSlide } from '../publish/lecture.ts'
import { openBenchServer } from '../sheet/lecture.ts'

const PAGES = 60

/** Pages as slide programs print them: text, lists, a table, a drawing, a photograph on some. */
async function printedDeck(): Promise<Buffer> {
  const next = random(7)
  const words = 'rain gauge water level stick funnel tube inch reading morning observer tree open ground curve bottom'.split(' ')
  const some = (n: number) => Array.from({ length: n }, () => words[Math.floor(next() * words.length)]).join(' ')
  const photo = `data:image/png;base64,${Buffer.from(drawSlide(1)).toString('base64')}`
  const pages = Array.from({ length: PAGES }, (_, i) => {
    const rows = Array.from({ length: 4 }, () => `<tr><td>${some(2)}</td><td>${(next() * 9).toFixed(2)}</td></tr>`).join('')
    const shape = `<svg width="300" height="220"><circle cx="110" cy="110" r="90" fill="#3d5a73"/><path d="M20 200 L150 20 L280 200 Z" fill="none" stroke="#a8660f" stroke-width="8"/></svg>`
    return `<section><h1>${i + 1}. ${some(3)}</h1><ul>${Array.from({ length: 5 }, () => `<li>${some(7)}</li>`).join('')}</ul><div class=r>${i % 4 === 0 ? `<img src="${photo}">` : shape}</div><table>${rows}</table></section>`
  })
  const style =
    '@page{size:1280px 720px;margin:0}body{margin:0;font:28px DejaVu Sans}section{width:1280px;height:720px;box-sizing:border-box;padding:50px;position:relative;break-after:page;overflow:hidden}h1{font-size:52px;margin:0 0 20px}.r{position:absolute;right:60px;top:160px}img{width:400px}td{border:1px solid #999;padding:4px 16px}'
  const browser = await chromium.launch(BROWSER)
  try {
    const page = await browser.newPage()
    await page.setContent(`<style>${style}</style>${pages.join('')}`)
    return await page.pdf({ width: '1280px', height: '720px', printBackground: true })
  } finally {
    await browser.close()
  }
}

/** SSIM of our drawing against that of another program, both made softer by a pixel. */
function likeness(ours: string, theirs: string): number {
  const filter = '[0]format=gray,gblur=sigma=1[a];[1]format=gray,scale=1920:1080,gblur=sigma=1[b];[a][b]ssim'
  const told = execFileSync('bash', [
    '-c',
    `ffmpeg -f image2 -i "${ours}" -f image2 -i "${theirs}" -lavfi "${filter}" -f null - 2>&1`,
  ]).toString()
  return Number(/SSIM Y:([\d.]+)/.exec(told)![1])
}

const IDLE = `
const delay = require('node:perf_hooks').monitorEventLoopDelay({ resolution: 5 })
process.on('message', (word) => {
  if (word === 'end') process.exit()
  if (word === 'begin') { delay.reset(); delay.enable() }
  process.send(word === 'begin' ? 0 : delay.max / 1e6)
})`

/** A program that does nothing, beside the server: what it waits for is the machine's, and not the server's. */
function idler() {
  const child = spawn(process.execPath, ['-e', IDLE], { stdio: ['ignore', 'ignore', 'inherit', 'ipc'] })
  const ask = async (word: string) => {
    child.send(word)
    return (await once(child, 'message'))[0] as number
  }
  return { begin: () => ask('begin'), longestWait: () => ask('told'), end: () => child.send('end') }
}

export async function bench(_: BenchOptions): Promise<Figure[]> {
  const server = await openBenchServer(4933)
  const beside = idler()
  const folder = mkdtempSync(join(tmpdir(), 'lectern-decks-'))
  try {
    const pdf = await printedDeck()
    writeFileSync(join(folder, 'deck.pdf'), pdf)
    const importing = async (name: string, bytes: Uint8Array) => {
      const lectureId = randomUUID()
      const file = await server.context.store.put(bytes)
      await beside.begin()
      const delay = monitorEventLoopDelay({ resolution: 5 })
      delay.enable()
      let [peak, firstPage] = [0, 0]
      const began = performance.now()
      const watch = setInterval(() => {
        peak = Math.max(peak, process.memoryUsage().rss)
      }, 50)
      const job = await server.queue.add('import', null, {
        lectureId,
        language: 'en',
        chosenLanguage: null,
        files: [{ name, file }],
      })
      for (;;) {
        const [row] = await server.context.db.read.select().from(jobs).where(eq(jobs.id, job.id))
        const { rows = [] } = (row?.result ?? {}) as Partial<RowsSoFar>
        if (rows.length > 0 && firstPage === 0) firstPage = performance.now() - began
        if (row?.state === 'failed') throw new Error(row.error ?? 'The deck could not be read')
        if (row?.state === 'done') break
        await new Promise((resolve) => setTimeout(resolve, 50))
      }
      clearInterval(watch)
      delay.disable()
      return {
        lectureId,
        seconds: (performance.now() - began) / 1000,
        firstPage,
        peak,
        wait: delay.max / 1e6,
        idle: await beside.longestWait(),
      }
    }
    const read = await importing('deck.pdf', new Uint8Array(pdf))
    const lecture = await readLecture(server.context.db.read, read.lectureId)
    execFileSync('pdftoppm', ['-png', '-scale-to-x', '1920', '-scale-to-y', '1080', join(folder, 'deck.pdf'), join(folder, 'p')])
    const theirs = readdirSync(folder)
      .filter((n) => n.endsWith('.png'))
      .sort()
    const alike: number[] = []
    for (const [i, slide] of lecture.slides.entries()) {
      const compare = async (ours: string) => likeness(ours, join(folder, theirs[i]!))
      alike.push(await server.context.store.withLocalFile(slide.steps[0]!.picture, compare))
    }
    const deck = await importing('deck.pptx', await makeDeck({ picture: Buffer.from(drawSlide(2)) }))
    return [
      { name: '60-page PDF to a usable sheet', value: read.seconds, goal: '< 15', unit: 's', ok: read.seconds < 15 },
      {
        name: 'the same: first rows to be seen after',
        value: read.firstPage / 1000,
        goal: '< 2',
        unit: 's',
        ok: read.firstPage < 2000,
      },
      { name: 'the same: longest wait of the server', value: read.wait, goal: '< 50', unit: 'ms', ok: read.wait < 50 },
      { name: 'the same: longest wait of a program that does nothing', value: read.idle, goal: '–', unit: 'ms', ok: null },
      { name: 'the same: peak memory', value: read.peak / 1e6, goal: '< 600', unit: 'MB', ok: read.peak < 600e6 },
      {
        name: 'drawing against pdftoppm, SSIM, the least of 60',
        value: Math.min(...alike),
        goal: '≥ 0.95',
        unit: '',
        ok: Math.min(...alike) >= 0.95,
      },
      { name: 'presentation file of 12 slides, read and drawn', value: deck.seconds, goal: '–', unit: 's', ok: null },
    ]
  } finally {
    beside.end()
    await server.end()
    rmSync(folder, { recursive: true, force: true })
  }
}
