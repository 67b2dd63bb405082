/** The words of the pages: in a language that is longer than English nothing is cut, and nothing is said in English only. */

import type { Page } from '@playwright/test'
import { openClouds } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = IS_LONG ? test : test.skip

/** What a page shows that has another language than the page, or is somebody's own words. */
const OWN = '[lang]:not(html), [dir="auto"], bdi, textarea, kbd, code, canvas, option, script, style'

interface Seen {
  /** Labels of which a part is not seen. */
  cut: string[]
  /** Words that were not said in the page's language. */
  english: string[]
}

/** @param allowed words that are names, or figures with their units */
function look(page: Page, allowed: string): Promise<Seen> {
  return page.evaluate(
    ([own, names]) => {
      const shown = (element: Element) => element.checkVisibility({ visibilityProperty: true, opacityProperty: true })
      const cut: string[] = []
      const said = [...document.querySelectorAll('button, a, label, legend, h1, h2, h3, th, dt, dd, summary, p, span, strong')]
      for (const element of said) {
        if (!shown(element) || element.closest(own!) || element.querySelector(own!)) continue
        const { overflowX } = getComputedStyle(element)
        const box = element as HTMLElement
        if (overflowX !== 'visible' && box.scrollWidth > box.clientWidth + 1 && box.innerText.trim() && box.clientWidth > 1)
          cut.push(box.innerText.trim().slice(0, 60))
      }
      const pen = document.createElement('canvas').getContext('2d')!
      for (const select of document.querySelectorAll('select')) {
        const chosen = select.selectedOptions[0]?.text ?? ''
        const style = getComputedStyle(select)
        if (!shown(select) || !/[áéîöûåñç]/i.test(chosen)) continue
        pen.font = style.font
        const room = select.clientWidth - Number.parseFloat(style.paddingLeft) - Number.parseFloat(style.paddingRight)
        if (pen.measureText(chosen).width > room + 1) cut.push(`choice: ${chosen}`)
      }
      const english: string[] = []
      const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT)
      for (let node = walker.nextNode(); node; node = walker.nextNode()) {
        const text = node.textContent?.trim() ?? ''
        const parent = node.parentElement!
        if (!/[a-z]{3}/i.test(text) || parent.closest(own!) || !shown(parent)) continue
        if (
          !/[áéîöûåøñçýÁÉÎØÛÅ·]/.test(text) &&
          !new RegExp(`^(${names}|[^a-z]|\\b(s|ms|dB|dBFS|LUFS|MB|kB|Hz)\\b)*$`, 'i').test(text)
        )
          english.push(text.slice(0, 60))
      }
      return { cut: [...new Set(cut)], english: [...new Set(english)] }
    },
    [OWN, allowed] as const,
  )
}

longTest(
  'in a language two fifths longer no label is cut at 1280 × 800, and every word is said in it',
  async ({ edition: { id, link: watch }, page, server }) => {
    await page.goto(server.address)
    const slide = (await server.lecture(id)).slides[0]!.id
    await page.evaluate(() => localStorage.setItem('interface language', 'pseudo'))
    const lecture = `${server.address}/lectures/${id}`
    const places = {
      shelf: server.address,
      sheet: lecture,
      bench: `${lecture}/slides/${slide}`,
      captions: `${lecture}/captions`,
      sound: `${lecture}/sound`,
      publish: `${lecture}/publish`,
      booth: `${lecture}/booth`,
      divide: `${lecture}/divide`,
      settings: `${server.address}/settings`,
      watch,
    }
    for (const [place, address] of Object.entries(places)) {
      await page.goto(address)
      await expect(page.locator('h1').first()).toBeAttached()
      await expect(page.locator('.loading')).toHaveCount(0)
      await page.waitForTimeout(300)
      const names =
        'Tidy Lectern|First link|Fake (Default )?Audio Input( \\d)?|video\\.mp4|[\\w /-]*data[\\w /-]*|British English|\\d+ \\w+ \\d{4}, \\d\\d:\\d\\d'
      expect.soft(await look(page, names), place).toEqual({ cut: [], english: [] })
    }
  },
)

test('letters that the device has none for are fetched, and only those', async ({ page, server }) => {
  const id = await openClouds(page, server)
  const fetched = () =>
    page.evaluate(
      () => [...document.fonts].filter((font) => font.status === 'loaded' && /Sans (JP|KR|Thai)/.test(font.family)).length,
    )
  const areAlike = () =>
    page.evaluate(async () => {
      const pen = document.createElement('canvas').getContext('2d', { willReadFrequently: true })!
      const drawn = (sign: string) => {
        pen.clearRect(0, 0, 50, 50)
        pen.font = `30px ${getComputedStyle(document.body).fontFamily}`
        pen.fillText(sign, 5, 40)
        return pen.getImageData(0, 0, 50, 50).data.toString()
      }
      return drawn('雨') === drawn('量')
    })
  const hasNone = await areAlike()
  expect(await fetched()).toBe(0)
  await page.request.patch(`${server.address}/api/lectures/${id}`, { data: { title: '雨量計の読み方', language: 'ja' } })
  await page.goto(server.address)
  await expect(page.getByRole('link', { name: '雨量計の読み方' })).toBeVisible()
  if (hasNone) await expect.poll(fetched).toBeGreaterThan(0)
  await expect.poll(areAlike).toBe(false)
})
