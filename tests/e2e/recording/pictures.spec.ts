/** Screen and camera beside the voice: shown, kept, found again, whatever is killed, closed or pulled out. */
import type { BrowserContext, Page } from '@playwright/test'
import { filmSeconds } from '#core/model/moving/film.ts'
import type { Take } from '#core/model/take.ts'
import { enterBooth, openClouds, type TestServer } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'

const seconds = (samples: number) => samples / 48_000
const newest = async (server: TestServer, id: string): Promise<Take> => (await server.lecture(id)).slides[0]!.takes[0]!
const timer = async (page: Page) => Number((await page.getByRole('timer').innerText()).replace('0:', ''))
const recordedFor = (page: Page, atLeast: number) => expect.poll(() => timer(page)).toBeGreaterThanOrEqual(atLeast)

/** The booth of a fresh lecture, in a browser that lets it use a camera. @returns the lecture's id */
async function enterWithCamera(page: Page, context: BrowserContext, server: TestServer): Promise<string> {
  await context.grantPermissions(['microphone', 'camera'])
  const id = await openClouds(page, server)
  await enterBooth(page, server, id)
  return id
}

/** Until all that was filmed with the newest take can be shown. */
async function readyPictures(server: TestServer, id: string): Promise<Take> {
  await expect
    .poll(async () => {
      const { footage, tidyUp } = await newest(server, id)
      return tidyUp !== null && footage.length > 0 && footage.every((cut) => cut.footage.shown || cut.footage.problem)
    })
    .toBe(true)
  return newest(server, id)
}

test('a screen is shown, one goes back to the slide and on, with a small picture; the sheet plays what learners will see', async ({
  page,
  context,
  server,
}) => {
  const id = await enterWithCamera(page, context, server)
  // nobody is asked for a camera before one is chosen
  await expect(page.getByLabel('Camera')).toHaveValue('none')
  await page.getByLabel('Camera').selectOption({ label: 'fake_device_0' })
  await expect(page.getByLabel('Your small picture')).toBeVisible()
  await page.keyboard.press('r')
  await recordedFor(page, 1.5)
  await page.keyboard.press('d')
  await expect(page.getByLabel('The screen that is shared')).toBeVisible()
  await recordedFor(page, 3.5)
  await page.keyboard.press('p')
  await page.waitForTimeout(700)
  await page.keyboard.press('p')
  await recordedFor(page, 4.5)
  await page.keyboard.press('d')
  await expect(page.getByLabel('The screen that is shared')).toHaveCount(0)
  await recordedFor(page, 5.5)
  await page.keyboard.press('r')
  const take = await readyPictures(server, id)
  const [camera, screen, ...others] = take.footage
  expect(others).toEqual([])
  expect([camera!.footage.kind, screen!.footage.kind]).toEqual(['camera', 'screen'])
  // the camera all the time, the screen for as long as it was shown; the rest counts for nothing in either
  expect(seconds(camera!.start)).toBeLessThan(0.6)
  expect(Math.abs(seconds(take.samples - camera!.end))).toBeLessThan(0.3)
  expect(seconds(screen!.start)).toBeGreaterThan(1.3)
  expect(seconds(screen!.end - screen!.start)).toBeGreaterThan(1.8)
  expect(seconds(screen!.end - screen!.start)).toBeLessThan(4.2)
  for (const { footage, start, end } of take.footage)
    expect(Math.abs(filmSeconds(footage.shown!) - seconds(end - start))).toBeLessThan(0.1)

  await page.goto(`${server.address}/lectures/${id}/slides/${(await server.lecture(id)).slides[0]!.id}`)
  await expect(page.getByRole('img', { name: /^Demonstration/ })).toBeVisible()
  const filmed = page.getByRole('region', { name: 'Filmed with slide 1' })
  await filmed.getByLabel('What the demonstration shows').fill('A made-up screen')
  await page.keyboard.press('Tab')
  await expect.poll(async () => (await newest(server, id)).footage[1]!.footage.description).toBe('A made-up screen')
  await page.getByRole('button', { name: 'Picture', exact: true }).click()
  await page.getByRole('button', { name: 'Play the lecture' }).click()
  await expect(page.locator('[data-testid=stage] video')).toHaveCount(2)
  // it is left out without recording again, and comes back by undoing that
  await filmed.getByRole('checkbox', { name: 'shown with this take' }).first().uncheck()
  await expect.poll(async () => (await newest(server, id)).footage[0]!.isLeftOut).toBe(true)
  await filmed.getByRole('checkbox', { name: 'shown with this take' }).first().check()
  await expect.poll(async () => (await newest(server, id)).footage[0]!.isLeftOut).toBe(undefined)
})

test('the server is killed while a screen is recorded: the browser keeps its pictures and sends them when it is back', async ({
  page,
  server,
}) => {
  const id = await openClouds(page, server)
  await enterBooth(page, server, id)
  await page.getByRole('button', { name: 'Practice screen' }).click()
  await page.keyboard.press('r')
  await recordedFor(page, 2.5)
  await server.kill()
  await expect(page.getByRole('alert')).toContainText('kept in this browser')
  await recordedFor(page, 4.5)
  await page.keyboard.press('r')
  await expect(page.getByRole('button', { name: /^Record/ })).toBeVisible()
  await server.start()
  await expect(page.getByText('The take is on disk, whole.')).toBeVisible()
  const take = await readyPictures(server, id)
  expect(take.footage).toHaveLength(1)
  const [{ start, end, footage }] = take.footage as [Take['footage'][number]]
  expect(seconds(start)).toBeLessThan(0.6)
  expect(seconds(take.samples - end)).toBeLessThan(0.3)
  expect(Math.abs(filmSeconds(footage.shown!) - seconds(end - start))).toBeLessThan(0.1)
})

test('the tab is closed while a camera records: what it saw is brought home with the voice', async ({
  page,
  context,
  server,
}) => {
  const id = await enterWithCamera(page, context, server)
  await page.getByLabel('Camera').selectOption({ label: 'Practice camera' })
  await page.keyboard.press('r')
  await recordedFor(page, 3.2)
  await page.close({ runBeforeUnload: false })
  const again = await context.newPage()
  await again.goto(`${server.address}/lectures/${id}`)
  await expect(again.getByText('has been recovered', { exact: false })).toBeVisible()
  const take = await readyPictures(server, id)
  expect(take.recovered).toBe(true)
  expect(take.footage).toHaveLength(1)
  // all but the second that had not come to an end
  expect(seconds(take.footage[0]!.end - take.footage[0]!.start)).toBeGreaterThan(1.8)
})

test('a share that is ended by the browser’s own bar, and a camera that is unplugged, are told; the voice goes on', async ({
  page,
  context,
  server,
}) => {
  await context.grantPermissions(['microphone', 'camera'])
  await page.addInitScript(() => {
    const tracks: MediaStreamTrack[] = []
    for (const name of ['getUserMedia', 'getDisplayMedia'] as const) {
      const original = navigator.mediaDevices[name].bind(navigator.mediaDevices)
      navigator.mediaDevices[name] = async (options) => {
        const stream = await original(options)
        tracks.push(...stream.getVideoTracks())
        return stream
      }
    }
    Object.assign(window, { endPicture: (which: number) => tracks[which]!.dispatchEvent(new Event('ended')) })
  })
  const id = await openClouds(page, server)
  await enterBooth(page, server, id)
  await page.getByLabel('Camera').selectOption({ label: 'fake_device_0' })
  await expect(page.getByLabel('Your small picture')).toBeVisible()
  await page.keyboard.press('d')
  await expect(page.getByLabel('The screen that is shared')).toBeVisible()
  await page.keyboard.press('r')
  await recordedFor(page, 1.5)
  const end = (which: number) =>
    page.evaluate((one) => (window as unknown as { endPicture(n: number): void }).endPicture(one), which)
  await end(1)
  await expect(page.getByRole('alert')).toContainText('The screen is shared no more')
  await expect(page.getByRole('button', { name: /^Show a screen/ })).toBeVisible()
  await end(0)
  await expect(page.getByRole('alert')).toContainText('The camera was disconnected')
  await expect(page.getByLabel('Camera')).toHaveValue('none')
  await recordedFor(page, 3)
  await page.keyboard.press('r')
  const take = await readyPictures(server, id)
  expect(take.footage).toHaveLength(2)
  for (const cut of take.footage) expect(seconds(cut.end)).toBeLessThan(seconds(take.samples) - 0.5)
})
