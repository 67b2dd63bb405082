/** A learner on a slow line: what the watch page weighs, and how long it takes from the address to the first picture that moves. */
import { chromium, type Page } from '@playwright/test'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { readLinks } from '#server/watch/links.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { distinctLecture } from '../publish/lecture.ts'
import { openBenchServer } from '../sheet/lecture.ts'

const SLIDES = 30
const CLIP_S = 20
const LINE = { offline: false, latency: 300, downloadThroughput: 1_500_000 / 8, uploadThroughput: 750_000 / 8 }
const GOAL_MS = 3500
const GOAL_KB = 120

/** @returns ms from the address to the button, and from there to the first frame; kB of script and style, with what came after the picture */
async function openSlowly(page: Page, address: string) {
  const session = await page.context().newCDPSession(page)
  await session.send('Network.enable')
  await session.send('Network.emulateNetworkConditions', LINE)
  let heavy = 0
  const kinds = new Map<string, string>()
  session.on('Network.responseReceived', ({ requestId, type }) => kinds.set(requestId, type))
  session.on('Network.loadingFinished', ({ requestId, encodedDataLength }) => {
    if (['Script', 'Stylesheet'].includes(kinds.get(requestId) ?? '')) heavy += encodedDataLength
  })
  const asked = performance.now()
  await page.goto(address, { waitUntil: 'commit' })
  const begin = page.getByRole('button', { name: 'Begin', exact: true })
  await begin.waitFor()
  const stands = performance.now()
  await page.evaluate(() => {
    const video = document.querySelector('video')!
    Object.assign(window, { shown: new Promise((resolve) => video.requestVideoFrameCallback(resolve)) })
  })
  await begin.click()
  await page.evaluate(() => (window as unknown as { shown: Promise<unknown> }).shown.then(() => {}))
  const shown = performance.now() - asked
  // what reads captions comes beside them
  await page.getByRole('link', { name: 'Caption of slide 1', exact: true }).waitFor()
  return { stands: stands - asked, shown, kilobytes: heavy / 1000 }
}

/** One caption a slide: the page also loads what reads them. */
async function attachCaptions(address: string, lectureId: string) {
  const clock = (seconds: number) => new Date(seconds * 1000).toISOString().slice(11, 23)
  const cues = Array.from({ length: SLIDES }, (_, n) => {
    const start = n * (CLIP_S + 1) + 2
    return `${clock(start)} --> ${clock(start + 5)}\nCaption of slide ${n + 1}\n`
  })
  const form = new FormData()
  form.append('file', new File([`WEBVTT\n\n${cues.join('\n')}`], 'captions.vtt'))
  form.append('language', 'en')
  const answer = await fetch(`${address}/api/lectures/${lectureId}/captions`, { method: 'POST', body: form })
  if (!answer.ok) throw new Error(await answer.text())
}

const middle = (values: number[]) => values.toSorted((a, b) => a - b)[values.length >> 1]!

export async function bench({ rounds }: BenchOptions): Promise<Figure[]> {
  const server = await openBenchServer(4936)
  const browser = await chromium.launch(BROWSER)
  try {
    const lecture = await distinctLecture(server.context, SLIDES, CLIP_S)
    await attachCaptions(server.address, lecture.id)
    await server.ended((await server.queue.add('publish', lecture.id, { lectureId: lecture.id })).id)
    const [link] = await readLinks(server.context.db.read, lecture.id)
    const opened: Awaited<ReturnType<typeof openSlowly>>[] = []
    for (let round = 0; round < (rounds ?? 5); round++) {
      const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
      opened.push(await openSlowly(await context.newPage(), `${server.address}/watch/${link!.token}`))
      await context.close()
    }
    const [stands, shown, kilobytes] = (['stands', 'shown', 'kilobytes'] as const).map((name) =>
      middle(opened.map((one) => one[name])),
    ) as [number, number, number]
    return [
      { name: '1.5 Mbit/s, 300 ms: address to a page that can begin', value: stands, goal: '–', unit: 'ms', ok: null },
      {
        name: '1.5 Mbit/s, 300 ms: address to the first frame',
        value: shown,
        goal: `≤ ${GOAL_MS}`,
        unit: 'ms',
        ok: shown <= GOAL_MS,
      },
      {
        name: 'script and style of the watch page, as they are sent',
        value: kilobytes,
        goal: `≤ ${GOAL_KB}`,
        unit: 'kB',
        ok: kilobytes <= GOAL_KB,
      },
    ]
  } finally {
    await browser.close()
    await server.end()
  }
}
