/** Questions between slides: written on the bench, asked where their slide ends, answered, and told to a platform. */
import { openPlatform } from '#bench/platforms/round.ts'
import { linkOf, stranger, timeOf } from '#tests/e2e/published.ts'
import { openClouds, recordByApi } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { madeTake } from '#tests/made/sound.ts'

test('a question is written, asked where its slide ends, answered, not asked again, and told as a score', async ({
  page,
  server,
  browser,
}) => {
  const id = await openClouds(page, server, 2)
  const { slides } = await server.lecture(id)
  for (const [i, slide] of slides.entries()) await recordByApi(server, slide.id, madeTake({ seed: i }).samples)
  await page.goto(`${server.address}/lectures/${id}/slides/${slides[0]!.id}`)
  const questions = page.getByRole('region', { name: 'Questions after slide 1' })
  await questions.getByRole('button', { name: 'Ask something after this slide' }).click()
  await expect(questions.getByText('It is not kept yet')).toBeVisible()
  await questions.getByLabel('Question 1', { exact: true }).fill('Which clouds are made of ice?')
  await questions.getByLabel('Answer 1', { exact: true }).fill('The low ones')
  await questions.getByLabel('Answer 2', { exact: true }).fill('The high ones')
  await questions.getByLabel('Answer 2 is right').check()
  await questions.getByLabel('Explanation').fill('It is cold up there.')
  await page.keyboard.press('Tab')
  const written = async () => (await server.lecture(id)).slides[0]!.questions
  await expect.poll(async () => (await written()).length).toBe(1)
  expect(await written()).toMatchObject([{ kind: 'one', options: ['The low ones', 'The high ones'], right: 1 }])
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await written()).length).toBe(0)
  await page.keyboard.press('Control+Shift+z')
  await expect.poll(async () => (await written()).length).toBe(1)

  await page.goto(`${server.address}/lectures/${id}/publish`)
  await page.getByRole('button', { name: 'Make edition 1' }).click()
  await expect(page.getByRole('link', { name: 'First link' })).toBeVisible()
  const link = new URL(await linkOf(page), server.address).href
  const learner = await stranger(browser)
  await learner.goto(link)
  const play = () =>
    learner.locator('video').evaluate((video: HTMLVideoElement) => {
      video.playbackRate = 2
      return video.play()
    })
  await play()
  const asked = learner.getByRole('heading', { name: 'Which clouds are made of ice?' })
  await expect(asked).toBeVisible()
  await expect(asked).toBeFocused()
  const stopped = await timeOf(learner)
  await learner.waitForTimeout(300)
  expect(await timeOf(learner)).toBe(stopped)
  await expect(learner.getByRole('button', { name: 'Answer', exact: true })).toBeDisabled()
  await learner.getByLabel('The low ones').check()
  await learner.getByRole('button', { name: 'Answer', exact: true }).click()
  await expect(learner.getByText('Not right: The high ones')).toBeVisible()
  await expect(learner.getByText('It is cold up there.')).toBeVisible()
  await learner.getByRole('button', { name: 'Go on', exact: true }).click()
  await expect.poll(() => timeOf(learner)).toBeGreaterThan(stopped + 0.5)
  // who comes again was asked already
  await learner.reload()
  await play()
  await expect.poll(() => timeOf(learner)).toBeGreaterThan(stopped + 0.5)
  await expect(asked).toHaveCount(0)
  await learner.context().close()
  // what was played until the page was loaded anew is counted
  const watched = async () => {
    const answer = await fetch(`${server.address}/api/lectures/${id}/editions`)
    return ((await answer.json()) as { editions: { watching: { played: number[] } | null }[] }).editions[0]!.watching
  }
  await expect.poll(async () => (await watched())?.played[0] ?? 0).toBeGreaterThan(0.5)

  const platform = await openPlatform()
  const pupil = await stranger(browser)
  try {
    const { editions } = (await (await fetch(`${server.address}/api/lectures/${id}/editions`)).json()) as {
      editions: { id: string }[]
    }
    const zip = await fetch(`${server.address}/api/editions/${editions[0]!.id}/packages/scorm-2004`)
    const course = await platform.add(Buffer.from(await zip.arrayBuffer()))
    await pupil.goto(`${platform.address}/packages/${course}`)
    const frame = pupil.frameLocator('#lecture')
    await frame.locator('video').evaluate((video: HTMLVideoElement) => {
      video.playbackRate = 2
      return video.play()
    })
    await frame.getByLabel('The high ones').check()
    await frame.getByRole('button', { name: 'Answer', exact: true }).click()
    await expect(frame.getByText('Right.')).toBeVisible()
    await expect.poll(() => platform.told(course).score).toBe('1')
    expect(platform.told(course).faults).toEqual([])
  } finally {
    await pupil.context().close()
    platform.end()
  }
})
