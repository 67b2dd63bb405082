/** The booth under somebody who uses it: keys after every control, a sign for every key, and nothing that jumps. */

import { enterBooth, openClouds, recordFor } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'

test('keys go on working after any control of the booth was used, and each is answered by a sign', async ({ page, server }) => {
  const id = await openClouds(page, server)
  await enterBooth(page, server, id)
  const record = page.getByRole('button', { name: /^Record/ })
  const stop = page.getByRole('button', { name: /^Stop/ })
  const slide = (n: number) => expect(page.getByText(`Slide ${n} of 4`)).toBeVisible()
  const controls = [
    () => page.getByRole('checkbox', { name: /^count/ }).click(),
    () => page.getByRole('checkbox', { name: /^count/ }).click(),
    () => page.getByRole('radio', { name: 'Straight through' }).click(),
    () => page.getByRole('radio', { name: 'Slide by slide' }).click(),
    () => page.getByRole('combobox', { name: 'Practice scene' }).selectOption('quiet room'),
    () => page.getByRole('button', { name: 'Larger script' }).click(),
  ]
  for (const use of controls) {
    await use()
    await expect(record).toBeEnabled()
    await page.keyboard.press('ArrowRight')
    await slide(2)
    await page.keyboard.press('ArrowLeft')
    await slide(1)
    await expect(page.getByRole('radio', { name: 'Slide by slide' })).toBeChecked({
      checked: use !== controls[2],
    })
  }
  // Space and Enter act on the control that has the focus
  await page.getByRole('radio', { name: 'Straight through' }).focus()
  await page.keyboard.press('Space')
  await expect(page.getByRole('radio', { name: 'Straight through' })).toBeChecked()
  await page.keyboard.press('r')
  await expect(stop).toBeVisible()
  await page.keyboard.press('b')
  await expect(page.getByText(/^Bookmark at 0:0/)).toBeVisible()
  await page.getByRole('button', { name: 'Bookmark' }).click()
  await expect(page.getByText(/^2 bookmarks, the last one at 0:0/)).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(record).toBeEnabled()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('list', { name: 'Slides' })).toBeVisible()
})

test('what is pressed right after each other, before the page has answered, all counts', async ({ page, server }) => {
  const id = await openClouds(page, server)
  await enterBooth(page, server, id)
  await expect(page.getByRole('button', { name: /^Record/ })).toBeEnabled()
  const through = page.getByRole('radio', { name: 'Straight through' })
  // in one go, as on a page that is late
  await through.evaluate((radio: HTMLInputElement) => {
    radio.click()
    for (let press = 0; press < 2; press++)
      radio.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', bubbles: true, cancelable: true }))
  })
  await expect(page.getByText('Slide 3 of 4')).toBeVisible()
  await expect(through).toBeChecked()
})

test('one way out is shown, the slide is as large as fits, and the foot stays where it is when something is said', async ({
  page,
  server,
}) => {
  const id = await openClouds(page, server)
  await enterBooth(page, server, id)
  await expect(page.getByText('Esc', { exact: true }).filter({ visible: true })).toHaveCount(1)
  const foot = page.getByRole('contentinfo')
  const before = await foot.boundingBox()
  await page.getByRole('combobox', { name: 'Practice scene' }).selectOption('too loud')
  await expect(page.getByText(/^Touching full scale/)).toBeVisible()
  await page.keyboard.press('r')
  await expect(page.getByText(/is on disk/)).toBeVisible()
  await page.keyboard.press('w')
  await expect(page.getByText(/marked as wrong/)).toBeVisible()
  await page.keyboard.press('b')
  await expect(page.getByText(/^1 thing.*Bookmark at/)).toBeVisible()
  expect(await foot.boundingBox()).toEqual(before)
  const slide = (await page.getByRole('main').getByRole('img').first().boundingBox())!
  // of the width what the script leaves, and of the height what the takes leave
  expect(slide.width).toBeGreaterThanOrEqual(0.6 * 1280)
  expect(slide.width / slide.height).toBeCloseTo(16 / 9, 1)
})

test('while it is recorded the sentence that is said is marked, and the mark goes on', async ({ page, server }) => {
  const id = await openClouds(page, server)
  const [first] = (await server.lecture(id)).slides
  await page.request.patch(`${server.address}/api/slides/${first!.id}`, {
    data: { script: 'Good evening. This is the practice microphone. It reads a text of its own.' },
  })
  await enterBooth(page, server, id)
  const script = page.getByRole('region', { name: 'Script' })
  await expect(script.locator('[aria-current]')).toHaveCount(0)
  await page.keyboard.press('r')
  await expect(script.locator('[aria-current]')).toHaveText('Good evening.')
  await expect(script.locator('[aria-current]')).not.toHaveText('Good evening.')
  await page.keyboard.press('r')
  await expect(script.locator('[aria-current]')).toHaveCount(0)
})

test('letters as keys can be turned off: then nothing is recorded by accident, and every act has its button', async ({
  page,
  server,
}) => {
  const id = await openClouds(page, server)
  await page.goto(`${server.address}/settings`)
  await page.getByLabel('Single letters and signs work as keys').uncheck()
  await page.getByRole('button', { name: 'See all keys' }).click()
  await expect(page.getByRole('heading', { name: 'Keys', level: 2 }).last()).toBeVisible()
  await page.getByRole('button', { name: 'Close' }).click()
  await enterBooth(page, server, id)
  const record = page.getByRole('button', { name: /^Record/ })
  await expect(record).toBeEnabled()
  await page.keyboard.press('r')
  await page.waitForTimeout(500)
  await expect(record).toBeVisible()
  await expect(page.getByRole('button', { name: /^Stop/ })).toHaveCount(0)
})

test('the script stands in a window of its own that follows the booth, records, rests and stops', async ({ page, server }) => {
  const id = await openClouds(page, server)
  const [first] = (await server.lecture(id)).slides
  await page.request.patch(`${server.address}/api/slides/${first!.id}`, {
    data: { script: 'Good evening. This is the practice microphone. It reads a text of its own.' },
  })
  await enterBooth(page, server, id)
  const [other] = await Promise.all([
    page.context().waitForEvent('page'),
    page.getByRole('button', { name: 'Own window' }).click(),
  ])
  await expect(other.getByText('Good evening.')).toBeVisible()
  await other.keyboard.press('r')
  await expect(page.getByRole('button', { name: /^Stop/ })).toBeVisible()
  await expect(other.getByText('Recording', { exact: true })).toBeVisible()
  await expect(other.locator('[aria-current]')).toHaveText(/Good evening/)
  // a jump back is followed in both
  await other.getByText(/^It reads a text/).click()
  await expect(page.getByRole('region', { name: 'Script' }).locator('[aria-current]')).toHaveText(/^It reads/)
  await other.getByRole('button', { name: /^Rest/ }).click()
  await expect(other.getByText('Resting', { exact: true })).toBeVisible()
  await other.getByRole('button', { name: /^Stop/ }).click()
  await expect(page.getByRole('button', { name: /^Record/ })).toBeVisible()
  await expect.poll(async () => (await server.lecture(id)).slides[0]!.takes.length).toBe(1)
  // it goes along from slide to slide, and says when the booth is gone
  await page.keyboard.press('ArrowRight')
  await expect(other.getByRole('heading', { level: 1 })).toHaveText('Slide 2 of 4')
  await page.goto(`${server.address}/lectures/${id}`)
  await expect(other.getByText(/^The booth of this lecture is not open/)).toBeVisible()
})

test('points are ticked off, and a slide that was spoken from them lacks neither words nor sentences', async ({
  page,
  server,
}) => {
  const id = await openClouds(page, server)
  const [first] = (await server.lecture(id)).slides
  await page.request.patch(`${server.address}/api/slides/${first!.id}`, { data: { script: '• The cirrus\n• What it tells' } })
  await enterBooth(page, server, id)
  const point = page.getByRole('button', { name: 'The cirrus' })
  await expect(page.getByText('2 points, about 0:40')).toBeVisible()
  await point.click()
  await expect(point).toHaveAttribute('aria-pressed', 'true')
  await recordFor(page, 3)
  await expect.poll(async () => (await server.lecture(id)).slides[0]!.takes[0]?.clip ?? null).not.toBeNull()
  expect((await server.lecture(id)).captionTracks[0]!.cues).toEqual([])
  await page.goto(`${server.address}/lectures/${id}`)
  const row = page.getByRole('listitem', { name: /^Slide 1/ })
  await expect(row.getByText('2 points')).toBeVisible()
  await row.getByRole('button', { name: 'No captions' }).click()
  await expect(page.getByText(/^It is spoken from points/)).toBeVisible()
})
