/** A lecture within a learning platform's page: the platform registered in Settings, the lecture chosen there, opened by a learner, its completion told. */
import { openPlatform } from '#bench/platforms/round.ts'
import { stranger } from '#tests/e2e/published.ts'
import { expect, test } from '#tests/e2e/test.ts'

test('a lecture is put into a course and opened there without another sign-in; the course is told when it was heard', async ({
  page,
  server,
  browser,
  edition,
}) => {
  const platform = await openPlatform(server.address)
  const { name, issuer, clientId, deploymentIds, authorizationUrl, tokenUrl, keysUrl } = platform.lti.registration(
    platform.address,
  )
  await page.goto(`${server.address}/settings`)
  await page.getByRole('button', { name: 'Register a learning platform' }).click()
  const dialog = page.getByRole('dialog', { name: 'Register a learning platform' })
  await dialog.getByLabel('Name, as it is shown here').fill(name)
  await dialog.getByRole('button', { name: 'Register', exact: true }).click()
  await expect(dialog.getByText('An address is written like https://learn.school.example/lti/auth.').first()).toBeVisible()
  await expect(dialog.getByText('The platform tells this when the tool is set up there.').first()).toBeVisible()
  const fields = {
    'Platform ID (issuer)': issuer,
    'Client ID': clientId,
    'Deployment ID; several with commas between them': deploymentIds.join(', '),
    'Authentication request URL': authorizationUrl,
    'Access token URL': tokenUrl,
    'Public keyset URL': keysUrl,
  }
  for (const [label, value] of Object.entries(fields)) await dialog.getByLabel(label, { exact: true }).fill(value)
  await dialog.getByRole('button', { name: 'Register', exact: true }).click()
  await expect(page.getByRole('list', { name: 'Registered platforms' }).getByText(name)).toBeVisible()

  const course = await stranger(browser)
  await course.goto(`${platform.address}/lti/choose`)
  const choice = course.frameLocator('iframe')
  await choice.getByRole('radio').first().check()
  await choice.getByRole('combobox').selectOption('0.5')
  await choice.getByRole('button', { name: 'Put it in' }).click()
  await choice.getByRole('button', { name: `Back to ${name}` }).click()
  await expect(choice.getByRole('heading', { name: 'It is in the course' })).toBeVisible()
  const [placed] = platform.lti.placed

  const open = async (who: string) => {
    await course.goto(`${platform.address}/lti/open/${placed!.id}/${who}`)
    const frame = course.frameLocator('iframe')
    await frame.locator('video').evaluate((video: HTMLVideoElement) => {
      video.playbackRate = 4
      return video.play()
    })
    return frame
  }
  await open('learner-1')
  const told = () => platform.lti.scores.get(placed!.id) ?? []
  await expect.poll(() => told().at(-1)?.activityProgress).toBe('Completed')
  expect(told().at(-1)).toMatchObject({ userId: 'learner-1', scoreGiven: 100, scoreMaximum: 100, gradingProgress: 'FullyGraded' })
  expect(told().every(({ userId }) => userId === 'learner-1')).toBe(true)
  expect(platform.lti.faults).toEqual([])
  // another learner on the same computer begins at the beginning
  const frame = await open('learner-2')
  expect(await frame.locator('video').evaluate((video: HTMLVideoElement) => video.currentTime)).toBeLessThan(3)
  // a page of nobody's may not show it
  expect(edition.id).toBeTruthy()
  await course.context().close()
  platform.end()
})
