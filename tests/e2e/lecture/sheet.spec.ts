/** The sheet as a whole: slides made, moved and joined; sounds brought in; beds; the lecture played. */

import { writeFileSync } from 'node:fs'
import type { Page } from '@playwright/test'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { SAMPLE_RATE, toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { drop, openClouds, recordByApi, type TestServer } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { lay, noise, seconds, sine, voice } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = IS_LONG ? test : test.skip

function speech(length: number, seed: number): Float32Array {
  return lay(noise(0.002, seconds(length), seed), voice(0.3, seconds(length - 0.8), seed), seconds(0.4))
}
const save = (path: string, samples: Float32Array) => {
  writeFileSync(path, writeWav(toInt16(samples), SAMPLE_RATE))
  return path
}
const row = (page: Page, n: number) => page.getByRole('listitem', { name: new RegExp(`^Slide ${n}:`) })
const titles = async (page: Page) =>
  (await page.getByRole('list', { name: 'Slides' }).getByRole('listitem').all()).reduce<Promise<string[]>>(
    async (list, item) => [...(await list), (await item.getAttribute('aria-label')) ?? ''],
    Promise.resolve([]),
  )
/** Notes when each picture is shown while the lecture is played: `window.seen`. */
const logPictures = (page: Page) =>
  page.evaluate(() => {
    const seen: { at: number; src: string }[] = []
    Object.assign(window, { seen })
    const look = () => {
      const picture = document.querySelector<HTMLImageElement>('[data-testid=stage] img:last-of-type')?.src
      if (picture && seen.at(-1)?.src !== picture) seen.push({ at: performance.now(), src: picture })
      requestAnimationFrame(look)
    }
    look()
  })
/** What `logPictures` logged so far. */
const seenPictures = (page: Page) => page.evaluate(() => (window as unknown as { seen: { at: number; src: string }[] }).seen)
/** Back to the first slide, with nothing logged but its picture. */
async function toBeginning(page: Page, firstPicture: string) {
  await page.getByRole('slider', { name: 'Moment of the lecture' }).press('Home')
  await expect.poll(async () => (await seenPictures(page)).at(-1)?.src ?? firstPicture).toContain(firstPicture)
  await page.evaluate(() => {
    const { log, seen } = window as unknown as Record<'log' | 'seen', unknown[] | undefined>
    for (const list of [log, seen]) if (list) list.length = 0
  })
}
/** Every kept take has its clip. */
const tidied = (server: TestServer, id: string, count: number) =>
  expect
    .poll(
      async () => (await server.lecture(id)).slides.filter((s) => s.takes.some((t) => t.id === s.keptTakeId && t.clip)).length,
    )
    .toBe(count)

longTest(
  'a heap of named sound files finds its slides, is shown for confirmation, and becomes takes',
  async ({ page, server }, info) => {
    const id = await openClouds(page, server)
    const heap = [
      save(info.outputPath('slide 3.wav'), speech(3, 3)),
      save(info.outputPath('01 welcome.wav'), speech(2, 1)),
      save(info.outputPath('closing words.wav'), speech(2, 9)),
    ]
    await drop(page, ...heap)
    const dialog = page.getByRole('dialog', { name: 'Which sound is for which slide?' })
    await expect(dialog.getByLabel('Slide for slide 3.wav')).toHaveValue((await server.lecture(id)).slides[2]!.id)
    await expect(dialog.getByLabel('Slide for 01 welcome.wav')).toHaveValue((await server.lecture(id)).slides[0]!.id)
    // what has no number goes to the next free slide; here it belongs to the last one
    await dialog.getByLabel('Slide for closing words.wav').selectOption({ index: 5 })
    await dialog.getByRole('button', { name: 'Put 3 on their slides' }).click()
    await tidied(server, id, 3)
    const { slides } = await server.lecture(id)
    expect(slides.map((s) => s.takes[0]?.microphone ?? null)).toEqual([
      '01 welcome.wav',
      null,
      'slide 3.wav',
      'closing words.wav',
    ])
  },
)

test('one long recording is divided: proposed, dragged, undone by nothing lost, and every slide has its part', async ({
  page,
  server,
}, info) => {
  const id = await openClouds(page, server)
  const whole = noise(0.002, seconds(20), 3)
  for (const [i, at] of [0.6, 3, 6.6, 9, 12.8, 15.2].entries()) lay(whole, voice(0.3, seconds(2), i + 1), seconds(at))
  await page.getByRole('button', { name: 'Add' }).click()
  await page.getByRole('menuitem', { name: 'One recording of the whole lecture' }).click()
  await page.getByLabel('Recording of the whole lecture').setInputFiles(save(info.outputPath('evening.wav'), whole))
  await expect(page.getByRole('heading', { name: 'Divide “evening.wav”' })).toBeVisible()

  await page.getByRole('combobox', { name: 'to slide' }).selectOption({ index: 2 })
  await page.getByLabel('Changes proposed from').selectOption('pauses')
  const handle = page.getByRole('button', { name: /^Slide 2 begins at/ })
  const at = async () => Number(/(\d+):(\d+\.\d)/.exec((await handle.getAttribute('aria-label'))!)![2])
  expect(await at()).toBeGreaterThan(5)
  expect(await at()).toBeLessThan(6.6)
  // dragged into the first sentence's pause it snaps there; dragged into speech it stays free and says so
  const box = (await handle.boundingBox())!
  const pixels = (await page.getByRole('group', { name: 'Changes of slide over the recording' }).boundingBox())!.width / 20
  await page.mouse.move(box.x + 4, box.y + 5)
  await page.mouse.down()
  await page.mouse.move(box.x + 4 - 3.1 * pixels, box.y + 5, { steps: 6 })
  await page.mouse.up()
  expect(await at()).toBeGreaterThan(2.5)
  expect(await at()).toBeLessThan(3.1)
  await page.getByLabel('Changes proposed from').selectOption('moments')
  await page.getByLabel(/^Moments at which/).fill('0:06, 0:05')
  await expect(page.getByRole('alert')).toContainText('does not come after')
  await expect(page.getByRole('button', { name: 'Divide over 3 slides' })).toBeDisabled()
  await page.getByLabel(/^Moments at which/).fill('0:05.9, 0:12')
  await page.getByRole('button', { name: 'Divide over 3 slides' }).click()
  await tidied(server, id, 3)
  const { slides } = await server.lecture(id)
  const lengths = slides.slice(0, 3).map((s) => toSeconds(s.takes[0]!.samples))
  expect(lengths.reduce((a, b) => a + b)).toBeCloseTo(20, 6)
  expect(lengths[0]).toBeGreaterThan(5)
  expect(lengths[0]).toBeLessThan(6.6)
})

test('text slides, copies, steps and another picture: made, joined, separated, undone', async ({ page, server }) => {
  const id = await openClouds(page, server)
  await page.getByRole('button', { name: 'Add' }).click()
  await page.getByRole('menuitem', { name: 'A text slide at the end' }).click()
  const dialog = page.getByRole('dialog', { name: 'A text slide' })
  await dialog.getByRole('button', { name: 'Add it' }).click()
  await expect(dialog.getByRole('alert')).toContainText('needs a heading')
  await dialog.getByLabel('Heading').fill('Thank you')
  await dialog.getByLabel('Line below it').fill('Look up more often')
  await dialog.getByRole('button', { name: 'Add it' }).click()
  await expect(row(page, 5)).toHaveAttribute('aria-label', 'Slide 5: Thank you')

  await page.getByRole('button', { name: 'Copy', exact: true }).click()
  await expect(row(page, 6)).toHaveAttribute('aria-label', 'Slide 6: Thank you')
  await page.keyboard.press('Control+z')
  await expect(row(page, 6)).toHaveCount(0)

  await row(page, 1).getByRole('link').click()
  const before = (await server.lecture(id)).slides.map((s) => s.steps.map((step) => step.picture))
  await page.getByRole('button', { name: 'Make slide 2 a step of this one' }).click()
  await expect(row(page, 1).getByTitle('2 pictures in turn')).toBeVisible()
  await expect.poll(async () => (await server.lecture(id)).slides.map((s) => s.steps.length)).toEqual([2, 1, 1, 1])
  await page.getByRole('button', { name: 'Make a slide of every step' }).click()
  await expect.poll(async () => (await server.lecture(id)).slides.map((s) => s.steps.map((step) => step.picture))).toEqual(before)

  await page.getByLabel('Another picture for slide 1').setInputFiles({
    name: 'not a picture.png',
    mimeType: 'image/png',
    buffer: Buffer.from('words'),
  })
  await expect(page.getByText('is no picture', { exact: false })).toBeVisible()
})

longTest(
  'fixed pace, transitions and rests: every time on the sheet follows, and can be taken back',
  async ({ page, server }) => {
    const id = await openClouds(page, server)
    const { slides } = await server.lecture(id)
    await recordByApi(server, slides[0]!.id, speech(9, 4))
    await recordByApi(server, slides[1]!.id, speech(4, 5))
    await tidied(server, id, 2)
    await page.getByRole('button', { name: 'Times' }).click()
    const panel = page.getByRole('region', { name: 'Times of the whole lecture' })
    // the box follows the lecture, which a take that is being aligned may bring anew in this moment
    await panel.getByLabel('Fixed pace').click()
    await expect(panel.getByLabel('Fixed pace')).toBeChecked()
    await panel.getByLabel('Every slide').fill('6')
    await panel.getByLabel('Every slide').press('Enter')
    await expect(panel.getByText('About 14 words fit on one')).toBeVisible()
    await expect(row(page, 1).getByText(/s over$/)).toBeVisible()
    await expect(row(page, 2).getByText(/s to spare$/)).toBeVisible()
    await row(page, 1).getByText('Over its pace', { exact: true }).click()
    const advice = page.getByRole('dialog', { name: 'Over its pace' })
    await expect(
      advice.getByText('Its sound is never cut', { exact: false }).or(advice.getByText('say less', { exact: false })),
    ).toBeVisible()
    await panel.getByLabel('Fixed pace').uncheck()
    await panel.getByLabel('Change of slide').selectOption('push')
    await expect
      .poll(async () => schedule(await server.lecture(id)).slides.map((s) => s.transition?.kind ?? null))
      .toEqual([null, 'push', 'push', 'push'])
    // one slide goes its own way, which the row shows, and follows again
    await row(page, 2).getByRole('link').click()
    const own = page.getByRole('group', { name: 'Times of slide 2' })
    await own.getByLabel('Rest before').fill('0.9')
    await own.getByLabel('Rest before').press('Enter')
    await expect(row(page, 2).getByText('Waits long')).toBeVisible()
    await row(page, 2).getByText('Waits long', { exact: true }).click()
    await page.getByRole('button', { name: 'Wait as on other slides' }).click()
    await expect(row(page, 2).getByText('Waits long')).toHaveCount(0)
    // the sheet shows it before it is saved
    await expect.poll(async () => (await server.lecture(id)).slides[1]!.timing).toEqual({})
  },
)

test('filters and find leave out rows; slides are moved by keyboard', async ({ page, server }) => {
  const id = await openClouds(page, server)
  const { slides } = await server.lecture(id)
  await recordByApi(server, slides[0]!.id, speech(3, 4))
  await tidied(server, id, 1)
  await page.getByText('No sound 3').click()
  await expect(row(page, 1)).toHaveCount(0)
  await expect(row(page, 2)).toBeVisible()
  await page.getByText('All 4').click()
  await page.getByLabel('Find a slide by its words').fill('nowhere to be found')
  await expect(page.getByText('No title or script holds “nowhere to be found”')).toBeVisible()
  await page.getByLabel('Find a slide by its words').fill('')
  const before = await titles(page)
  await page.getByRole('button', { name: 'Move slide 1' }).focus()
  for (const key of ['Space', 'ArrowDown', 'ArrowDown', 'Space']) {
    await page.keyboard.press(key)
    // as fast as a hand: the rows move out of the way in between
    await page.waitForTimeout(250)
  }
  const name = (label: string) => label.replace(/^Slide \d+: /, '')
  await expect.poll(async () => (await titles(page)).map(name)).toEqual([1, 2, 0, 3].map((i) => name(before[i]!)))
  await expect.poll(async () => (await server.lecture(id)).slides[2]!.id).toBe(slides[0]!.id)
})

longTest(
  'a bed is laid under slides, set, and the lecture is played as learners will hear it',
  async ({ page, server }, info) => {
    const id = await openClouds(page, server)
    const { slides } = await server.lecture(id)
    for (const [i, length] of [2.5, 3].entries()) await recordByApi(server, slides[i]!.id, speech(length, 20 + i))
    await tidied(server, id, 2)
    for (const n of [2, 3])
      await fetch(`${server.address}/api/slides/${slides[n]!.id}`, {
        method: 'PATCH',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ timing: { holdSeconds: 1 } }),
      })
    await page.goto(`${server.address}/lectures/${id}/sound`)
    await page.getByLabel('Music or room sound').setInputFiles(save(info.outputPath('music.wav'), sine(440, 0.2, seconds(2))))
    await expect(page.getByText('music.wav', { exact: true })).toBeVisible()
    await page
      .getByRole('listitem')
      .filter({ hasText: 'music.wav' })
      .getByRole('combobox', { name: 'to slide' })
      .selectOption({ index: 3 })
    await expect.poll(async () => (await server.lecture(id)).beds[0]!.toSlideId).toBe(slides[3]!.id)

    await page.goto(`${server.address}/lectures/${id}`)
    await expect(row(page, 1).getByTitle('music.wav plays under this slide')).toBeVisible()
    // what is heard and when: the sound elements of the page tell
    await page.evaluate(() => {
      const log: { at: number; src: string }[] = []
      Object.assign(window, { log })
      const play = HTMLMediaElement.prototype.play
      HTMLMediaElement.prototype.play = function (this: HTMLMediaElement) {
        this.addEventListener('playing', () => log.push({ at: performance.now(), src: this.currentSrc }), { once: true })
        return play.call(this)
      }
    })
    await logPictures(page)
    const lecture = await server.lecture(id)
    const plan = schedule(lecture)
    const start = (n: number) => 1000 * toSeconds(plan.slides[n]!.startSamples)
    const lead = 1000 * toSeconds(plan.slides[1]!.leadSamples)
    const clip = (n: number) => lecture.slides[n]!.takes[0]!.clip!.sound
    // from one voice to the next, and from a voice to the picture after it, as the schedule says; played again where a busy machine was late
    await expect(async () => {
      await toBeginning(page, lecture.slides[0]!.steps[0]!.picture)
      const button = page.locator('#play-lecture')
      await button.click()
      await expect(button).toHaveAccessibleName('Pause the lecture')
      await expect(button).toHaveAccessibleName('Play the lecture')
      const { log, seen } = await page.evaluate(() => {
        const { log, seen } = window as unknown as Record<'log' | 'seen', { at: number; src: string }[]>
        return { log, seen }
      })
      const heard = (n: number) => log.find((entry) => entry.src.includes(clip(n)))!.at
      const changed = (n: number) => seen.find((entry) => entry.src.includes(lecture.slides[n]!.steps[0]!.picture))!.at
      expect(log.some((entry) => entry.src.includes(lecture.beds[0]!.sound))).toBe(true)
      expect(Math.abs(heard(1) - heard(0) - start(1))).toBeLessThan(250)
      expect(Math.abs(heard(1) - changed(1) - lead)).toBeLessThan(250)
      expect(Math.abs(changed(3) - changed(2) - (start(3) - start(2)))).toBeLessThan(150)
    }).toPass({ timeout: 240_000 })
  },
)

longTest(
  'the moment of a further picture is dragged and nudged, undone, and kept at twice the speed',
  async ({ page, server }) => {
    const id = await openClouds(page, server)
    const { slides } = await server.lecture(id)
    await fetch(`${server.address}/api/slides/steps`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        slides: [
          { id: slides[0]!.id, steps: [slides[0]!.steps[0]!.id, slides[1]!.steps[0]!.id], deleted: false },
          { id: slides[1]!.id, steps: [], deleted: true },
        ],
      }),
    })
    await recordByApi(server, slides[0]!.id, speech(7, 5))
    await tidied(server, id, 1)
    await page.goto(`${server.address}/lectures/${id}`)
    const handle = page.getByRole('button', { name: /^Picture 2 appears at/ })
    await expect(handle).toBeVisible()
    const at = async () => Number(/(\d+):(\d+\.\d)/.exec((await handle.getAttribute('aria-label'))!)![2])
    const spread = await at()
    const box = (await handle.boundingBox())!
    await page.mouse.move(box.x + box.width / 2, box.y + 8)
    await page.mouse.down()
    await page.mouse.move(box.x - 30, box.y + 8, { steps: 5 })
    await page.mouse.up()
    const moments = async () => Object.values((await server.lecture(id)).slides[0]!.takes[0]!.stepMoments)
    await expect.poll(async () => (await moments()).length).toBe(1)
    // the server may know it before the page shows it
    await expect.poll(at).toBeLessThan(spread)
    const dragged = await at()
    await handle.press('Shift+ArrowRight')
    await expect.poll(async () => (await at()) - dragged).toBeCloseTo(1, 1)
    await page.keyboard.press('Control+z')
    await expect.poll(at).toBeCloseTo(dragged, 1)

    const plan = schedule(await server.lecture(id))
    await page.getByRole('combobox', { name: 'Speed' }).selectOption('2')
    await logPictures(page)
    const pictures = [slides[0]!.steps[0]!.picture, slides[1]!.steps[0]!.picture, slides[2]!.steps[0]!.picture]
    const scheduled = toSeconds(plan.slides[1]!.startSamples) - dragged
    // played again where a busy machine was late
    await expect(async () => {
      await toBeginning(page, pictures[0]!)
      await page.getByRole('button', { name: 'Play the lecture' }).click()
      await expect.poll(async () => (await seenPictures(page)).at(-1)?.src).toContain(pictures[2])
      await page.locator('#play-lecture').click()
      const whole = await seenPictures(page)
      const [, second, third] = pictures.map((picture) => whole.find((s) => s.src.includes(picture))!.at)
      expect(Math.abs(third! - second! - (1000 * scheduled) / 2)).toBeLessThan(200)
    }).toPass({ timeout: 240_000 })
  },
)

test('a sheet of two hundred slides holds only the rows near the window, and goes where it is asked to', async ({
  page,
  server,
}) => {
  const id = await openClouds(page, server, 200)
  expect(await page.getByRole('list', { name: 'Slides' }).getByRole('listitem').count()).toBeLessThan(30)
  await page.keyboard.press('End')
  await expect(row(page, 200)).toBeVisible()
  const { slides } = await server.lecture(id)
  await page.goto(`${server.address}/lectures/${id}/slides/${slides[120]!.id}`)
  await expect(page.getByRole('region', { name: 'Bench of slide 121' })).toBeInViewport()
})
