/** Other voices, as teachers and guests meet them: invited from the sheet, recorded by a link, kept; and a class heard in a row. */
import { DEMO_SLIDES } from '#demo/lecture.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { readSound } from '#server/media/read-sound.ts'
import { demoPath, openClouds, recordFor } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { makeVoiceLinkOver, recordByLinkOver } from '#tests/support/recording.ts'

test('a guest is invited to two slides, records one, listens, sends, and is kept by the teacher', async ({
  page,
  server,
  browser,
}) => {
  const id = await openClouds(page, server)
  await page.getByRole('button', { name: 'Add' }).click()
  await page.getByRole('menuitem', { name: 'Other voices: a guest or a class' }).click()
  const dialog = page.getByRole('dialog', { name: 'Other voices' })
  await dialog.getByRole('button', { name: 'None' }).click()
  await expect(dialog.getByRole('button', { name: 'Make the link' })).toBeDisabled()
  await dialog.getByRole('checkbox', { name: 'Slide 2' }).check()
  await dialog.getByRole('checkbox', { name: 'Slide 3' }).check()
  await dialog.getByLabel('Name of the link').fill('Dr Example')
  await dialog.getByRole('button', { name: 'Make the link' }).click()
  const link = dialog.getByRole('link', { name: 'Dr Example' })
  const address = (await link.getAttribute('href'))!

  const guest = await (
    await browser.newContext({ viewport: { width: 1280, height: 800 }, permissions: ['microphone'] })
  ).newPage()
  await guest.addInitScript(() => localStorage.setItem('countdown', '0'))
  await guest.goto(address)
  await expect(guest.getByText('You are asked to speak to 2 slides of this lecture.')).toBeVisible()
  await expect(guest.getByText('What you do not send is heard by nobody.')).toBeVisible()
  await guest.getByRole('button', { name: 'To the booth' }).click()
  await expect(guest.getByRole('alert')).toHaveText('Type your name, so that one knows whose voice it is.')
  await guest.getByLabel('Your name').fill('Ada Example')
  await guest.getByRole('button', { name: 'To the booth' }).click()
  await guest.getByLabel('Microphone').selectOption('Practice microphone')
  await expect(guest.getByRole('button', { name: /^Record/ })).toBeEnabled()
  await recordFor(guest, 2)
  const own = guest.getByRole('region', { name: 'Your recordings of this slide' })
  await own.getByRole('button', { name: 'Listen to recording 1' }).click()
  await expect(own.getByRole('button', { name: 'Stop recording 1' })).toBeVisible()
  // not sent: the teacher has nothing of it
  expect((await server.lecture(id)).slides[1]!.takes).toEqual([])
  await own.getByRole('button', { name: 'Send recording 1' }).click()
  await expect(guest.getByRole('button', { name: 'Slide 2: sent' })).toBeVisible()
  // the page of a guest who comes again knows them
  await guest.reload()
  await expect(own.getByText('sent ·')).toBeVisible()

  await expect(dialog.getByText('1 recording sent')).toBeVisible()
  await dialog.getByRole('button', { name: 'Keep what Ada Example sent' }).click()
  await expect.poll(async () => (await server.lecture(id)).slides[1]!.keptTakeId).not.toBeNull()
  await page.keyboard.press('Escape')
  await page.goto(`${server.address}/lectures/${id}/slides/${(await server.lecture(id)).slides[1]!.id}`)
  await expect(page.getByRole('list', { name: 'Takes of slide 2' }).getByText('Ada Example')).toBeVisible()

  await own.getByRole('button', { name: 'Withdraw recording 1' }).click()
  await expect(own.getByText('withdrawn, gone tomorrow')).toBeVisible()
  await expect(page.getByText('No take yet.')).toBeVisible()
  await guest.context().close()
})

test('a class reads: each by a name, the teacher hears them in a row by one key and goes to what was left out', async ({
  page,
  server,
}) => {
  const id = await openClouds(page, server)
  const [slide] = (await server.lecture(id)).slides
  const script = DEMO_SLIDES[2]!.script.replace('small tree', 'small umbrella tree')
  await page.request.patch(`${server.address}/api/slides/${slide!.id}`, { data: { script } })
  const token = await makeVoiceLinkOver(server.address, id, 'class', '7b', [slide!.id])
  const { samples } = await readSound(ffmpegAt('ffmpeg'), demoPath('take-3a.flac'))
  await recordByLinkOver(server.address, token, 'Bo Muster', slide!.id, samples.subarray(0, 3 * 48_000))
  await recordByLinkOver(server.address, token, 'Ada Example', slide!.id, samples)
  await page.goto(`${server.address}/lectures/${id}/answers/${token}`)
  await expect(page.getByRole('heading', { name: 'Answers: 7b' })).toBeVisible()
  const rows = page.getByRole('list', { name: 'Answers', exact: true }).getByRole('listitem')
  const told = page.getByRole('button', { name: /left out, umbrella/ })
  await expect(told).toBeVisible()
  await expect(page.getByText('correct words/min').first()).toBeVisible()
  // one key: the first is heard, and after it the next
  await page.keyboard.press('Space')
  await expect(page.getByRole('button', { name: 'Stop Ada Example, slide 1' })).toBeVisible()
  await page.keyboard.press('ArrowDown')
  await expect(page.getByRole('button', { name: 'Stop Bo Muster, slide 1' })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Stop Bo Muster, slide 1' })).toBeHidden()
  await told.click()
  await page.getByRole('button', { name: 'Delete the answer of Bo Muster, slide 1' }).click()
  await expect(page.getByText('Bo Muster', { exact: true })).toBeHidden()
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  await expect(page.getByText('Bo Muster', { exact: true })).toBeVisible()
  expect(await rows.count()).toBeGreaterThanOrEqual(2)
  const download = page.waitForEvent('download')
  await page.getByRole('link', { name: 'Sounds and table' }).click()
  expect((await download).suggestedFilename()).toBe('7b.zip')
})
