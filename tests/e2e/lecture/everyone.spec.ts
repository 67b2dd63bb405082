/** Every place by day, by night, in forced colours, on a phone and at four times the size: no rule of accessibility is broken, and no page scrolls sideways. */

import { writeFileSync } from 'node:fs'
import AxeBuilder from '@axe-core/playwright'
import type { Page } from '@playwright/test'
import { demoPath, drop, openClouds } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { IS_LONG } from '#tests/support/long.ts'

interface Look {
  width: number
  media: NonNullable<Parameters<Page['emulateMedia']>[0]>
}
/** At 320 px a page has the room of one of 1280 at four times its size (WCAG 2.2, 1.4.10). */
const LOOKS: Look[] = [{ width: 320, media: { colorScheme: 'dark', forcedColors: 'none' } }]
const MORE: Look[] = [
  ...[1280, 820, 390, 320].map((width): Look => ({ width, media: { colorScheme: 'light', forcedColors: 'none' } })),
  ...[1280, 820, 390].map((width): Look => ({ width, media: { colorScheme: 'dark', forcedColors: 'none' } })),
  ...[1280, 820, 390, 320].map((width): Look => ({ width, media: { colorScheme: 'light', forcedColors: 'active' } })),
]

/** What is wrong with what a page shows now. Without frames of other sites the quick way of looking sees the same. */
async function faultsOf(page: Page, { forcedColors }: Look['media']): Promise<string[]> {
  const builder = new AxeBuilder({ page }).setLegacyMode(true).options({
    // colours that are forced are the reader's own; the styles still tell of those before
    rules: { 'target-size': { enabled: true }, 'color-contrast': { enabled: forcedColors !== 'active' } },
  })
  // what a menu lies over is not to be pressed
  const { violations } = await ((await page.getByRole('menu').count()) > 0 ? builder.include('[role=menu]') : builder).analyze()
  /** What lies half under the bar at the foot is scrolled from under it. */
  const isUnderFoot = (selector: string) =>
    page.evaluate((at) => {
      const foot = [...document.querySelectorAll('footer, .sticky.bottom-0')].at(-1)?.getBoundingClientRect()
      const box = document.querySelector(at)?.getBoundingClientRect()
      return foot !== undefined && box !== undefined && box.top < foot.bottom && box.bottom > foot.top
    }, selector)
  for (const found of violations.filter((one) => one.id === 'target-size')) {
    const free = []
    for (const node of found.nodes) if (!(await isUnderFoot(String(node.target[0])))) free.push(node)
    found.nodes = free
  }
  const sideways = await page.evaluate(() => {
    const { scrollWidth, clientWidth } = document.documentElement
    const isCut = (e: Element) => e.parentElement?.closest('.overflow-hidden, .overflow-auto, .overflow-x-auto') !== null
    const over = [...document.querySelectorAll('body *')].filter(
      (e) => e.getBoundingClientRect().right > clientWidth + 1 && !isCut(e),
    )
    return scrollWidth > clientWidth
      ? [`${scrollWidth - clientWidth} px`, ...over.slice(-3).map((e) => e.outerHTML.slice(0, 120))]
      : []
  })
  // what stands over the upper edge cannot be scrolled to
  const above = await page.evaluate(() =>
    // what is in a list of its own is scrolled there
    [...document.querySelectorAll('header button, header a, header input')]
      .filter((e) => e.checkVisibility() && e.getBoundingClientRect().width > 2)
      .filter((e) => e.getBoundingClientRect().top + scrollY < -2)
      .map((e) => e.outerHTML.slice(0, 120)),
  )
  return [
    ...above.map((what) => `it is above the page: ${what}`),
    ...violations
      .filter(({ nodes }) => nodes.length > 0)
      .map(
        (v) =>
          `${v.id}: ${v.nodes
            .map((n) => n.html.slice(0, 200))
            .slice(0, 4)
            .join('  |  ')}`,
      ),
    ...sideways.map((what) => `it scrolls sideways: ${what}`),
  ]
}

/** Waits until nothing moves: a row that opens is measured and brought into view, and what was under the bar is not any more. */
async function atRest(page: Page) {
  const where = () =>
    page.evaluate(() =>
      JSON.stringify([
        scrollY,
        ...[...document.querySelectorAll('main button, main [role=slider]')].map((e) =>
          Math.round(e.getBoundingClientRect().top),
        ),
      ]),
    )
  let before = ''
  await expect
    .poll(
      async () => {
        const now = await where()
        const same = now === before
        before = now
        return same
      },
      { intervals: [60, 120, 120] },
    )
    .toBe(true)
}

test('no place breaks a rule of accessibility or scrolls sideways, however it is looked at', async ({
  edition: { id, link: watch },
  page,
  server,
}, info) => {
  const { slides } = await server.lecture(id)
  const lecture = `${server.address}/lectures/${id}`
  // what is recorded there changes nothing of what the other states show
  const other = IS_LONG ? await openClouds(page, server) : ''
  const body = JSON.stringify({ kind: 'class', name: 'Class 7b', slideIds: [slides[0]!.id] })
  const made = await page.request.post(`${server.address}/api/lectures/${id}/voiceLinks`, {
    data: body,
    headers: { 'content-type': 'application/json' },
  })
  const { token } = (await made.json()) as { token: string }
  const press = (name: string | RegExp) => () => page.getByRole('button', { name }).first().click()
  /** A place, and what is done there. */
  const states: [name: string, address: string, act?: () => Promise<unknown>][] = [
    ['shelf', server.address],
    ['sheet', lecture],
    // on a phone scrolled on, from under the bar at the foot
    ['sheet, Times', lecture, () => press('Times')().then(() => page.mouse.wheel(0, 300))],
    ['sheet, Add', lecture, press('Add')],
    ['bench', `${lecture}/slides/${slides[0]!.id}`],
    ['slide without a take', `${lecture}/slides/${slides[3]!.id}`],
    ['captions', `${lecture}/captions`],
    ['sound', `${lecture}/sound`],
    ['divide', `${lecture}/divide`],
    ['slips', `${lecture}/slips`],
    ['script without its booth', `${lecture}/script`],
    ['publish', `${lecture}/publish`],
    ['publish, settings of a link', `${lecture}/publish`, press('Settings')],
    ['booth', `${lecture}/booth`],
    ['settings', `${server.address}/settings`],
    ['microphone', `${server.address}/settings`, press('Try the microphone')],
    ['platform', `${server.address}/settings`, press('Register a learning platform')],
    ['other voices', lecture, () => press('Add')().then(() => page.getByRole('menuitem', { name: /^Other voices/ }).click())],
    ['answers', `${lecture}/answers/${token}`],
    ['by a link', `${server.address}/record/${token}`],
    [
      'by a link, booth',
      `${server.address}/record/${token}`,
      async () => {
        const name = page.getByLabel('Your name')
        if (!(await name.isVisible())) return
        await name.fill('Ada Example')
        await page.getByRole('button', { name: 'To the booth' }).click()
        await page.getByRole('timer').waitFor()
      },
    ],
    ['no such place', `${server.address}/nowhere`],
    ['watch', watch],
    ['watch, slide by slide', watch, () => page.getByLabel('Slide by slide, at your own pace').check()],
  ]
  const french = info.outputPath('captions.fr.vtt')
  writeFileSync(french, 'WEBVTT\n\n00:01.000 --> 00:03.000\nDes nuages.\n')
  const sheetDialog = (...paths: string[]) => drop(page, ...paths).then(() => page.getByRole('dialog').waitFor())
  const more: typeof states = [
    ['shelf, trash', server.address, press('Trash')],
    ['shelf, keys', server.address, () => page.keyboard.press('?')],
    ['sheet, trash', lecture, press('Trash')],
    [
      'sheet, text slide',
      lecture,
      () => press('Add')().then(() => page.getByRole('menuitem', { name: /^A text slide/ }).click()),
    ],
    ['sheet, new version', lecture, () => sheetDialog(demoPath('clouds-by-their-shapes.pdf'))],
    ['sheet, sounds', lecture, () => sheetDialog(demoPath('opening-music.flac'))],
    ['sheet, a check', lecture, () => page.locator('main button[aria-haspopup=dialog]').first().click()],
    ['sheet, nothing found', lecture, () => page.getByLabel('Find a slide by its words').fill('xylophone')],
    ['sheet, playing', lecture, () => page.keyboard.press('Space')],
    ['bench, times', `${lecture}/slides/${slides[0]!.id}`, press('Times')],
    ['captions, a file', `${lecture}/captions`, () => drop(page, french).then(() => page.getByRole('dialog').waitFor())],
    ['captions, a translation', `${lecture}/captions`, press('Translate')],
    ['captions, one chosen', `${lecture}/captions`, () => page.locator('textarea').first().focus()],
    ['sound, one bed', `${lecture}/sound`, () => page.getByRole('slider').first().focus()],
    ['publish, more files', `${lecture}/publish`, () => page.getByText('More files').first().click()],
    [
      'publish, in other pages',
      `${lecture}/publish`,
      () => press('Settings')().then(() => page.getByLabel('In other pages').selectOption('shown in any')),
    ],
    ['booth, straight through', `${lecture}/booth?how=through`],
    ['booth, practice microphone', `${lecture}/booth`, () => page.getByLabel('Microphone').selectOption('Practice microphone')],
    [
      'booth, recording',
      `${server.address}/lectures/${other}/booth`,
      () =>
        page
          .getByLabel('Microphone')
          .selectOption('Practice microphone')
          .then(() => page.getByRole('button', { name: /^Record/ }).click()),
    ],
    ['watch, how captions look', watch, () => page.getByLabel('How captions look').click()],
    ['watch, downloads', watch, () => page.getByText('Download', { exact: true }).click()],
    ['watch, keys', watch, () => page.getByText('Keys', { exact: true }).click()],
    ['watch, found', watch, () => page.getByLabel(/Find in what is said/).fill('clouds')],
    ['watch, found nothing', watch, () => page.getByLabel(/Find in what is said/).fill('xylophone')],
    ['watch, playing', watch, press('Begin')],
    [
      'watch, in Arabic',
      watch,
      () => page.evaluate(() => localStorage.setItem('interface language', 'ar')).then(() => page.reload()),
    ],
    ['shelf, in Arabic', server.address],
    ['sheet, in Arabic', lecture],
    ['captions, in Arabic', `${lecture}/captions`],
    ['sound, in Arabic', `${lecture}/sound`],
    ['publish, in Arabic', `${lecture}/publish`],
    ['booth, in Arabic', `${lecture}/booth`],
    [
      'settings, in Arabic',
      `${server.address}/settings`,
      () => page.evaluate(() => localStorage.removeItem('interface language')),
    ],
  ]
  if (IS_LONG) states.push(...more)
  const titles = new Map<string, string>()
  for (const { width, media } of IS_LONG ? [...LOOKS, ...MORE] : LOOKS) {
    await page.setViewportSize({ width, height: 800 })
    await page.emulateMedia(media)
    for (const [i, [name, address, act]] of states.entries()) {
      // every second place by day; by night and by day each of them in the long run
      if (!IS_LONG) await page.emulateMedia({ colorScheme: i % 2 === 0 ? 'dark' : 'light' })
      await page.goto(address)
      await expect(page.locator('h1')).toHaveCount(1)
      await expect(page.locator('.loading')).toHaveCount(0)
      await page.waitForTimeout(150)
      await act?.()
      // what comes in fades in
      if (act) await page.waitForTimeout(300)
      await atRest(page)
      expect.soft(await faultsOf(page, media), `${name}, ${width} px, ${JSON.stringify(media)}`).toEqual([])
      if (!act && !name.includes(',')) titles.set(name, await page.title())
    }
  }
  expect(new Set(titles.values()).size).toBe(titles.size)

  // by keyboard one comes past the bar at once
  await page.goto(lecture)
  await expect(page.getByRole('listitem').first()).toBeVisible()
  await page.keyboard.press('Tab')
  await expect(page.getByRole('link', { name: 'To the content' })).toBeInViewport({ ratio: 1 })
  await page.keyboard.press('Enter')
  await page.keyboard.press('Tab')
  expect(await page.evaluate(() => document.activeElement?.closest('main') !== null)).toBe(true)
})

test('rows are moved by keyboard, and what is said of it names slides by their numbers', async ({ page, server }) => {
  await openClouds(page, server)
  await page.getByRole('button', { name: 'Move slide 1' }).focus()
  await page.keyboard.press('Space')
  const said = page.getByRole('status').filter({ hasText: /^Slide \d/ })
  await expect(said).toHaveText(/Slide 1 (is taken up|is at place 1 of 4)/)
  // the rows are measured after one was taken up: an arrow before that moves nothing
  await page.waitForTimeout(300)
  await page.keyboard.press('ArrowDown')
  await expect(said).toHaveText('Slide 1 is at place 2 of 4.')
  await page.keyboard.press('Space')
  await expect(said).toHaveText('Slide 1 was put down at place 2.')
  await expect(page.getByRole('listitem', { name: 'Slide 2: Clouds by their shapes' })).toBeVisible()
})

test('a message stays until it is put away', async ({ page, server }) => {
  await page.clock.install()
  await page.goto(server.address)
  await expect(page.getByRole('heading', { level: 1 })).toBeAttached()
  await drop(page, demoPath('opening-music.flac'))
  const message = page.getByText('These are sounds alone.', { exact: false })
  await expect(message).toBeVisible()
  await page.clock.fastForward('10:00')
  // what goes fades out
  await page.waitForTimeout(1000)
  await expect(message).toBeVisible()
  await page.getByRole('button', { name: 'Close' }).click()
  await expect(message).toBeHidden()
})
