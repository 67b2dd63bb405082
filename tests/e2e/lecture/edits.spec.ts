/** Editing: saved as typed, undone and redone, and usable without a mouse or eyes. */

import type { Page } from '@playwright/test'
import { openClouds, type TestServer } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = IS_LONG ? test : test.skip

test('a script is there after the server was killed, and undo takes back one spell of typing', async ({ page, server }) => {
  const id = await openClouds(page, server)
  await page
    .getByRole('listitem', { name: /^Slide 1/ })
    .getByRole('link')
    .click()
  await page.getByLabel('Script').pressSequentially('Clouds have names.', { delay: 60 })
  await expect(page.getByText('All changes saved')).toBeVisible()
  await server.kill()
  await server.start()
  expect((await server.lecture(id)).slides[0]!.script).toBe('Clouds have names.')
  await page.getByLabel('Script').blur()
  await page.keyboard.press('Control+z')
  await expect(page.getByText('Undone: script of slide 1')).toBeVisible()
  await expect(page.getByLabel('Script')).toHaveValue('')
  await page.keyboard.press('Control+Shift+z')
  await expect(page.getByLabel('Script')).toHaveValue('Clouds have names.')
  await expect.poll(async () => (await server.lecture(id)).slides[0]!.script).toBe('Clouds have names.')
})

test('what cannot be saved is said, and saved when the server is back', async ({ page, server }) => {
  const id = await openClouds(page, server)
  await page
    .getByRole('listitem', { name: /^Slide 1/ })
    .getByRole('link')
    .click()
  await expect(page.getByLabel('Script')).toBeVisible()
  await server.kill()
  await page.getByLabel('Script').fill('Written while the server was away.')
  await expect(page.getByText('Not saved yet; it is tried again')).toBeVisible()
  await server.start()
  await expect(page.getByText('All changes saved')).toBeVisible()
  expect((await server.lecture(id)).slides[0]!.script).toBe('Written while the server was away.')
})

test('slides are moved and deleted by keyboard, and both are undone', async ({ page, server }) => {
  await openClouds(page, server)
  const names = () =>
    page
      .getByRole('list', { name: 'Slides' })
      .getByRole('listitem')
      .evaluateAll((rows) => rows.map((row) => row.getAttribute('aria-label')!.replace(/^Slide \d: /, '')))
  const before = await names()
  await page.getByRole('button', { name: 'Move slide 1' }).focus()
  await page.keyboard.press('Space')
  await page.waitForTimeout(300)
  await page.keyboard.press('ArrowDown')
  await page.waitForTimeout(300)
  await page.keyboard.press('Space')
  await expect.poll(names).toEqual([before[1], before[0], before[2], before[3]])
  await page.locator('body').press('Control+z')
  await expect.poll(names).toEqual(before)
  await page
    .getByRole('listitem', { name: /^Slide 3/ })
    .getByRole('link')
    .click()
  await page.getByRole('button', { name: 'Delete', exact: true }).click()
  await expect.poll(names).toEqual([before[0], before[1], before[3]])
  await page.locator('body').press('Control+z')
  await expect.poll(names).toEqual(before)
})

test('a caption file with faults is attached and its faults are shown by line', async ({ page, server }) => {
  const id = await openClouds(page, server)
  await page.goto(`${server.address}/lectures/${id}/captions`)
  await page.getByLabel('Caption file').setInputFiles({
    name: 'talk.vtt',
    mimeType: 'text/vtt',
    buffer: Buffer.from('WEBVTT\n\n00:01.000 --> 00:02.000\nHello clouds\n\n00:03 --> 00:04\nbad\n'),
  })
  await page.getByRole('button', { name: 'Attach it' }).click()
  await expect(page.getByText('1 caption attached', { exact: false })).toBeVisible()
  await expect(page.getByText('Line 6', { exact: false })).toBeVisible()
  await expect(page.getByRole('textbox', { name: /^Caption at/ }).first()).toHaveValue('Hello clouds')
})

test('an answer that was on its way when something was edited does not take the edit from view', async ({ page, server }) => {
  const id = await openClouds(page, server)
  // that page asks for nothing any more
  await page.goto('about:blank')
  let asked = 0
  // the first answer is let through; the second is asked for when the line for events stands, the third after the edit
  let isHeld = (method: string) => method === 'GET' && ++asked > 1
  const held: (() => void)[] = []
  await page.route(`**/api/lectures/${id}`, async (route) => {
    const method = route.request().method()
    if (!isHeld(method)) return route.continue()
    const answer =
      method === 'GET' ? { response: await route.fetch() } : { status: 422, json: { error: 'This is refused for the test.' } }
    await new Promise<void>((resolve) => held.push(resolve))
    await route.fulfill(answer)
  })
  await page.goto(`${server.address}/lectures/${id}/publish`)
  const [small, open] = [page.getByLabel(/^Small/), page.getByLabel(/^Open/)]
  await expect.poll(() => held.length).toBe(1)
  await small.check()
  await expect.poll(async () => (await server.lecture(id)).exportSettings.presets).toEqual(['standard', 'small'])
  held[0]!()
  await expect.poll(() => held.length).toBe(2)
  await expect(small).toBeChecked({ timeout: 1000 })
  held[1]!()
  await expect(small).toBeChecked()
  // one that the server refuses goes from view, and what the answer brought stays
  await expect(page.getByText('All changes saved')).toBeVisible()
  isHeld = () => true
  await fetch(`${server.address}/api/lectures/${id}`, {
    method: 'PATCH',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ title: 'Named elsewhere' }),
  })
  await expect.poll(() => held.length).toBe(3)
  await open.click()
  await expect.poll(() => held.length).toBe(4)
  held[2]!()
  await expect(page).toHaveTitle(/^Named elsewhere/)
  await expect(open).toBeChecked()
  held[3]!()
  await expect(page.getByText('This is refused for the test.')).toBeVisible()
  await expect(open).not.toBeChecked()
  await expect(small).toBeChecked()
  await expect(page).toHaveTitle(/^Named elsewhere/)
})

test('undo works with focus on a slider, box or choice, by its button, and after the page was loaded again', async ({
  page,
  server,
}) => {
  const id = await openClouds(page, server)
  await page.getByRole('button', { name: 'Times' }).click()
  // the rows are where they stay
  await expect(page.getByLabel('Fixed pace')).toBeVisible()
  const choice = page.getByRole('combobox').first()
  await page
    .getByRole('listitem', { name: /^Slide 2/ })
    .getByRole('link')
    .click()
  await page.getByLabel('Script').fill('High clouds are thin.')
  await expect(page.getByText('All changes saved')).toBeVisible()
  await choice.focus()
  await page.keyboard.press('Control+z')
  await expect(page.getByText('Undone: script of slide 2')).toBeVisible()
  await page.getByRole('button', { name: 'Redo the last change' }).click()
  await expect(page.getByLabel('Script')).toHaveValue('High clouds are thin.')
  await expect(page.getByText('All changes saved')).toBeVisible()
  await page.reload()
  await page.getByRole('button', { name: 'Undo the last change' }).click()
  await expect(page.getByLabel('Script')).toHaveValue('')
  expect((await server.lecture(id)).slides[1]!.script).toBe('')
})

test.describe('on a shelf of its own', () => {
  test.use({ ownServer: true })
  test('what was deleted is in the trash and comes back: a lecture after its message is gone, a slide after a reload', async ({
    page,
    server,
  }) => {
    const id = await openClouds(page, server)
    await page.request.put(`${server.address}/api/slides/${(await server.lecture(id)).slides[2]!.id}/deleted`, {
      data: { deleted: true },
    })
    await page.reload()
    await page.getByRole('button', { name: 'Trash' }).click()
    await page.getByRole('button', { name: /^Bring back Slide/ }).click()
    await expect(page.getByText('Nothing was deleted.')).toBeVisible()
    await page.getByRole('button', { name: 'Done' }).click()
    await expect(page.getByRole('listitem', { name: /^Slide 4/ })).toBeVisible()
    await page.goto(server.address)
    await page.getByRole('button', { name: /^Delete/ }).click()
    await expect(page.getByRole('heading', { name: 'Begin with your deck' })).toBeVisible()
    await page.goto(`${server.address}/settings`)
    await page.goto(server.address)
    await page.getByRole('button', { name: 'Trash' }).click()
    await page.getByRole('button', { name: /^Bring back “clouds/ }).click()
    await page.getByRole('button', { name: 'Done' }).click()
    await expect(page.getByRole('list', { name: 'Lectures' })).toContainText('clouds')
  })
})

/** The first slide of a lecture, open in two windows. */
async function twoWindows(page: Page, server: TestServer, before: string) {
  const id = await openClouds(page, server)
  const slide = (await server.lecture(id)).slides[0]!
  await page.request.patch(`${server.address}/api/slides/${slide.id}`, { data: { script: before } })
  const other = await page.context().newPage()
  for (const window of [page, other]) await window.goto(`${server.address}/lectures/${id}/slides/${slide.id}`)
  const script = (window: Page) => window.getByLabel('Script')
  await expect(script(other)).toHaveValue(before)
  return { other, script, saved: async () => (await server.lecture(id)).slides[0]!.script }
}

/** What is typed here arrives late. */
const slowly = (page: Page) =>
  page.route('**/api/slides/*', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 1500))
    await route.continue()
  })

longTest(
  'two windows on one text: neither writes over the other unasked, and both texts can be read',
  async ({ page, server }) => {
    const { other, script, saved } = await twoWindows(page, server, '')
    // typed here while the other window's text arrives
    await script(page).focus()
    await slowly(page)
    await script(page).pressSequentially('Written here.')
    await script(other).fill('Written in the other window.')
    await expect.poll(saved).toBe('Written in the other window.')
    await expect(page.getByText('Changed in another window meanwhile', { exact: false })).toBeVisible()
    await expect(page.getByText('Written in the other window.')).toBeVisible()
    await expect(script(page)).toHaveValue('Written here.')
    expect(await saved()).toBe('Written in the other window.')
    await page.getByRole('button', { name: 'Keep mine' }).click()
    await expect.poll(saved).toBe('Written here.')
    await expect(script(other)).toHaveValue('Written here.')
    await script(page).blur()
    await page.keyboard.press('Control+z')
    await expect.poll(saved).toBe('Written in the other window.')
  },
)

test('two windows on different words of one text: both changes are in it, one types on where one was, and undo takes back one’s own', async ({
  page,
  server,
}) => {
  const before = 'Lower the stick gently. Read the line.'
  const { other, script, saved } = await twoWindows(page, server, before)
  await slowly(page)
  // at the end of the first sentence
  await script(page).focus()
  await script(page).evaluate((field: HTMLTextAreaElement) => field.setSelectionRange(22, 22))
  await page.keyboard.type(' and straight')
  await script(other).fill(`Now: ${before}`)
  await expect(script(page)).toHaveValue('Now: Lower the stick gently and straight. Read the line.')
  await expect(page.getByText('Both changes are in it.', { exact: false })).toBeVisible()
  await page.keyboard.type(' down')
  const both = 'Now: Lower the stick gently and straight down. Read the line.'
  await expect(script(page)).toHaveValue(both)
  await expect.poll(saved).toBe(both)
  await expect(script(other)).toHaveValue(both)
  await script(page).blur()
  await page.keyboard.press('Control+z')
  await expect.poll(saved).toBe(`Now: ${before}`)
})
