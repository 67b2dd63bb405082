/** The practice microphone is never chosen for anybody, is named while it is in use, and its takes say what they are. */

import { chromium } from '@playwright/test'
import { enterBooth, openClouds, recordFor } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { BROWSER } from '#tests/support/browser.ts'

const bare = { ...BROWSER, args: BROWSER.args!.filter((arg) => !arg.startsWith('--use-fake')) }

test('with no microphone connected nothing is chosen, and nothing can be recorded', async ({ server }) => {
  const browser = await chromium.launch(bare)
  try {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
    const id = await openClouds(page, server)
    await page.goto(`${server.address}/lectures/${id}/booth`)
    await expect(page.getByRole('alert')).toContainText('No microphone was found')
    await expect(page.getByLabel('Microphone')).toHaveValue('')
    await expect(page.getByRole('button', { name: /^Record/ })).toBeDisabled()
    await page.keyboard.press('r')
    // looking at it in the try-out is not choosing it either
    await page.getByRole('button', { name: 'Try it out' }).click()
    const dialog = page.getByRole('dialog', { name: 'Try the microphone' })
    // the booth is dark, and what is opened in it
    await expect(dialog).toHaveCSS('color-scheme', 'dark')
    await dialog.getByRole('combobox', { name: /^Microphone/ }).selectOption('Practice microphone')
    await dialog.getByRole('button', { name: /^Listen for/ }).click()
    await expect(dialog.getByRole('list', { name: 'Microphones tried' }).getByRole('listitem')).toHaveCount(1)
    await dialog.getByRole('button', { name: 'Done' }).click()
    await page.reload()
    await expect(page.getByRole('alert')).toContainText('No microphone was found')
    expect((await server.lecture(id)).slides[0]!.takes).toEqual([])
    await page.goto(`${server.address}/settings`)
    await expect(page.getByRole('radio', { name: 'Practice microphone', exact: true })).not.toBeChecked()
  } finally {
    await browser.close()
  }
})

test('permission denied: nothing is chosen', async ({ server }) => {
  const browser = await chromium.launch(bare)
  try {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, permissions: [] })).newPage()
    const id = await openClouds(page, server)
    await page.addInitScript(() => {
      navigator.mediaDevices.getUserMedia = () => Promise.reject(new DOMException('refused', 'NotAllowedError'))
      // as browsers list inputs before they were allowed to tell
      navigator.mediaDevices.enumerateDevices = async () =>
        [{ kind: 'audioinput', deviceId: '', label: '', groupId: '' }] as MediaDeviceInfo[]
    })
    await page.goto(`${server.address}/lectures/${id}/booth`)
    await expect(page.getByRole('alert')).toContainText('does not let this page use the microphone')
    await expect(page.getByLabel('Microphone')).toHaveValue('')
    await expect(page.getByRole('button', { name: /^Record/ })).toBeDisabled()
  } finally {
    await browser.close()
  }
})

test('chosen by hand it is named large, its take says so, and publishing asks about it', async ({ page, server }) => {
  const id = await openClouds(page, server)
  await enterBooth(page, server, id)
  await expect(page.getByText('Practice microphone: a made-up voice is recorded, not yours')).toBeVisible()
  await recordFor(page, 2)
  await expect(page.getByRole('list', { name: /^Takes of slide/ })).toContainText('practice voice')
  await page.goto(`${server.address}/lectures/${id}/publish`)
  await expect(page.getByText('Slide 1 has the practice voice')).toBeVisible()
})
