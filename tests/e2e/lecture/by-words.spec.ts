/** A take edited by its words: marked by keyboard, mouse and finger, cut in the rests beside them, and its slips cut out in one press. */

import { readFileSync } from 'node:fs'
import AxeBuilder from '@axe-core/playwright'
import type { Page } from '@playwright/test'
import { toSeconds } from '#core/timing/clocks.ts'
import { DEMO_SLIDES } from '#demo/lecture.ts'
import { demoPath, openClouds, recordByApi } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { SLIPPING_SCRIPT, slipping } from '#tests/made/slipping.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = IS_LONG ? test : test.skip

/** No rule of accessibility is broken. */
async function expectSound(page: Page) {
  const { violations } = await new AxeBuilder({ page }).setLegacyMode(true).include('main').analyze()
  expect(violations.map(({ id, nodes }) => [id, nodes.map((node) => node.html)])).toEqual([])
}

test('a beginning, an um and a cough are gone by keyboard alone, without a touch of the waveform; one undo takes each back', async ({
  page,
  server,
}) => {
  const id = await openClouds(page, server)
  const slide = (await server.lecture(id)).slides[0]!
  await fetch(`${server.address}/api/slides/${slide.id}`, {
    method: 'PATCH',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ script: SLIPPING_SCRIPT }),
  })
  const made = await slipping()
  await recordByApi(server, slide.id, made.samples)
  const take = async () => (await server.lecture(id)).slides[0]!.takes[0]!
  const cuts = async () => (await take()).tidyUp!.cuts.map(({ start, end }) => [toSeconds(start), toSeconds(end)] as const)
  await page.goto(`${server.address}/lectures/${id}/slides/${slide.id}`)
  const words = page.getByRole('listbox', { name: 'As it was said' })
  const word = (text: string, nth = 0) => words.getByRole('option', { name: text, exact: true }).nth(nth)

  // the sounds between the words are there too
  await expect(words.getByRole('option', { name: /^er, um/ })).toHaveCount(1)
  await expect(words.getByRole('option', { name: 'cough' })).toHaveCount(1)

  // by keyboard: four words on from the beginning stands what was begun in vain
  await words.focus()
  await page.keyboard.press('Home')
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowRight')
  await expect(word('If')).toHaveAttribute('aria-selected', 'true')
  await expect(page.getByRole('region', { name: /^Bench of slide/ }).getByText(/^Selected 0:0/)).toBeVisible()
  while ((await words.getByRole('option', { selected: true }).last().innerText()) !== 'water')
    await page.keyboard.press('Shift+ArrowRight')
  await page.keyboard.press('x')
  await expect.poll(async () => (await cuts()).length).toBe(1)
  const [start, end] = (await cuts())[0]!
  expect(start).toBeLessThan(made.anew.start + 0.02)
  expect(end).toBeGreaterThan(made.anew.end - 0.05)
  expect(end).toBeLessThan(made.anew.end + 0.55)
  await expect(word('If, cut out')).toBeVisible()
  await expectSound(page)

  // struck words come back by one press, wherever in them
  await word('drop, cut out').click()
  await page.keyboard.press('b')
  await expect.poll(cuts).toEqual([])
  await expect(word('If')).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await cuts()).length).toBe(1)

  // the um by mouse, and it is marked in the sound as well
  await words.getByRole('option', { name: /^er, um/ }).click()
  await expect(page.getByTestId('selection')).toBeVisible()
  await page.getByRole('button', { name: /^Cut out/ }).click()
  await expect.poll(async () => (await cuts()).length).toBe(2)

  // what is marked in the sound is marked in the words
  await words.focus()
  await page.keyboard.press('Escape')
  await expect(words.getByRole('option', { selected: true })).toHaveCount(0)
  const sound = page.getByRole('application')
  const box = (await sound.boundingBox())!
  const length = toSeconds((await take()).samples)
  const at = (seconds: number) => box.x + (seconds / length) * box.width
  await page.mouse.move(at(made.cough.start - 0.1), box.y + 40)
  await page.mouse.down()
  await page.mouse.move(at(made.cough.end + 0.1), box.y + 40, { steps: 4 })
  await page.mouse.up()
  await expect(words.getByRole('option', { name: 'cough' })).toHaveAttribute('aria-selected', 'true')
  await sound.press('x')
  await expect.poll(async () => (await cuts()).length).toBe(3)

  // the same slips stand in the lecture's list: all are put back, heard, and cut out one by one
  const recipe = (await take()).tidyUp!
  await page.request.put(`${server.address}/api/takes/${(await take()).id}/tidyUp`, { data: { ...recipe, cuts: [] } })
  const count = async () => (await cuts()).length
  await page.goto(`${server.address}/lectures/${id}`)
  await page.getByRole('link', { name: 'Slips' }).click()
  const anew = page.getByRole('region', { name: 'Begun anew' })
  await expect(anew.getByText(/^If you drop it/)).toBeVisible()
  await expect(page.getByRole('region', { name: 'Er and um' }).getByRole('listitem')).toHaveCount(1)
  const heard = page.waitForResponse(/\/samples\?/)
  await anew.getByRole('button', { name: /^Hear without it/ }).click()
  expect((await heard).status()).toBe(200)
  expect(await count()).toBe(0)
  await expectSound(page)

  await anew.getByRole('button', { name: /^Cut out/ }).click()
  await expect.poll(count).toBe(1)
  await expect(anew.getByRole('button', { name: /^Put back/ })).toBeVisible()
  await page
    .getByRole('region', { name: 'Coughs' })
    .getByRole('button', { name: /^Cut out/ })
    .click()
  await expect.poll(count).toBe(2)
  await anew.getByRole('button', { name: /^Put back/ }).click()
  await expect.poll(count).toBe(1)
  await page.keyboard.press('Control+z')
  await expect.poll(count).toBe(2)
})

longTest(
  'on the captions page words are cut out as well, and what was said beside the script is typed where it was said',
  async ({ page, server }) => {
    const id = await openClouds(page, server)
    const slide = (await server.lecture(id)).slides[0]!
    const script = DEMO_SLIDES[2]!.script
    // the script as it was written before the second sentence came to mind
    const [first, added, ...rest] = script.split(/(?<=\.) /)
    await fetch(`${server.address}/api/slides/${slide.id}`, {
      method: 'PATCH',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ script: [first, ...rest].join(' ') }),
    })
    const form = new FormData()
    form.append('file', new File([readFileSync(demoPath('take-3a.flac'))], 'take.flac'))
    await fetch(`${server.address}/api/slides/${slide.id}/sounds`, { method: 'POST', body: form })
    await expect.poll(async () => (await server.lecture(id)).slides[0]!.takes[0]?.findings ?? null).not.toBeNull()
    await page.goto(`${server.address}/lectures/${id}/captions`)
    await page.getByRole('button', { name: 'Cut words out' }).first().click()
    const words = page.getByRole('listbox', { name: 'As it was said' })
    await words.getByRole('option', { name: /^words not in the script/ }).click()
    await page.getByLabel('What is said here').fill(added!)
    await page.keyboard.press('Enter')
    await expect.poll(async () => (await server.lecture(id)).slides[0]!.script).toBe(script)
    // its words are found, and stand there
    await expect(words.getByRole('option', { name: /^words not in the script/ })).toHaveCount(0)
    const last = added!.split(' ').at(-1)!
    await expect(words.getByRole('option', { name: last, exact: true })).toBeVisible()
    await expectSound(page)
    // the last word, by keyboard
    await words.focus()
    await page.keyboard.press('End')
    await page.keyboard.press('x')
    const take = async () => (await server.lecture(id)).slides[0]!.takes[0]!
    await expect.poll(async () => (await take()).tidyUp!.cuts.length).toBe(1)
    await expect(words.getByRole('option', { name: /, cut out$/ })).toHaveCount(1)
    await page.keyboard.press('b')
    await expect.poll(async () => (await take()).tidyUp!.cuts.length).toBe(0)
  },
)

longTest(
  'a sentence that ran over goes to the next slide, with its words in the script and its captions; one undo brings it back',
  async ({ page, server }) => {
    const id = await openClouds(page, server)
    const [slide, next] = (await server.lecture(id)).slides
    await page.request.patch(`${server.address}/api/slides/${slide!.id}`, { data: { script: SLIPPING_SCRIPT } })
    await page.request.patch(`${server.address}/api/slides/${next!.id}`, { data: { script: 'High ones are thin.' } })
    await recordByApi(server, slide!.id, (await slipping()).samples)
    await page.goto(`${server.address}/lectures/${id}/slides/${slide!.id}`)
    const words = page.getByRole('listbox', { name: 'As it was said' })
    // before its words are found they are told roughly
    await expect(words.getByRole('option', { name: /^er, um/ })).toHaveCount(1)
    await words.getByRole('option', { name: 'Read', exact: true }).click()
    await words.getByRole('option', { name: 'hundredth.', exact: true }).click({ modifiers: ['Shift'] })
    await page.getByRole('button', { name: 'To the beginning of slide 2' }).click()
    const scripts = async () => (await server.lecture(id)).slides.slice(0, 2).map(({ script }) => script)
    await expect
      .poll(scripts)
      .toEqual([
        SLIPPING_SCRIPT.replace(' Read that line to the nearest hundredth.', ''),
        'Read that line to the nearest hundredth. High ones are thin.',
      ])
    await expect(words.getByRole('option', { name: 'hundredth., cut out' })).toBeVisible()
    const captionsOfNext = async () =>
      (await server.lecture(id)).captionTracks[0]!.cues.filter((cue) => cue.slideId === next!.id).map((cue) => cue.text)
    await expect.poll(async () => (await captionsOfNext()).join(' ')).toContain('Read that line')
    await page.keyboard.press('Control+z')
    await expect.poll(scripts).toEqual([SLIPPING_SCRIPT, 'High ones are thin.'])
    // the recipe comes back last
    await expect.poll(async () => (await server.lecture(id)).slides[0]!.takes[0]!.tidyUp!.cuts).toEqual([])
    expect((await server.lecture(id)).slides[1]!.keptTakeId).toBeNull()
  },
)

longTest(
  'by touch alone: one tap marks a word, a second one goes on to another, and a tap on what is struck out brings it back',
  async ({ browser, page: _, server }) => {
    const context = await browser.newContext({ hasTouch: true, viewport: { width: 390, height: 780 }, locale: 'en-GB' })
    const page = await context.newPage()
    const id = await openClouds(page, server)
    const slide = (await server.lecture(id)).slides[0]!
    await page.request.patch(`${server.address}/api/slides/${slide.id}`, { data: { script: SLIPPING_SCRIPT } })
    await recordByApi(server, slide.id, (await slipping()).samples)
    const cuts = async () => (await server.lecture(id)).slides[0]!.takes[0]!.tidyUp!.cuts.length
    await page.goto(`${server.address}/lectures/${id}/slides/${slide.id}`)
    const words = page.getByRole('listbox', { name: 'As it was said' })
    const word = (name: string) => words.getByRole('option', { name, exact: true })
    // before its words are found they are told roughly
    await expect(words.getByRole('option', { name: /^er, um/ })).toHaveCount(1)
    await word('If').first().tap()
    await word('water').first().tap()
    await expect(words.getByRole('option', { selected: true })).toHaveCount(5)
    await page.getByRole('button', { name: /^Cut out/ }).tap()
    await expect.poll(cuts).toBe(1)
    await word('drop, cut out').tap()
    await page.getByRole('button', { name: /^Put back/ }).tap()
    await expect.poll(cuts).toBe(0)
    await context.close()
  },
)
