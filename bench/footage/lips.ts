/**
 * `npm run bench -- footage-lips [--rounds MINUTES]`: how far lips are from the voice at any moment of what was recorded in the booth and published,
 * and how much work a camera is for the page. The devices are the browser's stand-ins; each picture says which moment of the sound it belongs to.
 */
import { execFileSync, execSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type Browser, chromium, type Page } from '@playwright/test'
import { jobsOf } from '#bench/measure/import-deck.ts'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { plan } from '#core/edition/plan.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { serverProcess } from '#tests/support/processes/server-process.ts'
import { seedFolder } from '#tests/support/seed.ts'
import { momentsOf } from '#tests/support/video-frames.ts'

const say = (what: string) => console.error(`  ${what}`)
const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
const USUAL_MINUTES = 2
const BARS = 16
/** Units in which pictures tell their moment, a second. */
const UNITS = 250

/** In place of microphone and camera: a tone each second, and pictures with bars that tell the moment of the sound. */
async function clockedDevices(page: Page) {
  // functions that are sent to a page were given names by the compiler
  await page.addInitScript('globalThis.__name = (named) => named')
  await page.addInitScript(
    ({ bars, units }) => {
      localStorage.setItem('countdown', '0')
      let clock: { context: AudioContext; began: number; sound: MediaStream } | null = null
      const theClock = () => {
        if (clock) return clock
        const context = new AudioContext({ sampleRate: 48_000 })
        const second = context.createBuffer(1, 48_000, 48_000)
        const samples = second.getChannelData(0)
        for (let i = 0; i < 960; i++) samples[i] = 0.5 * Math.sin((2 * Math.PI * 1000 * i) / 48_000)
        const source = new AudioBufferSourceNode(context, { buffer: second, loop: true })
        const out = context.createMediaStreamDestination()
        source.connect(out)
        const began = context.currentTime + 0.5
        source.start(began)
        clock = { context, began, sound: out.stream }
        return clock
      }
      const pictures = () => {
        const { context, began } = theClock()
        const canvas = document.createElement('canvas')
        canvas.width = 1280
        canvas.height = 720
        const pen = canvas.getContext('2d', { alpha: false })!
        // the context's clock goes on by a whole buffer at a time: what it is ahead of the page's where it has just gone on is the truth
        const ahead: number[] = []
        const now = () => {
          const page = performance.now() / 1000
          ahead.push(context.currentTime - page)
          if (ahead.length > 60) ahead.shift()
          return page + Math.max(...ahead)
        }
        const draw = (at: number) => {
          const moment = Math.max(0, Math.round((at - began) * units))
          for (let bar = 0; bar < bars; bar++) {
            pen.fillStyle = (moment >> bar) & 1 ? '#f0f0f0' : '#101010'
            pen.fillRect((bar * 1280) / bars, 0, 1280 / bars, 720)
          }
        }
        // as a camera does it: pictures at even distances, each stamped when it was taken, however late it comes
        const generator = new MediaStreamTrackGenerator({ kind: 'video' })
        const writer = generator.writable.getWriter()
        let next = now()
        setInterval(() => {
          for (const time = now(); next <= time; next += 1 / 30) {
            draw(next)
            void writer.write(new VideoFrame(canvas, { timestamp: Math.round(next * 1e6) }))
          }
        }, 5)
        return new MediaStream([generator])
      }
      navigator.mediaDevices.getUserMedia = async (options) => (options?.video ? pictures() : theClock().sound)
    },
    { bars: BARS, units: UNITS },
  )
}

const visit = (browser: Browser) =>
  browser.newContext({ permissions: ['microphone', 'camera'], viewport: { width: 1280, height: 800 }, locale: 'en-GB' })

async function untilIdle(address: string) {
  for (;;) {
    await sleep(1000)
    if ((await jobsOf({ address })).every(({ state }) => state !== 'queued' && state !== 'running')) return
  }
}

const json = (method: string, body: unknown) => ({
  method,
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify(body),
})

/** When each tone begins, seconds. */
function tones(video: string): number[] {
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', video, '-ac', '1', '-ar', '48000', '-f', 's16le', '-'], {
    maxBuffer: 2 ** 31,
  })
  const samples = new Int16Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length - (raw.length % 2)))
  const found: number[] = []
  for (let at = 0; at < samples.length; at++) {
    // half of its height is reached within its first waves
    if (Math.abs(samples[at]!) < 6000) continue
    found.push(at / 48_000)
    at += 24_000
  }
  return found
}

/** Frames of the small picture: when each is shown, and which moment it tells; none where it tells none. */
function told(video: string, place: { x: number; y: number; width: number; height: number }) {
  const crop = `crop=iw*${place.width}:ih*${place.height}:iw*${place.x}:ih*${place.y},crop=iw:ih/4,scale=${BARS * 8}:2:flags=area,format=gray`
  const args = ['-v', 'fatal', '-i', video, '-vf', crop, '-fps_mode', 'passthrough', '-f', 'rawvideo', '-']
  const raw = execFileSync('ffmpeg', args, { maxBuffer: 2 ** 31 })
  return momentsOf(video).map((at, i) => {
    let value = 0
    for (let bar = 0; bar < BARS; bar++) if (raw[i * BARS * 16 + bar * 8 + 4]! > 127) value |= 1 << bar
    return { at, value }
  })
}

/** By how much lips come too late (below nought: too early) in each second, ms: the middle one of its frames. */
function lags(video: string, place: Parameters<typeof told>[1]): number[] {
  const beats = tones(video)
  const frames = told(video, place)
  const bySecond: number[][] = []
  let [wraps, before] = [0, 0]
  let first: number | null = null
  let last = -1
  for (const { at, value } of frames) {
    if (value < before - 30_000) wraps++
    before = value
    const beat = beats.findLastIndex((b) => b <= at)
    if (beat < 1 || value === last) continue
    last = value
    const picture = (value + wraps * 65_536) / UNITS
    const sound = beat + at - beats[beat]!
    // which tone was the first that was recorded, the pictures say
    first ??= Math.round(picture - sound)
    const second = Math.floor(at)
    bySecond[second] = [...(bySecond[second] ?? []), (sound + first - picture) * 1000]
  }
  return bySecond.filter((all) => all.length > 10).map((all) => all.toSorted((a, b) => a - b)[all.length >> 1]!)
}

/** Processor seconds that Chromium's pages and what draws them have had; the stand-in for a camera is no page. */
function pageSeconds(): number {
  const ids = execSync('pgrep -f chromium-headless').toString().trim().split('\n')
  return ids.reduce((sum, id) => {
    try {
      const kind = /--type=([\w-]+)/.exec(readFileSync(`/proc/${id}/cmdline`, 'utf8'))?.[1]
      if (kind !== 'renderer' && kind !== 'gpu-process') return sum
      const fields = readFileSync(`/proc/${id}/stat`, 'utf8').split(') ')[1]!.split(' ')
      return sum + (Number(fields[11]) + Number(fields[12])) / 100
    } catch {
      return sum
    }
  }, 0)
}

/** @returns share of a core that recording is for the page, with the browser's own camera or none */
async function pageWork(booth: string, camera: boolean): Promise<number> {
  const args = BROWSER.args!.map((arg) => (arg.startsWith('--use-fake-device') ? `${arg}=fps=30` : arg))
  const browser = await chromium.launch({ ...BROWSER, args })
  try {
    const context = await visit(browser)
    const page = await context.newPage()
    await page.addInitScript(() => localStorage.setItem('countdown', '0'))
    await page.goto(booth)
    await page.locator('button:enabled', { hasText: 'Record' }).first().waitFor()
    if (camera) {
      await page.getByLabel('Camera', { exact: true }).selectOption({ label: 'fake_device_0' })
      await page.getByLabel('Your small picture').waitFor()
    }
    await page.keyboard.press('r')
    await sleep(3000)
    const before = pageSeconds()
    await sleep(15_000)
    const work = (pageSeconds() - before) / 15
    await page.keyboard.press('r')
    await page.getByText('The take is on disk, whole.').waitFor()
    return work
  } finally {
    await browser.close()
  }
}

export async function bench({ rounds }: BenchOptions): Promise<Figure[]> {
  const minutes = rounds ?? USUAL_MINUTES
  const data = mkdtempSync(join(tmpdir(), 'lectern-lips-'))
  const id = await seedFolder(data, 'clouds-by-their-shapes', 'en-GB', 4)
  const server = await serverProcess(data)
  await server.start()
  const { address } = server
  const read = async () => (await (await fetch(`${address}/api/lectures/${id}`)).json()) as Lecture
  const browser = await chromium.launch(BROWSER)
  try {
    const context = await visit(browser)
    const page = await context.newPage()
    await clockedDevices(page)
    const [slide, other] = (await read()).slides as [Lecture['slides'][number], Lecture['slides'][number]]
    await page.goto(`${address}/lectures/${id}/booth?slide=${slide.id}`)
    await page.getByLabel('Camera', { exact: true }).selectOption({ label: 'fake_device_0' })
    await page.getByLabel('Your small picture').waitFor()
    await page.mouse.click(5, 300)
    await page.keyboard.press('r')
    say(`recording for ${minutes} minutes`)
    await sleep(minutes * 60_000)
    await page.keyboard.press('r')
    await page.getByText('The take is on disk, whole.').waitFor({ timeout: 120_000 })
    await browser.close()
    await untilIdle(address)
    const take = (await read()).slides[0]!.takes[0]!
    // as it was recorded: a tone is no voice, and would be cleaned away
    const raw = {
      ...take.tidyUp,
      kept: { start: 0, end: take.samples },
      cuts: [],
      cleaning: 0,
      level: null,
      hum: false,
      clicks: false,
    }
    await fetch(`${address}/api/takes/${take.id}/tidyUp`, json('PUT', raw))
    await fetch(`${address}/api/slides/${slide.id}`, json('PATCH', { keptTakeId: take.id }))
    const smallPicture = { size: 'large', corner: 'top-left', edge: 'square' }
    await fetch(`${address}/api/lectures/${id}`, json('PATCH', { smallPicture }))
    await untilIdle(address)
    const { rate, beginsSeconds } = (await read()).slides[0]!.takes[0]!.footage[0]!.footage.shown!
    say(
      `publishing: ${rate[0] / rate[1]} frames a second${beginsSeconds === undefined ? ', whatever distances they came at' : ''}`,
    )
    await fetch(`${address}/api/lectures/${id}/editions`, json('POST', {}))
    await untilIdle(address)
    const { editions } = (await (await fetch(`${address}/api/lectures/${id}/editions`)).json()) as { editions: { id: string }[] }
    const video = join(data, 'video.mp4')
    writeFileSync(
      video,
      Buffer.from(await (await fetch(`${address}/api/editions/${editions[0]!.id}/files/video.mp4`)).arrayBuffer()),
    )
    const { films } = plan(await read()).slides[0]!
    const found = lags(video, films![0]!.place)
    const worst = Math.max(...found.map(Math.abs))
    const sorted = found.toSorted((a, b) => a - b)
    const at = (share: number) => sorted[Math.floor(share * (sorted.length - 1))]!.toFixed(1)
    say(
      `${found.length} seconds of ${toSeconds(take.samples).toFixed(0)}: from ${at(0)} to ${at(1)} ms, median ${at(0.5)}, from 1 to 99 of 100 ${at(0.01)} to ${at(0.99)}; ${found.filter((lag) => Math.abs(lag) > 20).length} beyond 20`,
    )
    say('how much work a camera is')
    const booth = `${address}/lectures/${id}/booth?slide=${other.id}`
    const work = { without: await pageWork(booth, false), with: await pageWork(booth, true) }
    const above = 100 * (work.with - work.without)
    return [
      {
        name: `lips from the voice, in any second of ${minutes} minutes`,
        value: worst,
        goal: '≤ 20',
        unit: 'ms',
        ok: worst <= 20,
      },
      {
        name: 'page work of a camera (720p, 30 a second), above sound alone',
        value: above,
        goal: '≤ 40',
        unit: '% of a core',
        ok: above <= 40,
      },
    ]
  } finally {
    await browser.close()
    await server.kill()
    rmSync(data, { recursive: true, force: true })
  }
}
