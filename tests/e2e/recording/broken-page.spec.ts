/** A page that breaks while somebody records: the sound is kept, and the page says so. */

import { enterBooth, openClouds } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { seconds } from '#tests/made/sound.ts'

test('a render error in mid-recording shows where the sound is, and all of it comes to the server', async ({ page, server }) => {
  const id = await openClouds(page, server)
  await enterBooth(page, server, id)
  await page.keyboard.press('r')
  await expect(page.getByText(/Everything up to 0:0[3-9] is on disk/)).toBeVisible()
  // what no server of ours sends, as if a version of the page had a fault
  await page.route(`**/api/lectures/${id}`, (route) =>
    route.fulfill({ json: { id, title: 'x', slides: [{ id: 'x' }], captionTracks: [] } }),
  )
  await fetch(`${server.address}/api/lectures/${id}`, {
    method: 'PATCH',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ title: 'Another title' }),
  })
  await expect(page.getByRole('heading', { name: 'Something on this page went wrong' })).toBeVisible()
  await expect(page.getByText('Everything that was recorded is on the server.')).toBeVisible()
  const take = (await server.lecture(id)).slides[0]!.takes[0]!
  expect(take.state).toBe('sealed')
  expect(take.samples).toBeGreaterThan(seconds(3))
  await page.unroute(`**/api/lectures/${id}`)
  await page.getByRole('button', { name: 'Load the page again' }).click()
  await expect(page.getByRole('button', { name: /^Record/ })).toBeVisible()
})

test('a part of the page that is not there any more is said', async ({ page, server }) => {
  await page.goto(server.address)
  await page.route('**/assets/settings-*.js', (route) => route.abort())
  await page.getByRole('link', { name: 'Settings' }).click()
  await expect(page.getByRole('heading', { name: 'This page could not be loaded' })).toBeVisible()
})
