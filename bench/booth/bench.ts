/**
 * `npm run bench -- booth [--rounds MINUTES]`: what the booth captures against what Chromium's microphone played, how exact marks are, how
 * soon one can listen, and how much work recording is for the page.
 */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { chromium, type Page } from '@playwright/test'
import { and, eq, gt, isNotNull } from 'drizzle-orm'
import { importDeck, jobsOf } from '#bench/measure/import-deck.ts'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Take } from '#core/model/take.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { openDatabase } from '#server/db/database.ts'
import { clips, takes } from '#server/db/schema.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { decodeStored } from '#server/media/pcm.ts'
import { folderStore } from '#server/storage/file-store.ts'
import { random } from '#tests/made/sound.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { placesIn, unlikeItself } from '#tests/support/place-in.ts'
import { serverProcess } from '#tests/support/processes/server-process.ts'

const USUAL_MINUTES = 2
const PRESSES = 24
const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

/** The built server in a process of its own, as it is used, and its database to look into. */
async function openServer(data: string) {
  const server = await serverProcess(data)
  await server.start()
  const db = await openDatabase(data)
  return {
    address: server.address,
    context: { db, store: folderStore(data), media: ffmpegAt('ffmpeg') },
    async end() {
      db.close()
      await server.kill()
    },
  }
}
type BenchServer = Awaited<ReturnType<typeof openServer>>

const quantile = (values: readonly number[], part: number) =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(part * values.length))] ?? 0

/** When keys were pressed, and how much sound the page had been given when each piece of it came: ms, samples. */
interface Log {
  pressed: number[]
  came: { t: number; samples: number }[]
}

async function logMarks(page: Page) {
  await page.addInitScript(() => {
    localStorage.setItem('countdown', '0')
    const log: Log = { pressed: [], came: [] }
    Object.assign(window, { marksLog: log })
    addEventListener('keydown', (event) => event.key.startsWith('Page') && log.pressed.push(event.timeStamp), true)
    // pieces come from a worker, or from the audio thread where the browser has no reader for tracks
    for (const sender of [MessagePort.prototype, Worker.prototype]) {
      const own = Object.getOwnPropertyDescriptor(sender, 'onmessage')!
      Object.defineProperty(sender, 'onmessage', {
        get: own.get,
        set(this: typeof sender, handle: ((event: MessageEvent) => void) | null) {
          own.set!.call(
            this,
            handle &&
              ((event: MessageEvent) => {
                const given = event.data?.samples?.length
                if (given) log.came.push({ t: performance.now(), samples: given + (log.came.at(-1)?.samples ?? 0) })
                handle.call(this, event)
              }),
          )
        },
      })
    }
  })
}

async function ready(page: Page, address: string, id: string, how: string) {
  await page.goto(`${address}/lectures/${id}/booth?how=${how}`)
  await page.getByLabel('Microphone').selectOption({ index: 0 })
  await page.locator('button:not([disabled])', { hasText: 'Record' }).waitFor()
}
const begin = async (page: Page) => {
  await page.keyboard.press('r')
  await page.getByRole('button', { name: /^Stop/ }).waitFor()
}

/** Waits until so many seconds are in the take: a machine that stands still loses some of the device's. */
async function untilRecorded(page: Page, seconds: number) {
  for (;;) {
    const [minutes, rest] = (await page.getByRole('timer').innerText()).split(':')
    if (60 * Number(minutes) + Number(rest) >= seconds) return
    await sleep(200)
  }
}

/** Messages from the audio thread come late and never early: those that come least late in this time tell where the sound was. */
const AROUND_MS = 1500

/** How far each mark stands from where the sound was when its key was pressed, by when pieces of it came. ms */
async function markErrors(page: Page, server: BenchServer, id: string, seed: number): Promise<number[]> {
  const next = random(seed)
  await ready(page, server.address, id, 'through')
  await begin(page)
  await sleep(1000)
  for (let i = 0; i < PRESSES; i++) {
    await sleep(200 + 300 * next())
    await page.keyboard.press(i % 2 === 0 ? 'PageDown' : 'PageUp')
  }
  await sleep(1000)
  const { pressed, came } = await page.evaluate(() => (window as unknown as { marksLog: Log }).marksLog)
  await page.keyboard.press('r')
  await page.getByText('The take is on disk, whole.').waitFor()
  const [take] = await server.context.db.read.select().from(takes).where(eq(takes.isContinuous, true))
  const told = take!.marks!.filter((mark) => mark.kind === 'slide')
  if (told.length !== PRESSES) throw new Error(`${told.length} of ${PRESSES} marks were kept`)
  return told.map(({ at }, i) => {
    const near = came.filter(({ t }) => Math.abs(t - pressed[i]!) < AROUND_MS)
    const began = Math.min(...near.map(({ t, samples }) => t - (1000 * samples) / SAMPLE_RATE))
    return Math.abs(began + (1000 * at) / SAMPLE_RATE - pressed[i]!)
  })
}

async function longestTake(server: BenchServer, id: string): Promise<Take | undefined> {
  const lecture = (await (await fetch(`${server.address}/api/lectures/${id}`)).json()) as Lecture
  // the booth goes to the first slide without sound, whichever that is
  return lecture.slides.flatMap((slide) => slide.takes).sort((a, b) => b.samples - a.samples)[0]
}

/** What the server still does with an earlier recording is not to be measured with the next one. */
async function untilIdle(server: BenchServer) {
  for (let quiet = 0; quiet < 5; quiet++) {
    if ((await jobsOf(server)).some(({ state }) => state === 'queued' || state === 'running')) quiet = 0
    await sleep(1000)
  }
}

interface Stopped {
  listenMs: number
  tidiedMs: number
  /** Parts of one core. */
  work: number
}

/** A take of a minute. */
async function minuteTake(page: Page, server: BenchServer, id: string): Promise<Stopped> {
  await ready(page, server.address, id, 'slide')
  const client = await page.context().newCDPSession(page)
  await client.send('Performance.enable')
  const busy = async () => {
    const { metrics } = await client.send('Performance.getMetrics')
    const of = (name: string) => metrics.find((m) => m.name === name)!.value
    return { task: of('TaskDuration'), at: of('Timestamp') }
  }
  await begin(page)
  await sleep(5000)
  const before = await busy()
  await sleep(50_000)
  const after = await busy()
  await untilRecorded(page, 60)
  const pressed = Date.now()
  await page.keyboard.press('r')
  await page.locator('button:not([disabled])', { hasText: 'Listen' }).waitFor()
  const listenMs = Date.now() - pressed
  // asked of the database: reading the whole lecture again and again would slow down what is measured
  const { db } = server.context
  const minutes = and(gt(takes.samples, 59 * SAMPLE_RATE), isNotNull(takes.analysis))
  while (
    (
      await db.read
        .select({ key: clips.key })
        .from(clips)
        .innerJoin(takes, and(eq(clips.takeId, takes.id), minutes))
    ).length === 0
  )
    await sleep(50)
  return { listenMs, tidiedMs: Date.now() - pressed, work: (after.task - before.task) / (after.at - before.at) }
}

interface Captured {
  worstCorrelation: number
  /** Samples a minute that the recording runs away from the file. */
  drift: number
  /** Half seconds in which a sample was missing or came twice. */
  jumps: number
}

/** Every half second of a long take against the file. */
function compare(known: Float32Array, recorded: Float32Array): Captured {
  const places = placesIn(known, recorded)
  const minutes = recorded.length / SAMPLE_RATE / 60
  const jumps = places.flatMap(({ offset }, i) => {
    const by = i === 0 ? 0 : offset - places[i - 1]!.offset
    return Math.abs(by) > 0.5 ? [{ at: (i + 1) / 2, by: Math.round(by) }] : []
  })
  for (const { at, by } of jumps) process.stderr.write(`at ${at} s: ${Math.abs(by)} samples ${by > 0 ? 'missing' : 'too many'}\n`)
  return {
    worstCorrelation: Math.min(...places.map((place) => place.correlation)),
    drift: Math.abs(places.at(-1)!.offset - places[0]!.offset) / minutes,
    jumps: jumps.length,
  }
}

export async function bench({ seed, rounds }: BenchOptions): Promise<Figure[]> {
  const minutes = rounds ?? USUAL_MINUTES
  const folder = mkdtempSync(join(tmpdir(), 'lectern-booth-'))
  const path = join(folder, 'known.wav')
  const known = unlikeItself(60 * minutes + 30, seed)
  writeFileSync(path, writeWav(toInt16(known), SAMPLE_RATE))
  const server = await openServer(join(folder, 'data'))
  const args = [...BROWSER.args!, `--use-file-for-fake-audio-capture=${path}`]
  const open = async () => {
    const browser = await chromium.launch({ ...BROWSER, args })
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, permissions: ['microphone'] })
    const page = await context.newPage()
    await logMarks(page)
    return { browser, page }
  }
  try {
    const id = await importDeck(server)
    const stage = (what: string) => process.stderr.write(`${what}\n`)
    stage('marks')
    const first = await open()
    const errors = await markErrors(first.page, server, id, seed)
    await first.browser.close()
    await untilIdle(server)
    stage('a take of a minute')
    const second = await open()
    const stopped = await minuteTake(second.page, server, id)
    await second.browser.close()
    stage(`heard after ${stopped.listenMs} ms, tidied after ${stopped.tidiedMs} ms`)
    await untilIdle(server)
    stage(`a take of ${minutes} min`)
    // the file plays from its start for a browser of its own
    const third = await open()
    await ready(third.page, server.address, id, 'slide')
    await begin(third.page)
    await untilRecorded(third.page, 60 * minutes)
    await third.page.keyboard.press('r')
    await third.page.getByText('The take is on disk, whole.').waitFor({ timeout: 120_000 })
    await third.browser.close()
    const longest = await longestTake(server, id)
    const [take] = await server.context.db.read.select().from(takes).where(eq(takes.id, longest!.id))
    const recorded = fromInt16(await decodeStored(server.context, take!.sound!))
    stage('comparing')
    const captured = compare(known, recorded)
    const figure = (name: string, value: number, goal: string, unit: string, ok: boolean): Figure => ({
      name,
      value,
      goal,
      unit,
      ok,
    })
    return [
      figure(`captured against played, ${minutes} min: jumps`, captured.jumps, '0', 'half seconds', captured.jumps === 0),
      figure('drift', captured.drift, '< 1', 'samples a minute', captured.drift < 1),
      figure('correlation, worst half second', captured.worstCorrelation, '> 0.999', '', captured.worstCorrelation > 0.999),
      {
        name: "time without sound by the microphone's clock, as the take tells",
        value: take!.dropoutMs,
        goal: '–',
        unit: 'ms',
        ok: null,
      },
      figure(`mark accuracy, worst of ${errors.length}`, Math.max(...errors), '≤ 20', 'ms', Math.max(...errors) <= 20),
      figure('mark accuracy, median', quantile(errors, 0.5), '≤ 20', 'ms', quantile(errors, 0.5) <= 20),
      figure('stop to listening, 60 s take', stopped.listenMs, '< 300', 'ms', stopped.listenMs < 300),
      figure('stop to tidied, 60 s take', stopped.tidiedMs, '< 2000', 'ms', stopped.tidiedMs < 2000),
      figure('page work while recording', 100 * stopped.work, '< 25', '% of a core', stopped.work < 0.25),
    ]
  } finally {
    await server.end()
    rmSync(folder, { recursive: true, force: true })
  }
}
