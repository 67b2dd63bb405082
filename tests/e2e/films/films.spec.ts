/** A film on a slide: dropped, set on the bench, played on the stage with the lecture's clock, published and watched. */
import type { Page } from '@playwright/test'
import { drop, enterBooth, openClouds, recordByApi } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { makeFilm } from '#tests/made/film.ts'
import { lay, noise, seconds, voice } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = IS_LONG ? test : test.skip

const speech = (length: number) => lay(noise(0.002, seconds(length), 3), voice(0.3, seconds(length - 0.8), 3), seconds(0.4))

/** Frames of 25 a second: which is seen, by its bars, and which should be by the clock of the stage. */
const seenFrames = (page: Page, from: number) =>
  page.evaluate(async (begins) => {
    const found: { seen: number; wanted: number }[] = []
    const clock = () => Number(document.querySelector('[aria-label="Moment of the lecture"]')?.getAttribute('aria-valuenow') ?? 0)
    const canvas = document.createElement('canvas')
    const context = canvas.getContext('2d', { willReadFrequently: true })!
    const end = performance.now() + 2000
    while (performance.now() < end) {
      await new Promise(requestAnimationFrame)
      const film = document.querySelector<HTMLVideoElement>('[data-testid=stage] video')
      if (!film || film.readyState < 2 || film.paused) continue
      ;[canvas.width, canvas.height] = [film.videoWidth, film.videoHeight]
      context.drawImage(film, 0, 0)
      let seen = 0
      for (let bar = 0; bar < 12; bar++) {
        const x = Math.round(((bar + 0.5) * canvas.width) / 12)
        if (context.getImageData(x, canvas.height >> 1, 1, 1).data[1]! > 127) seen |= 1 << bar
      }
      found.push({ seen, wanted: Math.floor((clock() - begins) * 25) })
    }
    return found
  }, from)

test('a film is dropped on an open slide, follows the lecture’s clock, and learners see it move', async ({
  page,
  server,
}, testInfo) => {
  const id = await openClouds(page, server)
  const lecture = await server.lecture(id)
  await recordByApi(server, lecture.slides[0]!.id, speech(4))
  const path = testInfo.outputPath('waves.mp4')
  makeFilm(path, { frames: 150, width: 480, height: 270 })
  await page.goto(`${server.address}/lectures/${id}/slides/${lecture.slides[0]!.id}`)
  await page.getByLabel('A film for slide 1').setInputFiles(path)
  await expect(page.getByText('“waves.mp4” is ready.')).toBeVisible()
  await expect(page.getByRole('img', { name: /^Film “waves.mp4”/ })).toBeVisible()

  const films = page.getByRole('region', { name: 'Films on slide 1' })
  await films.getByLabel('Width').fill('50')
  await films.getByLabel('Width').press('Enter')
  await expect.poll(async () => (await server.lecture(id)).slides[0]!.steps[0]!.films[0]!.place?.width).toBe(0.5)
  await page.keyboard.press('Escape')
  await films.getByRole('combobox', { name: 'The slide' }).selectOption('lets it run on')
  await expect
    .poll(async () => (await server.lecture(id)).slides[0]!.steps[0]!.films[0]!)
    .toMatchObject({ waits: false, runsOn: true })
  await expect(page.getByRole('img', { name: 'Film “waves.mp4” runs on from slide 1' })).toBeVisible()
  await films.getByRole('combobox', { name: 'The slide' }).selectOption('stays for it')

  await page.getByRole('button', { name: 'Picture', exact: true }).click()
  await page.getByRole('button', { name: 'Play the lecture' }).click()
  await expect(page.locator('[data-testid=stage] video')).toBeVisible()
  const frames = await seenFrames(page, 0.25)
  expect(frames.length).toBeGreaterThan(10)
  // the slider tells tenths of a second; a film is hurried or held back when it is further off than that
  expect(frames.filter(({ seen, wanted }) => Math.abs(seen - wanted) > 4)).toEqual([])
  await page.getByRole('button', { name: 'Pause the lecture' }).first().click()
  await expect.poll(() => page.locator('[data-testid=stage] video').evaluate((film: HTMLVideoElement) => film.paused)).toBe(true)
})

longTest(
  'a film that is dropped on the sheet asks what it is for; on a slide it is placed by dragging it',
  async ({ page, server }, testInfo) => {
    const id = await openClouds(page, server)
    const lecture = await server.lecture(id)
    const path = testInfo.outputPath('dropped.mp4')
    makeFilm(path, { frames: 25, width: 480, height: 270, tone: 0.3 })
    await page.goto(`${server.address}/lectures/${id}/slides/${lecture.slides[1]!.id}`)
    await expect(page.getByRole('region', { name: 'Bench of slide 2' })).toBeVisible()
    await drop(page, path)
    const dialog = page.getByRole('dialog', { name: 'What is this film for?' })
    await expect(dialog.getByLabel('Slide for dropped.mp4')).toHaveValue(lecture.slides[1]!.id)
    await dialog.getByRole('button', { name: 'Show it on this slide' }).click()
    const placing = page.getByTestId('film-placing')
    await expect(placing).toBeVisible()
    // clear of what stands at the window's foot
    await placing.evaluate((element) => element.scrollIntoView({ block: 'center' }))
    const film = async () => (await server.lecture(id)).slides[1]!.steps[0]!.films[0]!
    const box = (await placing.boundingBox())!
    // its lower right corner to the middle of the slide, then the film to the right
    await page.mouse.move(box.x + box.width - 3, box.y + box.height - 3)
    await page.mouse.down()
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2, { steps: 4 })
    await page.mouse.up()
    await expect.poll(async () => (await film()).place?.width).toBeCloseTo(0.5, 1)
    await page.mouse.move(box.x + box.width / 4, box.y + box.height / 4)
    await page.mouse.down()
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 4, { steps: 4 })
    await page.mouse.up()
    await expect.poll(async () => (await film()).place?.x).toBeCloseTo(0.25, 1)
    // what is heard in it has no captions, which one press settles where nobody speaks
    await page
      .getByRole('listitem', { name: /^Slide 2:/ })
      .getByText('Film without captions')
      .click()
    await page.getByRole('button', { name: 'Nobody speaks in it' }).click()
    await expect.poll(async () => (await film()).isSpoken).toBe(false)
  },
)

test('a file that is no film is refused with a sentence, and one that is broken off stays and says so', async ({
  page,
  server,
}, testInfo) => {
  const id = await openClouds(page, server)
  const lecture = await server.lecture(id)
  await page.goto(`${server.address}/lectures/${id}/slides/${lecture.slides[0]!.id}`)
  const input = page.getByLabel('A film for slide 1')
  await input.setInputFiles({ name: 'list.mp4', mimeType: 'video/mp4', buffer: Buffer.from('#EXTM3U\nfile:///etc/passwd\n') })
  await expect(page.getByText('“list.mp4” is no film that is known here, whatever its name says.')).toBeVisible()
  const path = testInfo.outputPath('cut.mp4')
  makeFilm(path, { frames: 50 })
  const { readFileSync } = await import('node:fs')
  await input.setInputFiles({ name: 'cut.mp4', mimeType: 'video/mp4', buffer: readFileSync(path).subarray(0, 2000) })
  const films = page.getByRole('region', { name: 'Films on slide 1' })
  await expect(films.getByRole('alert')).toContainText('“cut.mp4” cannot be read as a film; it may be damaged or broken off.')
  await films.getByRole('button', { name: 'Take cut.mp4 away' }).click()
  await expect(films).toBeHidden()
  await page.keyboard.press('ControlOrMeta+z')
  await expect(films.getByRole('alert')).toBeVisible()
})

longTest(
  'in the booth a film moves silently while its slide is spoken to, rests with the voice, and begins anew with each recording',
  async ({ page, server }, testInfo) => {
    const id = await openClouds(page, server)
    const slide = (await server.lecture(id)).slides[0]!
    const path = testInfo.outputPath('booth.mp4')
    makeFilm(path, { frames: 250, width: 480, height: 270, tone: 0.3 })
    await page.goto(`${server.address}/lectures/${id}/slides/${slide.id}`)
    await page.getByLabel('A film for slide 1').setInputFiles(path)
    await expect(page.getByText('“booth.mp4” is ready.')).toBeVisible()
    await enterBooth(page, server, id)
    const film = page.getByLabel('Film “booth.mp4”')
    const at = () => film.evaluate((video: HTMLVideoElement) => video.currentTime)
    const state = () => film.evaluate(({ muted, paused }: HTMLVideoElement) => ({ muted, paused }))
    await expect(page.getByText('Its sound is not heard here')).toBeVisible()
    expect(await state()).toEqual({ muted: true, paused: true })
    await page.keyboard.press('r')
    await expect.poll(at).toBeGreaterThan(1)
    await page.keyboard.press('p')
    await expect.poll(state).toEqual({ muted: true, paused: true })
    const rested = await at()
    await page.waitForTimeout(400)
    expect(await at()).toBe(rested)
    await page.keyboard.press('p')
    await expect.poll(at).toBeGreaterThan(rested + 0.3)
    await page.keyboard.press('r')
    await expect(page.getByText('The take is on disk, whole.')).toBeVisible()
    await page.keyboard.press('r')
    await expect.poll(at).toBeLessThan(rested)
    await page.keyboard.press('r')
  },
)

longTest(
  'captions are attached to a film, in a language that can be changed, and taken back',
  async ({ page, server }, testInfo) => {
    const id = await openClouds(page, server)
    const lecture = await server.lecture(id)
    await recordByApi(server, lecture.slides[0]!.id, speech(4))
    const path = testInfo.outputPath('said.mp4')
    makeFilm(path, { frames: 75, width: 480, height: 270, tone: 0.3 })
    await page.goto(`${server.address}/lectures/${id}/slides/${lecture.slides[0]!.id}`)
    await page.getByLabel('A film for slide 1').setInputFiles(path)
    await expect(page.getByText('“said.mp4” is ready.')).toBeVisible()
    const vtt = {
      name: 'said.vtt',
      mimeType: 'text/vtt',
      buffer: Buffer.from('WEBVTT\n\n00:00.500 --> 00:02.000\nA drop falls.\n'),
    }
    await page.getByLabel('Captions of “said.mp4”').setInputFiles(vtt)
    await expect(page.getByText('“said.vtt”: 1 caption attached.')).toBeVisible()
    const captions = async () => (await server.lecture(id)).slides[0]!.steps[0]!.films[0]!.captions
    await expect.poll(async () => (await captions()).map(({ language, cues }) => [language, cues.length])).toEqual([['en-GB', 1]])
    // on the sheet it stands beside what the voice says
    await expect(page.getByText('A drop falls.').first()).toBeVisible()
    await page.getByRole('button', { name: 'Take said.vtt away' }).click()
    await expect.poll(captions).toEqual([])
    await page.keyboard.press('Control+z')
    await expect.poll(async () => (await captions()).length).toBe(1)
  },
)
