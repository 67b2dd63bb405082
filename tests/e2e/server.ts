/** A server of a test's own, as a process that can be killed, and steps that several journeys share. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type BrowserContext, expect, type Page, test as plain } from '@playwright/test'
import { BROWSER } from '#tests/support/browser.ts'
import { type ServerProcess, serverProcess } from '#tests/support/processes/server-process.ts'
import { recordOver } from '#tests/support/recording.ts'
import { seedFolder } from '#tests/support/seed.ts'

const root = join(import.meta.dirname, '../..')
export const demoPath = (name: string) => join(root, 'demo/files', name)

export type TestServer = ServerProcess

/** A server on a fresh folder, for as long as it is put to use. @param settings beside those of all tests */
export async function withServer(use: (server: TestServer) => Promise<void>, settings: Record<string, string> = {}) {
  const data = mkdtempSync(join(tmpdir(), 'lectern-e2e-'))
  const server = await serverProcess(data, settings)
  await server.start()
  await use(server)
  if (server.isRunning()) await server.kill()
  rmSync(data, { recursive: true, force: true })
}

export interface Options {
  /** The shelf is empty when the test begins, and nobody else's lectures are on it. */
  ownServer: boolean
}
/** A server that is warm and a browser that knows the pages already: starting both took longer than most tests. */
export interface Shared {
  sharedServer: TestServer
  sharedContext: BrowserContext
}

export const base = plain.extend<Options & { server: TestServer }, Shared>({
  ownServer: [false, { option: true }],
  // biome-ignore lint/correctness/noEmptyPattern: Playwright reads the parameter's shape
  sharedServer: [async ({}, use) => withServer(use), { scope: 'worker' }],
  sharedContext: [
    async ({ playwright }, use) => {
      // a profile on disk keeps pages compiled; one that forgets compiles each anew
      const profile = mkdtempSync(join(tmpdir(), 'lectern-browser-'))
      const context = await playwright.chromium.launchPersistentContext(profile, {
        ...BROWSER,
        viewport: { width: 1280, height: 800 },
        locale: 'en-GB',
        permissions: ['microphone'],
      })
      await use(context)
      await context.close()
      rmSync(profile, { recursive: true, force: true })
    },
    { scope: 'worker' },
  ],
  // one that strangers share with it
  browser: [async ({ sharedContext }, use) => use(sharedContext.browser()!), { scope: 'worker' }],
  server: async ({ ownServer, sharedServer }, use) => {
    if (ownServer) return withServer(use)
    // one that the test before killed
    if (!sharedServer.isRunning()) await sharedServer.start()
    await use(sharedServer)
  },
  context: async ({ sharedContext, server }, use) => {
    await use(sharedContext)
    // what the test left in the browser is not for the next one
    const cleaner = await sharedContext.newPage()
    for (const page of sharedContext.pages()) if (page !== cleaner) await page.close()
    const session = await sharedContext.newCDPSession(cleaner)
    await session.send('Storage.clearDataForOrigin', { origin: new URL(server.address).origin, storageTypes: 'all' })
    await sharedContext.clearCookies()
    await cleaner.close()
  },
  // recordings begin at once in tests, but for the one that looks at the count-down
  page: async ({ page }, use) => {
    await page.addInitScript(() => {
      if (location.protocol === 'http:') localStorage.setItem('countdown', localStorage.getItem('countdown') ?? '0')
    })
    await use(page)
  },
})

/** Drops files onto the page, as a hand does. */
export async function drop(page: Page, ...paths: string[]) {
  const files = paths.map((path) => ({ name: path.split('/').at(-1)!, base64: readFileSync(path).toString('base64') }))
  const transfer = await page.evaluateHandle((given) => {
    const data = new DataTransfer()
    for (const { name, base64 } of given) data.items.add(new File([Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))], name))
    return data
  }, files)
  for (const type of ['dragenter', 'dragover', 'drop']) await page.locator('main').dispatchEvent(type, { dataTransfer: transfer })
}

/** From the empty shelf to the sheet of a fresh lecture of four slides. @returns its id */
export async function importClouds(page: Page, server: TestServer): Promise<string> {
  await page.goto(server.address)
  await expect(page.getByRole('heading', { name: 'Begin with your deck' })).toBeVisible()
  await drop(page, demoPath('clouds-by-their-shapes.pdf'))
  await expect(page.getByRole('listitem', { name: 'Slide 1: Clouds by their shapes' })).toBeVisible()
  return page.url().split('/').at(-1)!
}

/** The sheet of the same lecture, which is in the database already. @returns its id */
export async function openClouds(page: Page, server: TestServer, slides = 4): Promise<string> {
  const id = await seedFolder(server.dataFolder, 'clouds-by-their-shapes', 'en-GB', slides)
  await page.goto(`${server.address}/lectures/${id}`)
  await expect(page.getByRole('listitem', { name: 'Slide 1: Clouds by their shapes' })).toBeVisible()
  return id
}

/** Opens the booth with the practice microphone, ready to record. */
export async function enterBooth(page: Page, server: TestServer, lectureId: string) {
  await page.goto(`${server.address}/lectures/${lectureId}/booth`)
  await page.getByLabel('Microphone').selectOption('Practice microphone')
  await expect(page.getByRole('button', { name: /^Record/ })).toBeEnabled()
}

/** Records by the key, for so long by the booth's own clock: on a busy machine the sound runs slower than ours. */
export async function recordFor(page: Page, seconds: number) {
  await page.keyboard.press('r')
  await expect(page.getByRole('button', { name: /^Stop/ })).toBeVisible()
  await page.waitForTimeout(seconds * 1000)
  const recorded = async () => {
    const [minutes, rest] = (await page.getByRole('timer').innerText()).split(':')
    return 60 * Number(minutes) + Number(rest)
  }
  await expect.poll(recorded).toBeGreaterThanOrEqual(seconds - 0.2)
  await page.keyboard.press('r')
}

/** Puts a recording on a slide through the same requests as the booth makes. */
export const recordByApi = (server: TestServer, slideId: string, samples: Float32Array) =>
  recordOver(server.address, slideId, samples)

/** @returns samples of a FLAC file of the server, as another program reads it */
export async function storedSound(server: TestServer, name: string): Promise<Int16Array> {
  const input = Buffer.from(await (await fetch(`${server.address}/api/files/${name}.flac`)).arrayBuffer())
  const args = ['-v', 'error', '-i', '-', '-f', 's16le', '-ac', '1', '-ar', '48000', '-']
  const raw = execFileSync('ffmpeg', args, { input, maxBuffer: 1e8 })
  return new Int16Array(raw.buffer, raw.byteOffset, raw.length / 2)
}
