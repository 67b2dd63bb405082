/** A lecture that is published, and learners who watch it. */
import { type Browser, expect, type Page } from '@playwright/test'
import { openClouds, recordByApi, type TestServer } from '#tests/e2e/server.ts'
import { madeTake } from '#tests/made/sound.ts'

export const SCRIPTS = [
  'Clouds are told apart by their shapes. Some of them are heaps, and some of them are sheets that cover the sky.',
  'The highest are made of ice. They look like feathers, and they often come a day before the rain.',
]

/**
 * @param scripts of its first slides
 * @param made a lecture of four slides that is there already
 */
export async function published(page: Page, server: TestServer, scripts: string[] = [], made?: string): Promise<string> {
  const id = made ?? (await openClouds(page, server))
  const lecture = await server.lecture(id)
  for (const [i, script] of scripts.entries())
    await page.request.patch(`${server.address}/api/slides/${lecture.slides[i]!.id}`, { data: { script } })
  await recordByApi(server, lecture.slides[0]!.id, madeTake().samples)
  await recordByApi(server, lecture.slides[1]!.id, madeTake({ seed: 3 }).samples)
  await page.goto(`${server.address}/lectures/${id}/publish`)
  await page.getByRole('button', { name: 'Make edition 1' }).click()
  await expect(page.getByRole('link', { name: 'First link' })).toBeVisible()
  return id
}

export const linkOf = async (page: Page) => (await page.getByRole('link', { name: 'First link' }).getAttribute('href'))!
export const stranger = async (browser: Browser, size = { width: 1280, height: 800 }) =>
  (await browser.newContext({ viewport: size })).newPage()
export const timeOf = (page: Page) => page.locator('video').evaluate((v: HTMLVideoElement) => v.currentTime)
export const isPaused = (page: Page) => page.locator('video').evaluate((v: HTMLVideoElement) => v.paused)
