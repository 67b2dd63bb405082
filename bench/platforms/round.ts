/** One package in the practice platform: a real page in a frame, an independent runtime of SCORM, a store of xAPI with the rules of cmi5. */
import type { AddressInfo } from 'node:net'
import { serve } from '@hono/node-server'
import type { Browser, FrameLocator, Page } from '@playwright/test'
import type { Course } from '#demo/platform/courses.ts'
import type { LtiPlatform } from '#demo/platform/lti/lti-platform.ts'
import { platformApp } from '#demo/platform/platform.ts'

export const KINDS = ['scorm-1.2', 'scorm-2004', 'cmi5', 'xapi'] as const
export type Kind = (typeof KINDS)[number]
/** Lectures are played so many times as fast. */
const QUICK = 4
const MOST_MS = 60_000

const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

export interface Platform {
  address: string
  /** @returns the id of the course */
  add(zip: Buffer): Promise<string>
  told(id: string): ReturnType<Course['told']> & { verbs: string[] }
  /** Begins a session. @returns what its page is opened with */
  launch(id: string): URLSearchParams
  /** Its course that opens lectures within its own pages. */
  lti: LtiPlatform
  end(): void
}

/** @param tool address of the app whose lectures are opened within its pages */
export async function openPlatform(tool?: string): Promise<Platform> {
  const { app, courses, lti } = platformApp(tool)
  const server = serve({ fetch: app.fetch, port: 0, hostname: '127.0.0.1' })
  await new Promise((resolve) => server.once('listening', resolve))
  const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
  return {
    address,
    lti,
    async add(zip) {
      const form = new FormData()
      form.append('file', new File([zip as BlobPart], 'lecture.zip'))
      const answer = await fetch(`${address}/packages`, { method: 'POST', body: form, headers: { accept: 'application/json' } })
      return ((await answer.json()) as { id: string }).id
    },
    told(id) {
      const course = courses.find((one) => one.id === id)!
      const verbs = course.statements().map(
        (one) =>
          String((one.verb as { id: string }).id)
            .split('/')
            .at(-1)!,
      )
      return { ...course.told(), verbs: verbs.filter((verb) => verb !== 'progressed') }
    },
    launch: (id) => courses.find((one) => one.id === id)!.launch(address),
    end() {
      server.close()
      for (const course of courses) course.end()
    },
  }
}

const video = (frame: FrameLocator) => frame.locator('video')
const timeIn = (frame: FrameLocator) => video(frame).evaluate((element: HTMLVideoElement) => element.currentTime)
const goTo = (frame: FrameLocator, seconds: number) =>
  video(frame).evaluate((element: HTMLVideoElement, at) => {
    element.currentTime = at
  }, seconds)

/** @throws where it never becomes so */
async function until(what: string, isSo: () => Promise<boolean> | boolean) {
  const began = Date.now()
  while (!(await isSo())) {
    if (Date.now() - began > MOST_MS) throw new Error(`It never came to this: ${what}`)
    await sleep(50)
  }
}

/** Opens the package and plays it. */
async function play(page: Page, { address }: Platform, id: string): Promise<FrameLocator> {
  await page.goto(`${address}/packages/${id}`)
  const frame = page.frameLocator('#lecture')
  await video(frame).evaluate((element: HTMLVideoElement, rate) => {
    element.playbackRate = rate
    return element.play()
  }, QUICK)
  return frame
}

export interface Outcome {
  /** What the platform said before, after a part was heard and the rest jumped over, and after enough was heard. */
  statuses: string[]
  /** Where it went on, seconds, and where it was left. */
  resumedAt: number
  leftAt: number
  time: string
  /** Errors of the runtime, and broken rules. */
  faults: string[]
  verbs: string[]
}

/** @param zip a package in which six tenths must be heard @param length of the lecture, seconds */
export async function playPackage(platform: Platform, browser: Browser, zip: Buffer, length: number): Promise<Outcome> {
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  try {
    const id = await platform.add(zip)
    const status = () => platform.told(id).status
    const statuses = [status()]
    const frame = await play(page, platform, id)
    await until('it plays', async () => (await timeIn(frame)) > 2)
    // what is jumped over does not count
    await goTo(frame, length - 1.5)
    await until('it plays near its end', async () => (await timeIn(frame)) > length - 1)
    const leftAt = 6
    await video(frame).evaluate((element: HTMLVideoElement) => element.pause())
    await goTo(frame, leftAt)
    await sleep(300)
    await page.goto(platform.address)
    await until('it was begun', () => status() === 'incomplete')
    await sleep(300)
    statuses.push(status())

    await page.goto(`${platform.address}/packages/${id}`)
    const again = page.frameLocator('#lecture')
    await until('it goes on', async () => (await timeIn(again)) > 1)
    const resumedAt = await timeIn(again)
    await play(page, platform, id)
    await until('it is played to its end', async () => (await timeIn(again)) > length - 0.5)
    await goTo(again, 0)
    await video(again).evaluate((element: HTMLVideoElement) => element.play())
    await until('it is completed', () => status() === 'completed')
    statuses.push(status())
    await page.goto(platform.address)
    await until('its time is told', () => platform.told(id).time !== '')
    await sleep(300)
    const { time, faults, verbs } = platform.told(id)
    return { statuses, resumedAt, leftAt, time, faults, verbs }
  } finally {
    await page.context().close()
  }
}
