/** The bench: trimming, cutting, cleaning by hand, and hearing the difference. */
import { toSeconds } from '#core/timing/clocks.ts'
import { madeTake } from '#tests/sound.ts'
import { expect, importClouds, recordByApi, test } from './server.ts'

declare global {
  interface Window {
    sounds: HTMLAudioElement[]
  }
}

test('a curtain is dragged, a stumble cut out, the strength changed, and all of it undone', async ({ page, server }) => {
  const id = await importClouds(page, server)
  const { samples } = madeTake({ room: 0.01, click: 0 })
  await recordByApi(server, (await server.lecture(id)).slides[0]!.id, samples)
  const take = async () => (await server.lecture(id)).slides[0]!.takes[0]!
  const clip = async () => (await take()).clip
  await expect.poll(clip).not.toBeNull()
  const first = (await take())!
  await page.goto(`${server.address}/lectures/${id}/slides/${first.slideId}`)
  const sound = page.getByRole('application')
  await expect(page.getByRole('radio', { name: 'Tidied' })).toBeEnabled()
  await sound.scrollIntoViewIfNeeded()
  const box = (await sound.boundingBox())!
  const at = (seconds: number) => box.x + (seconds / toSeconds(first.samples)) * box.width

  // the end curtain, by hand
  const grip = page.getByRole('slider', { name: 'End of what is heard' })
  const held = (await grip.boundingBox())!
  await page.mouse.move(held.x + held.width / 2, held.y + held.height / 2)
  await page.mouse.down()
  await page.mouse.move(at(4), held.y + 20, { steps: 6 })
  await page.mouse.up()
  await expect.poll(async () => toSeconds((await take()).tidyUp!.kept.end)).toBeCloseTo(4, 1)
  // and by key
  const before = (await take()).tidyUp!.kept.start
  await page.getByRole('slider', { name: 'Beginning of what is heard' }).press('ArrowRight')
  await expect.poll(async () => (await take()).tidyUp!.kept.start - before).toBe(2400)

  // a stumble in the middle is selected and cut out
  await page.mouse.move(at(1.5), box.y + 40)
  await page.mouse.down()
  await page.mouse.move(at(2), box.y + 40, { steps: 6 })
  await page.mouse.up()
  await expect(page.getByText(/^Selected 0:01\.5 to 0:02\.0/)).toBeVisible()
  await page.keyboard.press('x')
  await expect.poll(async () => (await take()).tidyUp!.cuts.length).toBe(1)
  await expect(page.getByRole('img', { name: /^Cut out/ })).toBeVisible()
  const removed = (await take()).tidyUp!
  const left = removed.kept.end - removed.kept.start - (removed.cuts[0]!.end - removed.cuts[0]!.start)
  await expect.poll(async () => (await clip())?.samples).toBe(left)

  // weaker cleaning leaves more of the room
  const quiet = (await clip())!.figures.roomDb!
  const strength = page.getByRole('slider', { name: /^Cleaning/ })
  for (let i = 0; i < 8; i++) await strength.press('ArrowLeft')
  await strength.blur()
  await expect.poll(async () => (await take()).tidyUp!.cleaning).toBeCloseTo(0.2, 5)
  await expect.poll(async () => (await clip())?.figures.roomDb ?? -200).toBeGreaterThan(quiet + 10)

  // back to where it began, step by step
  await page.locator('body').press('Escape')
  for (let i = 0; i < 14 && JSON.stringify((await take()).tidyUp) !== JSON.stringify(first.tidyUp); i++) {
    await page.locator('body').press('Control+z')
    await page.waitForTimeout(300)
  }
  expect((await take()).tidyUp).toEqual(first.tidyUp)
})

test('as recorded and tidied change at once at the same spot, and the room is heard to go', async ({ page, server }) => {
  await page.addInitScript(() => {
    window.sounds = []
    const Real = window.Audio
    window.Audio = class extends Real {
      constructor(src?: string) {
        super(src)
        window.sounds.push(this)
      }
    }
  })
  const id = await importClouds(page, server)
  await recordByApi(server, (await server.lecture(id)).slides[0]!.id, madeTake({ room: 0.01, click: 0 }).samples)
  const take = async () => (await server.lecture(id)).slides[0]!.takes[0]!
  await expect.poll(async () => (await take()).clip).not.toBeNull()
  const { slideId, sound, clip, tidyUp } = await take()
  await page.goto(`${server.address}/lectures/${id}/slides/${slideId}`)
  await page.getByRole('radio', { name: 'As recorded' }).click()
  const area = page.getByRole('application')
  const box = (await area.boundingBox())!
  await page.mouse.click(box.x + box.width * (1.2 / 6), box.y + 60)
  await area.press(' ')
  const playing = () =>
    page.evaluate(() => {
      const heard = window.sounds.filter((s) => !s.paused && !s.ended && s.readyState > 2)
      return heard.map((s) => ({ src: s.src, at: s.currentTime }))
    })
  await expect.poll(async () => (await playing()).map((s) => s.src.includes(sound!))).toEqual([true])
  const took = await page.evaluate(async (clipName) => {
    const began = performance.now()
    ;[...document.querySelectorAll('[role=radio]')]
      .find((r) => r.textContent === 'Tidied')!
      .dispatchEvent(new MouseEvent('click', { bubbles: true }))
    for (;;) {
      const now = window.sounds.find((s) => s.src.includes(clipName) && !s.paused && !s.seeking && s.readyState > 2)
      if (now)
        return {
          ms: performance.now() - began,
          at: now.currentTime,
          others: window.sounds.filter((s) => s !== now && !s.paused).map((s) => s.currentTime),
        }
      if (performance.now() - began > 5000) return null
      await new Promise((resolve) => setTimeout(resolve, 5))
    }
  }, clip!.sound)
  expect(took).not.toBeNull()
  expect(took!.others).toEqual([]) // never two sounds at once
  const spot = took!.at + toSeconds(tidyUp!.kept.start)
  expect(spot).toBeGreaterThan(1.2)
  expect(spot).toBeLessThan(4)
  test.info().annotations.push({ type: 'switch', description: `${took!.ms.toFixed(0)} ms` })
  await area.press(' ')

  // what is heard in the pause, measured on the sound itself
  const level = (name: string, from: number, to: number) =>
    page.evaluate(
      async ([url, start, end]) => {
        const bytes = await (await fetch(url as string)).arrayBuffer()
        const samples = (await new OfflineAudioContext(1, 48_000, 48_000).decodeAudioData(bytes)).getChannelData(0)
        let sum = 0
        for (let i = (start as number) * 48_000; i < (end as number) * 48_000; i++) sum += samples[Math.round(i)]! ** 2
        return 10 * Math.log10(sum / (((end as number) - (start as number)) * 48_000) + 1e-12)
      },
      [`${server.address}/api/files/${name}.flac`, from, to],
    )
  const shift = toSeconds(tidyUp!.kept.start)
  const [raw, tidied] = [await level(sound!, 2.75, 3.05), await level(clip!.sound, 2.75 - shift, 3.05 - shift)]
  expect(raw).toBeGreaterThan(-45)
  expect(tidied).toBeLessThan(raw - 20)
})

test('one slide’s settings are given to all, and one undo takes them back', async ({ page, server }) => {
  const id = await importClouds(page, server)
  const slides = (await server.lecture(id)).slides
  for (const slide of slides.slice(0, 2))
    await recordByApi(server, slide.id, madeTake({ seed: 3 + slides.indexOf(slide) }).samples)
  const strengths = async () => (await server.lecture(id)).slides.slice(0, 2).map((s) => s.takes[0]!.tidyUp?.cleaning)
  await expect.poll(strengths).toEqual([0.6, 0.6])
  await page.goto(`${server.address}/lectures/${id}/sound`)
  await expect(page.getByRole('row', { name: /^2\./ })).toBeVisible()
  const strength = page.getByRole('slider', { name: /^Cleaning/ })
  for (let i = 0; i < 4; i++) await strength.press('ArrowRight')
  await page.getByRole('button', { name: 'Tidy all slides like this' }).click()
  await expect.poll(strengths).toEqual([0.8, 0.8])
  await expect(page.getByRole('row', { name: /80 %/ })).toHaveCount(2)
  await page.locator('body').press('Control+z')
  await expect.poll(strengths).toEqual([0.6, 0.6])
})
