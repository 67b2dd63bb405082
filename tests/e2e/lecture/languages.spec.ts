/** The whole way in other languages, by keyboard alone: from an empty shelf to a link, and what a learner sees there. */

import AxeBuilder from '@axe-core/playwright'
import type { Page } from '@playwright/test'
import { LANGUAGES, type Language } from '#core/words/languages.ts'
import type { Message } from '#core/words/say.ts'
import { sayIn } from '#core/words/say-in.ts'
import { keyboardOf } from '#tests/e2e/keyboard.ts'
import { stranger } from '#tests/e2e/published.ts'
import { demoPath, drop } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { IS_LONG } from '#tests/support/long.ts'

test.use({ ownServer: true })

const isWider = (page: Page) => page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth)

/** No rule of accessibility is broken. */
async function expectSound(page: Page) {
  const { violations } = await new AxeBuilder({ page }).setLegacyMode(true).analyze()
  expect(violations.map(({ id, nodes }) => [id, nodes.map((node) => node.html)])).toEqual([])
}

for (const language of ['de', 'ar'] as const satisfies Language[]) {
  // the one that stands the other way round finds what the other finds, and more
  const asLong = language === 'de' && !IS_LONG ? test.skip : test
  asLong(
    `in ${LANGUAGES[language].name}: chosen in Settings, a deck is brought in, recorded, published and watched`,
    async ({ page, server, browser }) => {
      const said = (id: string, values: NonNullable<Message['values']> = {}) => sayIn(language, { id, values })
      const { direction } = LANGUAGES[language]
      const hands = keyboardOf(page)
      await page.goto(server.address)
      await hands.press(page.getByRole('link', { name: 'Settings' }))
      await hands.choose(page.getByLabel('Language of these pages'), LANGUAGES[language].name)
      await expect(page.getByRole('heading', { name: said('Settings'), level: 1 })).toBeVisible()
      await expect(page.locator('html')).toHaveAttribute('lang', language)
      await expect(page.locator('html')).toHaveAttribute('dir', direction)

      // what the server refuses is said in the reader's language
      await hands.press(page.getByRole('link', { name: said('Tidy Lectern: back to the shelf') }))
      await expect(page.getByRole('heading', { name: said('Begin with your deck') })).toBeVisible()
      await drop(page, demoPath('opening-music.flac'))
      const refusal = said('These are sounds alone. Add the deck they belong to as well, or drop them on a lecture.')
      await expect(page.getByText(refusal)).toBeVisible()

      const files = page.waitForEvent('filechooser')
      await hands.press(page.getByRole('button', { name: said('New lecture'), exact: true }))
      await (await files).setFiles(demoPath('clouds-by-their-shapes.pdf'))
      await page.waitForURL(/lectures/)
      const id = page.url().split('/').at(-1)!
      await hands.press(page.getByRole('link', { name: said('Record slide {number}', { number: 1 }) }).first())
      await hands.choose(page.getByRole('combobox', { name: said('Microphone') }), said('Practice microphone'))
      await expect(page.getByText(said('Practice microphone: a made-up voice is recorded, not yours'))).toBeVisible()
      const record = page.getByRole('button', { name: said('Record') })
      await expect(record).toBeEnabled()
      await hands.press(record)
      await expect(page.getByRole('button', { name: said('Stop') })).toBeVisible()
      await page.waitForTimeout(3000)
      await hands.press(page.getByRole('button', { name: said('Stop') }))
      await expect(page.getByText(said('The take is on disk, whole.'))).toBeVisible()
      const [slide] = (await server.lecture(id)).slides
      // known as such in every language
      expect(slide!.takes[0]!.microphone).toMatch(/^Practice microphone/)
      await page.keyboard.press('Escape')
      await expect(page.getByText(said('Practice voice')).first()).toBeVisible()

      // time runs from left to right in every language; what stands beside it is mirrored
      const row = page.getByRole('listitem').first()
      const picture = (await row.getByRole('img').first().boundingBox())!
      const sound = (await row.getByRole('img').nth(1).boundingBox())!
      expect(picture.x > sound.x).toBe(direction === 'rtl')
      await expect(row.locator('[dir=ltr]').first()).toBeVisible()
      expect(await isWider(page)).toBeLessThanOrEqual(0)
      await expectSound(page)

      await hands.press(page.getByRole('link', { name: said('Publish'), exact: true }))
      await hands.press(page.getByRole('button', { name: said('Make edition {next}', { next: 1 }) }))
      const link = page.getByRole('link', { name: said('First link') })
      await expect(link).toBeVisible()
      await hands.reach(link)
      await expectSound(page)

      // the learner's page follows the learner's browser, which is English here, and has a switch
      const learner = await stranger(browser)
      await learner.goto((await link.getAttribute('href'))!)
      await expect(learner.getByRole('button', { name: 'Begin', exact: true })).toBeVisible()
      const own = keyboardOf(learner)
      await own.choose(learner.getByLabel('Language of these pages'), LANGUAGES[language].name)
      await expect(learner.getByRole('button', { name: said('Begin'), exact: true })).toBeVisible()
      await expect(learner.locator('html')).toHaveAttribute('dir', direction)
      await own.press(learner.getByRole('button', { name: said('Begin'), exact: true }))
      await expect.poll(() => learner.locator('video').evaluate((v: HTMLVideoElement) => v.currentTime)).toBeGreaterThan(0.5)
      const place = (await learner.getByRole('slider', { name: said('Where you are in the lecture') }).boundingBox())!
      await learner.mouse.click(place.x + place.width * 0.75, place.y + place.height / 2)
      const { at, length } = await learner
        .locator('video')
        .evaluate((v: HTMLVideoElement) => ({ at: v.currentTime, length: v.duration }))
      expect(at).toBeGreaterThan(length / 2)
      expect(await isWider(learner)).toBeLessThanOrEqual(0)
      await expectSound(learner)
      await learner.context().close()
      expect([...hands.losses, ...own.losses]).toEqual([])
    },
  )
}
