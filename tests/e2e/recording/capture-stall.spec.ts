/** What stands still while somebody speaks: the page and its audio thread lose nothing; what the device itself lost is told. */

import { writeFileSync } from 'node:fs'
import { type Browser, chromium, type Page, type TestInfo } from '@playwright/test'
import { fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { openClouds, storedSound, type TestServer } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { IS_LONG } from '#tests/support/long.ts'
import { placesIn, unlikeItself } from '#tests/support/place-in.ts'

const longTest = IS_LONG ? test : test.skip

const known = unlikeItself(60, 3)

/** A browser whose microphone plays the known sound, in the booth of a fresh lecture. */
async function enterBoothWith(server: TestServer, info: TestInfo, prepare: (page: Page) => Promise<void> = async () => {}) {
  const path = info.outputPath('known.wav')
  writeFileSync(path, writeWav(toInt16(known), SAMPLE_RATE))
  const browser = await chromium.launch({ ...BROWSER, args: [...BROWSER.args!, `--use-file-for-fake-audio-capture=${path}`] })
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, permissions: ['microphone'] })).newPage()
  await page.addInitScript(() => localStorage.setItem('countdown', '0'))
  await prepare(page)
  const id = await openClouds(page, server)
  await page.goto(`${server.address}/lectures/${id}/booth`)
  await expect(page.getByLabel('Microphone').locator('option').first()).not.toHaveText(/^Practice/)
  await page.getByLabel('Microphone').selectOption({ index: 0 })
  await expect(page.getByRole('button', { name: /^Record/ })).toBeEnabled()
  return { browser, page, id }
}

/** Processes of the browser that stand still for a while. */
async function standStill(browser: Browser, which: (type: string) => boolean, ms: number) {
  const session = await browser.newBrowserCDPSession()
  const { processInfo } = await session.send('SystemInfo.getProcessInfo')
  const ids = processInfo.filter(({ type }) => which(type)).map(({ id }) => id)
  expect(ids.length, processInfo.map(({ type }) => type).join(', ')).toBeGreaterThan(0)
  for (const id of ids) process.kill(id, 'SIGSTOP')
  await new Promise((resolve) => setTimeout(resolve, ms))
  for (const id of ids) process.kill(id, 'SIGCONT')
}

async function recordedTake(page: Page, server: TestServer, id: string) {
  await page.keyboard.press('r')
  await expect(page.getByText('The take is on disk, whole.')).toBeVisible()
  const take = (await server.lecture(id)).slides[0]!.takes[0]!
  return { take, recorded: fromInt16(await storedSound(server, take.sound!)) }
}

longTest(
  'the page and its audio thread stand still while it is recorded: no sample is missing, changed or twice',
  async ({ server }, info) => {
    const { browser, page, id } = await enterBoothWith(server, info)
    await page.keyboard.press('r')
    for (const ms of [200, 400]) {
      await page.waitForTimeout(2500)
      await standStill(browser, (type) => type === 'renderer', ms)
    }
    await page.waitForTimeout(2500)
    const { recorded } = await recordedTake(page, server, id)
    await browser.close()
    expect(recorded.length).toBeGreaterThan(5 * SAMPLE_RATE)
    const places = placesIn(known, recorded)
    expect(Math.min(...places.map((place) => place.correlation))).toBeGreaterThan(0.999)
    const offsets = places.map((place) => place.offset)
    expect(Math.max(...offsets) - Math.min(...offsets)).toBeLessThan(0.5)
  },
)

for (const way of ['read from its track', 'through the audio thread'])
  longTest(`a microphone that gave nothing for a while is told of beside the take: ${way}`, async ({ server }, info) => {
    const { browser, page, id } = await enterBoothWith(server, info, async (fresh) => {
      if (way !== 'read from its track')
        await fresh.addInitScript(() => Reflect.deleteProperty(window, 'MediaStreamTrackProcessor'))
    })
    await page.keyboard.press('r')
    await page.waitForTimeout(4000)
    // the process in which the microphone is
    await standStill(browser, (type) => type.includes('AudioService'), 600)
    await page.waitForTimeout(4000)
    const { take, recorded } = await recordedTake(page, server, id)
    expect(take.dropoutCount).toBeGreaterThan(0)
    expect(take.dropoutMs).toBeGreaterThan(400)
    expect(Math.max(...placesIn(known, recorded).map((place) => place.correlation))).toBeGreaterThan(0.999)
    await expect(page.getByText(/gaps? in the sound, \d+ ms in all/)).toBeVisible()
    await browser.close()
  })
