/** The whole road: from an empty shelf to a learner who watches. */
import sharp from 'sharp'
import { cuesOnLecture } from '#core/captions/tracks/place-cues.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { IS_LONG } from '#tests/support/long.ts'
import { enterBooth, importClouds, recordFor } from './server.ts'
import { expect, test } from './test.ts'

const longTest = IS_LONG ? test : test.skip

/** What the practice microphone says first. */
const SAID = 'Good evening. This is the practice microphone.'

test.use({ ownServer: true })

longTest('a deck and a voice become a video that a learner watches', async ({ page, server, browser }) => {
  const id = await importClouds(page, server)

  await page
    .getByRole('listitem', { name: /^Slide 1/ })
    .getByRole('link')
    .click()
  await page.getByLabel('Script').fill('Good evening. These are the clouds.')
  await page.getByLabel('Script').blur()
  await page
    .getByRole('listitem', { name: /^Slide 2/ })
    .getByRole('link')
    .click()
  await page.getByRole('region', { name: 'Bench of slide 2' }).getByLabel('Script').fill(SAID)
  await expect(page.getByText('Saving')).toBeVisible()
  await expect(page.getByText('All changes saved')).toBeVisible()
  expect((await server.lecture(id)).slides[1]!.script).toBe(SAID)

  await enterBooth(page, server, id)
  await recordFor(page, 5)
  await expect(page.getByText('The take is on disk, whole.')).toBeVisible()
  await expect(page.getByText('Take 1', { exact: false })).toBeVisible()
  await page.keyboard.press('l') // what was said is heard at once
  await expect(page.getByText('kept')).toBeVisible()
  await page.keyboard.press('ArrowRight')
  await expect(page.getByText('Slide 2 of 4')).toBeVisible()
  await recordFor(page, 4)
  await expect(page.getByText('kept')).toBeVisible()
  await recordFor(page, 7)
  await expect(page.getByText('Take 2', { exact: false })).toBeVisible()
  await expect.poll(async () => (await server.lecture(id)).slides[1]!.takes[0]!.clip !== null).toBe(true)
  await page.getByRole('button', { name: 'Keep this one' }).click()
  await expect
    .poll(async () => (await server.lecture(id)).slides[1]!.takes.find((t) => t.number === 1)!.id)
    .toBe((await server.lecture(id)).slides[1]!.keptTakeId)
  await page.getByRole('button', { name: 'Keep this one' }).click()

  const lecture = await expect
    .poll(
      async () =>
        (await server.lecture(id)).slides[1]!.takes.find((t) => t.number === 2)!.id ===
        (await server.lecture(id)).slides[1]!.keptTakeId,
    )
    .toBe(true)
    .then(() => server.lecture(id))
  for (const slide of lecture.slides.slice(0, 2)) {
    const take = slide.takes.find((t) => t.id === slide.keptTakeId)!
    expect(take.analysis!.speech.length).toBeGreaterThan(0)
    expect(take.clip!.figures.loudnessLufs!).toBeCloseTo(-16, 0)
    expect(take.clip!.samples).toBeLessThan(take.samples)
  }

  await page.goto(`${server.address}/lectures/${id}/publish`)
  await page.getByRole('button', { name: 'Make edition 1' }).click()
  const link = page.getByRole('link', { name: 'First link' })
  await expect(link).toBeVisible()

  // a private window: nothing of the author's is in it
  const stranger = await (await browser.newContext()).newPage()
  const address = (await link.getAttribute('href'))!
  await stranger.goto(address)
  const video = stranger.locator('video')
  await expect.poll(() => video.evaluate((v: HTMLVideoElement) => v.readyState)).toBeGreaterThan(2)
  const plan = schedule(lecture)
  expect(Math.abs((await video.evaluate((v: HTMLVideoElement) => v.duration)) - toSeconds(plan.lengthSamples))).toBeLessThan(
    1024 / 48_000,
  )
  await stranger.getByRole('button', { name: 'Play' }).click()
  await expect.poll(() => video.evaluate((v: HTMLVideoElement) => v.currentTime)).toBeGreaterThan(0.5)
  await stranger.getByRole('button', { name: 'Pause' }).click()

  await stranger.getByRole('button', { name: /High: thin and white/ }).click()
  // the captions stand on the words: what is said and what is read are the same there
  const timed = await server.lecture(id)
  const cues = cuesOnLecture(timed, timed.captionTracks[0]!.cues).filter((c) => c.slideId === lecture.slides[1]!.id)
  expect(cues.map((c) => c.text.replace('\n', ' '))).toEqual(['Good evening.', 'This is the practice microphone.'])
  // in the practice microphone's voice the second sentence begins 1.037 s after the first
  expect(Math.abs(cues[1]!.start - cues[0]!.start - 1.037)).toBeLessThan(0.12)
  const middle = (cues[1]!.start + cues[1]!.end) / 2
  await stranger.getByLabel('Where you are in the lecture').fill(String(middle))
  await expect(stranger.getByTestId('caption')).toContainText('This is the practice microphone.')
  await expect.poll(() => video.evaluate((v: HTMLVideoElement) => v.seeking)).toBe(false)
  const shown = await video.evaluate((v: HTMLVideoElement) => {
    const canvas = document.createElement('canvas')
    canvas.width = 192
    canvas.height = 108
    canvas.getContext('2d')!.drawImage(v, 0, 0, 192, 108)
    return [...canvas.getContext('2d')!.getImageData(0, 0, 192, 108).data]
  })
  const difference = async (slide: number) => {
    const picture = await fetch(`${server.address}/api/files/${lecture.slides[slide]!.steps[0]!.picture}.png`)
    const wanted = await sharp(await picture.arrayBuffer())
      .resize(192, 108)
      .ensureAlpha()
      .raw()
      .toBuffer()
    return shown.reduce((sum, value, i) => sum + Math.abs(value - wanted[i]!), 0) / shown.length
  }
  expect(await difference(1)).toBeLessThan(3)
  expect(await difference(0)).toBeGreaterThan(2 * (await difference(1)))

  await stranger.getByLabel('Captions', { exact: true }).selectOption('Captions off')
  await expect(stranger.getByTestId('caption')).toHaveCount(0)
  await expect(stranger.getByRole('region', { name: 'Transcript' })).toContainText('This is the practice microphone.')

  await page.getByRole('button', { name: 'Close it' }).click()
  await expect(page.getByRole('button', { name: 'Open again' })).toBeVisible()
  expect((await stranger.goto(address))!.status()).toBe(404)
  await expect(stranger.getByText('This link does not open anything.', { exact: false })).toBeVisible()
})
