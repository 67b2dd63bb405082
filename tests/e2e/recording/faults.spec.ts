/** What goes wrong while recording, and what is left of the recording then: all of it. */

import { chromium } from '@playwright/test'
import { enterBooth, openClouds, recordFor } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { BROWSER } from '#tests/support/browser.ts'

const seconds = (samples: number) => samples / 48_000

test('the server is killed while recording: the browser keeps what is said and sends it when the server is back', async ({
  page,
  server,
}) => {
  const id = await openClouds(page, server)
  await enterBooth(page, server, id)
  await page.keyboard.press('r')
  await expect(page.getByText(/Everything up to 0:0[2-9] is on disk/)).toBeVisible()
  // said once, and not every second into the headphones of who speaks
  await expect(page.getByRole('status').filter({ hasText: 'Recording' })).toHaveCount(1)
  await expect(page.getByRole('status').filter({ hasText: 'on disk' })).toHaveCount(0)
  await server.kill()
  await expect(page.getByRole('alert')).toContainText('kept in this browser')
  await page.waitForTimeout(2000)
  await page.keyboard.press('r')
  await expect(page.getByRole('button', { name: /^Record/ })).toBeVisible()
  const said = await page.getByRole('timer').innerText()
  await server.start()
  await expect(page.getByText('The take is on disk, whole.')).toBeVisible()
  const [take, ...others] = (await server.lecture(id)).slides[0]!.takes
  expect(others).toEqual([])
  expect(take!.recovered).toBe(false)
  expect(Math.abs(seconds(take!.samples) - Number(said.replace('0:', '')))).toBeLessThan(0.11)
})

test('the tab is closed while recording: the take is brought home when the app is opened again', async ({
  page,
  context,
  server,
}) => {
  const id = await openClouds(page, server)
  await enterBooth(page, server, id)
  await page.keyboard.press('r')
  await expect(page.getByText(/Everything up to 0:0[3-9] is on disk/)).toBeVisible()
  await page.close({ runBeforeUnload: false })
  const again = await context.newPage()
  await again.goto(`${server.address}/lectures/${id}`)
  await expect(again.getByText('has been recovered', { exact: false })).toBeVisible()
  const take = (await server.lecture(id)).slides[0]!.takes[0]!
  expect(take.recovered).toBe(true)
  expect(seconds(take.samples)).toBeGreaterThanOrEqual(3)
  await again
    .getByRole('listitem', { name: /^Slide 1/ })
    .getByRole('link')
    .click()
  await expect(again.getByRole('list', { name: 'Takes of slide 1' })).toContainText('recovered')
})

test('the microphone is unplugged while recording: what was said is kept', async ({ page, server }) => {
  await page.addInitScript(() => {
    const original = navigator.mediaDevices.getUserMedia.bind(navigator.mediaDevices)
    navigator.mediaDevices.getUserMedia = async (wanted) => {
      const stream = await original(wanted)
      Object.assign(window, { unplug: () => stream.getAudioTracks()[0]!.dispatchEvent(new Event('ended')) })
      return stream
    }
  })
  const id = await openClouds(page, server)
  await page.goto(`${server.address}/lectures/${id}/booth`)
  await expect(page.getByRole('button', { name: /^Record/ })).toBeEnabled()
  await page.keyboard.press('r')
  await expect(page.getByText(/Everything up to 0:0[2-9] is on disk/)).toBeVisible()
  await page.evaluate(() => (window as unknown as { unplug(): void }).unplug())
  await expect(page.getByRole('alert')).toContainText('disconnected. What you said until then is kept')
  await expect.poll(async () => (await server.lecture(id)).slides[0]!.takes[0]?.state).toBe('sealed')
  expect(seconds((await server.lecture(id)).slides[0]!.takes[0]!.samples)).toBeGreaterThanOrEqual(2)
})

test('the microphone is refused: a sentence says what to do, and the practice microphone still works', async ({ server }) => {
  const browser = await chromium.launch({ ...BROWSER, args: BROWSER.args!.filter((arg) => !arg.startsWith('--use-fake-ui')) })
  try {
    const page = await (await browser.newContext({ permissions: [] })).newPage()
    const id = await openClouds(page, server)
    await page.addInitScript(() => {
      // a browser that has asked once and was refused
      navigator.mediaDevices.getUserMedia = () => Promise.reject(new DOMException('refused', 'NotAllowedError'))
      navigator.mediaDevices.enumerateDevices = async () =>
        [{ kind: 'audioinput', deviceId: 'built-in', label: '', groupId: '' }] as MediaDeviceInfo[]
    })
    await page.goto(`${server.address}/lectures/${id}/booth`)
    await expect(page.getByRole('alert')).toContainText('does not let this page use the microphone')
    await expect(page.getByRole('button', { name: /^Record/ })).toBeDisabled()
    await page.getByLabel('Microphone').selectOption('Practice microphone')
    await expect(page.getByRole('button', { name: /^Record/ })).toBeEnabled()
    await recordFor(page, 2)
    await expect(page.getByText('The take is on disk, whole.')).toBeVisible()
  } finally {
    await browser.close()
  }
})

test.describe('on a shelf of its own', () => {
  test.use({ ownServer: true })
  test('a bad deck dropped on the shelf gets its sentence', async ({ page, server }) => {
    await page.goto(server.address)
    await page
      .getByLabel('Files for a new lecture')
      .setInputFiles({ name: 'deck.pdf', mimeType: 'application/pdf', buffer: Buffer.from('these are notes') })
    await expect(page.getByText('is neither a deck', { exact: false })).toBeVisible()
    await expect(page.getByRole('heading', { name: 'Begin with your deck' })).toBeVisible()
    await expect(page.getByRole('button', { name: 'Try it with the demo lecture' })).toBeEnabled()
  })
})

test('a job that ends while an older list of jobs is on its way is told all the same', async ({ page, server }) => {
  let asked = 0
  await page.route('**/api/jobs', async (route) => {
    const response = await route.fetch()
    asked++
    // what the server says now is old by the time it arrives
    if (asked === 2) await new Promise((resolve) => setTimeout(resolve, 2000))
    await route.fulfill({ response })
  })
  await page.route('**/api/lectures', async (route) => {
    const response = await route.fetch()
    // the job has ended, and the old list has come, before the page knows that the job is its own
    if (route.request().method() === 'POST') await new Promise((resolve) => setTimeout(resolve, 3000))
    await route.fulfill({ response })
  })
  await page.goto(server.address)
  await expect.poll(() => asked).toBe(2)
  await page
    .getByLabel('Files for a new lecture')
    .setInputFiles({ name: 'deck.pdf', mimeType: 'application/pdf', buffer: Buffer.from('these are notes') })
  await expect(page.getByText('is neither a deck', { exact: false })).toBeVisible()
})
