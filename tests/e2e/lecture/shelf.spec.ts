/** A shelf of many lectures: some are found by their words, and the way back leads to them. */
import AxeBuilder from '@axe-core/playwright'
import { openDatabase } from '#server/db/database.ts'
import { folderStore } from '#server/storage/file-store.ts'
import { withServer } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { seedLecture } from '#tests/support/seed.ts'

test('lectures are found by words of their slides; the slide opens, and the way back leads to what was sought', async ({
  page,
}) => {
  await withServer(async (server) => {
    const db = await openDatabase(server.dataFolder)
    const store = folderStore(server.dataFolder)
    for (let n = 1; n <= 22; n++) await seedLecture(db, store, n === 7 ? 'Snow and hail' : `Lecture ${n}`, 'en-GB')
    db.close()
    // the page is asked for anew as soon as events come: a press meanwhile counts
    await page.route('**/api/lectures?**', async (route) => {
      await new Promise((resolve) => setTimeout(resolve, 1000))
      await route.continue()
    })
    await page.goto(server.address)
    const entries = page.getByRole('list', { name: 'Lectures' }).locator('> li')
    await expect(entries).toHaveCount(20)
    await page.getByRole('button', { name: 'More lectures' }).click()
    await expect(entries).toHaveCount(22)
    await page.unroute('**/api/lectures?**')
    const find = page.getByLabel('Find lectures by their words')
    await find.fill('HAIL')
    await expect(entries).toHaveCount(1)
    await expect(page.getByRole('link', { name: 'Snow and hail', exact: true })).toBeVisible()
    await find.fill('sheets roll')
    await expect(page.getByText('22 lectures')).toBeVisible()
    const found = page.getByRole('list', { name: 'Slides with these words' }).first().getByRole('link')
    await expect(found).toHaveText(['Middle: sheets and rolls'])
    const { violations } = await new AxeBuilder({ page }).analyze()
    expect(violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.html).join(' ')}`)).toEqual([])
    await found.click()
    await expect(page.getByRole('region', { name: 'Bench of slide 3' })).toBeVisible()
    await page.goBack()
    await expect(find).toHaveValue('sheets roll')
    await find.fill('nothing like this')
    await expect(page.getByText('No lecture is like this.', { exact: false })).toBeVisible()
    // as far as they were shown before
    await find.fill('')
    await expect(entries).toHaveCount(22)
  })
})
