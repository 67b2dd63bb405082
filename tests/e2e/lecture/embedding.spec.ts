/** A lecture within another page: refused in words, allowed by its link, and all that a learner needs of it in a small room. */

import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import AxeBuilder from '@axe-core/playwright'
import { isPaused, linkOf, published, SCRIPTS, timeOf } from '#tests/e2e/published.ts'
import { openClouds } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = IS_LONG ? test : test.skip

/** A page of another site that shows what it is given. */
async function otherSite(): Promise<{ address: string; show: (html: string) => void; server: Server }> {
  let shown = ''
  const server = createServer((_, response) => {
    response.setHeader('content-type', 'text/html; charset=utf-8')
    response.end(`<!doctype html><html lang="en"><title>A course</title><h1>A course</h1>${shown}</html>`)
  }).listen(0, '127.0.0.1')
  await new Promise((resolve) => server.once('listening', resolve))
  return {
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    show: (html) => {
      shown = html
    },
    server,
  }
}

test('within another page a lecture is refused in words until its link allows it; there its captions are as one likes them', async ({
  edition: { id: first, link },
  page,
  server,
}) => {
  const site = await otherSite()
  try {
    site.show(`<iframe src="${link}" title="lecture" width="960" height="604"></iframe>`)
    await page.goto(site.address)
    const frame = page.frameLocator('iframe')
    await expect(frame.getByText('This lecture may not be shown inside this page.')).toBeVisible()

    await page.goto(`${server.address}/lectures/${first}/publish`)
    await page.getByRole('button', { name: 'Settings' }).first().click()
    await page.getByLabel('In other pages').selectOption('only on these sites')
    const sites = page.getByLabel('Sites that may show it, one a line')
    await sites.fill('not a site!')
    await sites.blur()
    await expect(page.getByRole('alert')).toContainText('“site!” is no site')
    await expect(sites).toHaveAttribute('aria-invalid', 'true')
    await expect(sites).toHaveAccessibleDescription(/“site!” is no site/)
    await sites.fill(site.address)
    await sites.blur()
    await expect(page.getByText('is no site')).toHaveCount(0)
    site.show(await page.getByLabel('Code for the other page').inputValue())
    await page.goto(site.address)
    await frame.getByRole('button', { name: 'Begin' }).click()
    const video = frame.locator('video')
    const at = () => video.evaluate((v: HTMLVideoElement) => v.currentTime)
    await expect.poll(at).toBeGreaterThan(0.3)
    // nothing is out of reach in the small room, and the rest is one press away
    await expect(frame.getByRole('button', { name: 'Full screen' })).toBeInViewport()
    await expect(frame.getByRole('link', { name: 'Open it on its own page' })).toHaveAttribute('href', new URL(link).pathname)
    await expect(frame.getByRole('heading', { name: 'Transcript' })).toHaveCount(0)
    const { violations } = await new AxeBuilder({ page }).include('iframe').analyze()
    expect(violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.html).join(' ')}`)).toEqual([])

    await page.goto(link)
    await page.getByRole('button', { name: 'Begin' }).click()
    await expect.poll(() => timeOf(page)).toBeGreaterThan(1)
    await page.getByLabel('How captions look').click()
    await page.getByLabel('Place of captions').selectOption('At the top')
    await page.getByLabel('Colours of captions').selectOption('Yellow on black')
    await page.keyboard.press('Escape')
    await expect(page.getByLabel('Place of captions')).toBeHidden()
    await page.reload()
    await page.getByLabel('Where you are in the lecture').fill('2')
    const caption = page.getByTestId('caption')
    await expect(caption).toBeVisible()
    const [over, under] = [(await page.locator('video').boundingBox())!, (await caption.boundingBox())!]
    expect(under.y - over.y).toBeLessThan(over.height * 0.2)
    await expect(caption.locator('span')).toHaveCSS('background-color', 'rgb(0, 0, 0)')
  } finally {
    site.server.close()
  }
})

longTest(
  'of several pictures the one that was chosen plays on from where one is, and is remembered',
  async ({ page, server }) => {
    const id = await openClouds(page, server)
    await page.request.patch(`${server.address}/api/lectures/${id}`, {
      data: { exportSettings: { presets: ['standard', 'small'] } },
    })
    await published(page, server, SCRIPTS, id)
    await page.goto(new URL(await linkOf(page), server.address).href)
    await page.getByRole('button', { name: 'Begin' }).click()
    await expect.poll(() => timeOf(page)).toBeGreaterThan(1)
    const picture = page.getByLabel('Picture', { exact: true })
    const file = () => page.locator('video').evaluate((v: HTMLVideoElement) => v.currentSrc.split('/').at(-1))
    const before = await picture.inputValue()
    const other = before === 'small' ? 'large' : 'small'
    await picture.selectOption(other)
    await expect.poll(file).toBe(other === 'small' ? 'video-small.mp4' : 'video.mp4')
    await expect.poll(() => timeOf(page)).toBeGreaterThan(1)
    expect(await isPaused(page)).toBe(false)
    await page.reload()
    await expect(picture).toHaveValue(other)
  },
)
