/** The microphone check: a sentence is heard and judged, microphones are compared, and the choice stays. */
import { expect, importClouds, test } from './server.ts'

test('microphones are tried with one sentence, told apart in words and figures, and the chosen one is used', async ({
  page,
  server,
}) => {
  const id = await importClouds(page, server)
  await page.goto(`${server.address}/settings`)
  await page.getByRole('button', { name: 'Try the microphone' }).click()
  const dialog = page.getByRole('dialog', { name: 'Try the microphone' })
  const tried = dialog.getByRole('list', { name: 'Microphones tried' }).getByRole('listitem')
  const listen = async (name: string, says: RegExp) => {
    await dialog.getByRole('combobox', { name: /^Microphone/ }).selectOption(name)
    await dialog.getByRole('button', { name: /^Listen for/ }).click()
    await expect(tried.first()).toContainText(name, { timeout: 30_000 })
    await expect(tried.first()).toContainText(says)
  }
  await listen('Practice microphone, quiet room', /good place to record/)
  await listen('Practice microphone, beside a fan', /dB too loud for the voice/)
  await listen('Practice microphone, too loud', /peaks are cut off/)
  await expect(tried).toHaveCount(3)
  await tried.filter({ hasText: 'quiet room' }).getByRole('button', { name: 'Use this one' }).click()
  await dialog.getByRole('button', { name: 'Done' }).click()
  await page.goto(`${server.address}/lectures/${id}/booth`)
  await expect(page.getByRole('combobox', { name: /^Microphone/ })).toHaveValue('practice-quiet-room')
})
