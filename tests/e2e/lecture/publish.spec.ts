/** Publishing as teacher and learner meet it: make, watch, mend one slide, make again; from a folder without a server. */

import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { mkdir } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import type { Page } from '@playwright/test'
import { unzipSync } from 'fflate'
import sharp from 'sharp'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { linkOf, published, stranger, timeOf } from '#tests/e2e/published.ts'
import { openClouds, recordByApi } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { madeTake, seconds } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = IS_LONG ? test : test.skip

const editionsOf = (page: Page) => page.getByRole('list', { name: 'Editions' })

test('one slide is fixed and published again; the same link shows the fixed one', async ({ page, server, browser }) => {
  const id = await published(page, server)
  const link = await linkOf(page)
  const learner = await stranger(browser)
  await learner.goto(link)
  await expect(learner.getByRole('heading', { name: (await server.lecture(id)).title, level: 1 })).toBeVisible()
  await learner.getByRole('button', { name: 'Begin' }).click()
  await expect.poll(() => timeOf(learner)).toBeGreaterThan(0.3)

  const before = await server.lecture(id)
  await recordByApi(server, before.slides[1]!.id, madeTake({ seed: 8 }).samples.subarray(0, seconds(3)))
  await page.reload()
  await page.getByRole('button', { name: 'Make edition 2' }).click()
  await expect(editionsOf(page).getByText('Edition 2', { exact: true })).toBeVisible()
  await expect(page.getByText('1 slide changed since edition 1')).toBeVisible()
  // whatever of it learners would see makes it another one, and taking that back makes it the same again
  const unchanged = page.getByText('Nothing has changed since edition 2.')
  await expect(unchanged).toBeVisible()
  await page.getByLabel('Picture', { exact: true }).selectOption('720')
  await expect(unchanged).toHaveCount(0)
  await page.getByLabel('Picture', { exact: true }).selectOption('1080')
  await expect(unchanged).toBeVisible()
  await expect(page.getByText('begun 1 time')).toBeVisible()

  // who has the page open is told when they come back to it a minute later
  await learner.evaluate(() => {
    const now = Date.now
    Date.now = () => now() + 60_000
    document.dispatchEvent(new Event('visibilitychange'))
  })
  await expect(learner.getByText('There is a newer edition of this lecture.')).toBeVisible()
  await learner.getByRole('button', { name: 'Show it' }).click()
  const length = toSeconds(schedule(await server.lecture(id)).lengthSamples)
  expect(Math.abs(length - toSeconds(schedule(before).lengthSamples))).toBeGreaterThan(0.2)
  await expect.poll(() => learner.locator('video').evaluate((v: HTMLVideoElement) => v.duration)).toBeCloseTo(length, 1)

  // taken away, the link shows the one before; brought back, the newest
  await page.getByRole('button', { name: 'Delete edition 2' }).click()
  await expect(editionsOf(page).getByText('Edition 2', { exact: true })).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  await expect(editionsOf(page).getByText('Edition 2', { exact: true })).toBeVisible()
})

test('the unzipped folder plays from a disk, with chapters, captions and no request to any server', async ({
  page,
  server,
  browser,
}) => {
  const id = await published(page, server)
  await page.request.patch(`${server.address}/api/slides/${(await server.lecture(id)).slides[0]!.id}`, {
    data: { script: 'Clouds have names. High ones are thin and white.' },
  })
  await page.getByRole('button', { name: 'Make edition 2' }).click()
  await expect(editionsOf(page).getByText('Edition 2', { exact: true })).toBeVisible()
  const address = await page
    .getByRole('link', { name: /web folder/ })
    .first()
    .getAttribute('href')
  const zip = await (await page.request.get(`${server.address}${address}`)).body()
  const folder = mkdtempSync(join(tmpdir(), 'lectern-folder-'))
  try {
    const files = unzipSync(new Uint8Array(zip))
    for (const [name, content] of Object.entries(files)) {
      await mkdir(dirname(join(folder, name)), { recursive: true })
      writeFileSync(join(folder, name), content)
    }
    const { title } = await server.lecture(id)
    await server.kill()
    const learner = await stranger(browser)
    const asked: string[] = []
    const problems: string[] = []
    learner.on('request', (request) => asked.push(request.url()))
    learner.on('pageerror', (error) => problems.push(error.message))
    learner.on('console', (message) => message.type() === 'error' && problems.push(message.text()))
    const top = Object.keys(files)[0]!.split('/')[0]!
    await learner.goto(`file://${join(folder, encodeURIComponent(top), 'index.html')}`)
    await expect(learner.getByRole('heading', { name: title, level: 1 })).toBeVisible()
    await learner.getByRole('button', { name: 'Begin' }).click()
    await expect.poll(() => timeOf(learner)).toBeGreaterThan(0.5)
    await expect(learner.getByRole('region', { name: 'Transcript' })).toContainText('High ones are thin and white.')
    await learner.getByRole('link', { name: 'Clouds have names.', exact: false }).first().click()
    await expect(learner.getByTestId('caption')).toContainText('Clouds have names.')
    expect(await learner.getByRole('navigation', { name: 'Slides of this lecture' }).getByRole('button').count()).toBe(4)
    // a learning platform shows it within a page of its own: it has no other page to send learners to
    writeFileSync(
      join(folder, 'outside.html'),
      `<iframe src="${encodeURIComponent(top)}/index.html" width="1200" height="700"></iframe>`,
    )
    await learner.goto(`file://${join(folder, 'outside.html')}`)
    await expect(learner.frameLocator('iframe').getByRole('region', { name: 'Transcript' })).toContainText('High ones are thin')
    expect(asked.filter((url) => !/^(file|data|blob):/.test(url))).toEqual([])
    expect(problems).toEqual([])
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
})

longTest('a school’s crest and the kinds of video are chosen, and can be undone', async ({ page, server }) => {
  const id = await openClouds(page, server)
  await page.goto(`${server.address}/lectures/${id}/publish`)
  await page.getByLabel(/^Small/).check()
  await expect.poll(async () => (await server.lecture(id)).exportSettings.presets).toEqual(['standard', 'small'])
  await page.getByLabel('Picture for the corner').setInputFiles({
    name: 'crest.png',
    mimeType: 'image/png',
    buffer: await sharp({ create: { width: 80, height: 80, channels: 4, background: '#a93428' } })
      .png()
      .toBuffer(),
  })
  await expect(page.getByLabel('Corner', { exact: true })).toBeVisible()
  await page.getByLabel('Corner', { exact: true }).selectOption('top left')
  await expect.poll(async () => (await server.lecture(id)).exportSettings.crest?.corner).toBe('top-left')
  await page.locator('h2').first().click()
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await server.lecture(id)).exportSettings.crest).toBeNull()
  await expect(page.getByText(/about [\d.]+ MB/).first()).toBeVisible()
})

longTest('a bookmark set on the bench is an entry under its slide for learners', async ({ page, server, browser }) => {
  const id = await openClouds(page, server)
  const [first] = (await server.lecture(id)).slides
  await recordByApi(server, first!.id, madeTake().samples)
  await page.goto(`${server.address}/lectures/${id}/slides/${first!.id}`)
  await page.getByRole('button', { name: 'Bookmark here' }).click()
  const name = page.getByLabel(/^Name of the bookmark/)
  await name.fill('Where it begins')
  await name.press('Enter')
  await expect.poll(async () => (await server.lecture(id)).slides[0]!.takes[0]!.bookmarks[0]?.title).toBe('Where it begins')
  await page.goto(`${server.address}/lectures/${id}/publish`)
  await page.getByRole('button', { name: 'Make edition 1' }).click()
  await expect(page.getByRole('link', { name: 'First link' })).toBeVisible()
  const learner = await stranger(browser)
  await learner.goto(await linkOf(page))
  const entry = learner
    .getByRole('navigation', { name: 'Slides of this lecture' })
    .getByRole('button', { name: /Where it begins/ })
  await entry.click()
  await expect.poll(() => timeOf(learner)).toBeGreaterThan(0)
  expect(await timeOf(learner)).toBeLessThan(2)
})
