/** What somebody new trips over: menus and lists that close, numbers that are not changed in silence, what comes into view, what is asked for. */

import { writeFileSync } from 'node:fs'
import type { TestInfo } from '@playwright/test'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { demoPath, drop, openClouds, recordByApi } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { lay, noise, seconds, voice } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = IS_LONG ? test : test.skip

const spoken = (seed: number) => lay(noise(0.002, seconds(2), seed), voice(0.3, seconds(1.2), seed), seconds(0.4))

longTest('while a deck is read its language is chosen, and the sheet has it', async ({ page, server }) => {
  await page.goto(server.address)
  await expect(page.getByRole('button', { name: 'New lecture' }).first()).toBeVisible()
  await drop(page, demoPath('reading-the-rain-gauge.pdf'))
  await page.getByLabel('Language of the lecture').selectOption('fr')
  await page.waitForURL(/lectures/)
  await expect(page.getByLabel('Language of the lecture')).toHaveValue('fr')
})

test('a menu closes by Esc and by a press outside, the list of keys by a button in sight, and a number out of range is told', async ({
  page,
  server,
}) => {
  await openClouds(page, server)
  const entry = page.getByRole('menuitem', { name: 'A text slide at the end' })
  const menu = page.getByRole('button', { name: 'Add' })
  await menu.click()
  await expect(entry).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(entry).toBeHidden()
  await expect(menu).toBeFocused()
  await page.keyboard.press('ArrowDown')
  await expect(entry).toBeFocused()
  await page.keyboard.press('ArrowUp')
  await page.keyboard.press('End')
  await expect(page.getByRole('menuitem', { name: 'One recording of the whole lecture' })).toBeFocused()
  await page.keyboard.press('Escape')
  await menu.click()
  await page.getByText('Length', { exact: true }).first().click()
  await expect(entry).toBeHidden()
  // what a dialog was opened from has the focus when it is left, and so has a finding
  await menu.click()
  await entry.click()
  await expect(page.getByRole('dialog', { name: 'A text slide' })).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(menu).toBeFocused()
  const finding = page.getByRole('button', { name: 'To record' }).first()
  await finding.press('Enter')
  await expect(page.getByRole('dialog', { name: 'To record' })).toContainText('Slide 1 has no sound')
  await page.keyboard.press('Escape')
  await expect(finding).toBeFocused()
  await menu.click()
  await page.keyboard.press('?')
  const keys = page.getByRole('dialog', { name: 'Keys' })
  await expect(keys.getByRole('heading', { name: 'Bench' })).toBeInViewport({ ratio: 1 })
  await expect(keys.getByRole('button', { name: 'Close' })).toBeInViewport({ ratio: 1 })
  await expect(entry).toBeHidden()
  await keys.getByRole('button', { name: 'Close' }).click()
  await expect(keys).toBeHidden()
  // wherever focus is, but where a text is typed
  await page.getByRole('combobox', { name: 'Speed' }).focus()
  await page.keyboard.press('?')
  await expect(keys).toBeVisible()
  await keys.getByRole('button', { name: 'Close' }).click()

  await page.getByRole('button', { name: 'Times' }).click()
  const rest = page.getByLabel('Rest before the voice')
  await rest.fill('999')
  await rest.press('Enter')
  await expect(page.getByRole('status').filter({ hasText: '10 s is the most there can be.' })).toBeVisible()
  await expect(rest).toHaveValue('10')
})

test('what is not recorded yet is told in one line, a length before recording follows the scripts, and nothing is made of no slide', async ({
  page,
  server,
}) => {
  const id = await openClouds(page, server)
  const { slides } = await server.lecture(id)
  const change = (slideId: string, data: object) => page.request.patch(`${server.address}/api/slides/${slideId}`, { data })
  for (const slide of slides) await change(slide.id, { script: Array(60).fill('cloud').join(' ') })
  // four slides of 60 words are far longer than four silent ones
  await expect(page.getByText(/^about 1:[34]/)).toBeVisible()
  await page.goto(`${server.address}/lectures/${id}/publish`)
  await expect(page.getByText('To record: 4 slides')).toBeVisible()
  await expect(page.getByText('Slide 3 has no sound')).toBeHidden()
  await page.getByText('Show each').first().click()
  await expect(page.getByText('Slide 3 has no sound')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Make edition 1' })).toBeEnabled()
  for (const slide of slides) await change(slide.id, { hidden: true })
  await expect(page.getByRole('button', { name: 'Make edition 1' })).toBeDisabled()
  await expect(page.getByText('There is no slide to show')).toBeVisible()
})

function save(info: TestInfo, name: string, samples: Float32Array): string {
  const path = info.outputPath(name)
  writeFileSync(path, writeWav(toInt16(samples), 48_000))
  return path
}

test('music in a heap of sounds is offered under the voice', async ({ page, server }, info) => {
  const id = await openClouds(page, server)
  await drop(page, save(info, 'slide 1.wav', spoken(1)), save(info, 'calm music.wav', noise(0.1, seconds(4), 5)))
  const dialog = page.getByRole('dialog', { name: 'Which sound is for which slide?' })
  await expect(dialog.getByLabel('Slide for calm music.wav')).toHaveValue('under the voice')
  await dialog.getByRole('button', { name: 'Put 1 on their slides, and 1 under the voice' }).click()
  await expect.poll(async () => (await server.lecture(id)).beds.map((bed) => bed.name)).toEqual(['calm music.wav'])
  await expect.poll(async () => (await server.lecture(id)).slides.map((slide) => slide.takes.length)).toEqual([1, 0, 0, 0])
})

test('a row that opens comes into view with its sound, and a row without fault says no more than that', async ({
  page,
  server,
}) => {
  const id = await openClouds(page, server)
  const last = (await server.lecture(id)).slides[3]!
  await recordByApi(server, last.id, spoken(3))
  const row = page.getByRole('listitem', { name: /^Slide 4:/ })
  await expect(row.getByText(/^0:0\d/)).toBeVisible()
  await row.getByRole('link').click()
  await expect(row.getByRole('application')).toBeInViewport({ ratio: 0.99 })
  await page.request.patch(`${server.address}/api/slides/${last.id}`, { data: { script: '' } })
  await expect(row.getByText('Ready', { exact: true })).toHaveCount(0)
})
