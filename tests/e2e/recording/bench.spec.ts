/** The bench: trimming, cutting, cleaning by hand, and hearing the difference. */

import { execFileSync } from 'node:child_process'
import { fromInt16 } from '#core/audio/signal/pcm.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { DEMO_SLIDES } from '#demo/lecture.ts'
import { demoPath, openClouds, recordByApi } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { madeTake } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = IS_LONG ? test : test.skip

declare global {
  interface Window {
    sounds: HTMLAudioElement[]
  }
}

test('a curtain is dragged, a stumble cut out, the strength changed, and all of it undone', async ({ page, server }) => {
  const id = await openClouds(page, server)
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
  await expect(page.getByRole('region', { name: /^Bench of slide/ }).getByText(/^Selected 0:01\.5 to 0:02\.0/)).toBeVisible()
  // those who do not see it are told once
  const told = page.getByRole('status').filter({ hasText: /^(Selected|Done)/ })
  await expect(told).toHaveText(/^Selected 0:01\.5 to 0:02\.0/)
  await page.keyboard.press('x')
  await expect(told).toHaveText('Done: cut')
  await expect.poll(async () => (await take()).tidyUp!.cuts.length).toBe(1)
  await expect(page.getByRole('img', { name: /^Cut out/ })).toBeVisible()
  const removed = (await take()).tidyUp!
  const left = removed.kept.end - removed.kept.start - (removed.cuts[0]!.end - removed.cuts[0]!.start)
  await expect.poll(async () => (await clip())?.samples).toBe(left)

  // weaker cleaning leaves more of the room
  const quiet = (await clip())!.figures.noiseFloorDb!
  const strength = page.getByRole('slider', { name: /^Cleaning/ })
  for (let i = 0; i < 8; i++) await strength.press('ArrowLeft')
  await strength.blur()
  await expect.poll(async () => (await take()).tidyUp!.cleaning).toBeCloseTo(0.2, 5)
  await expect.poll(async () => (await clip())?.figures.noiseFloorDb ?? -200).toBeGreaterThan(quiet + 10)

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
  const id = await openClouds(page, server)
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
  const id = await openClouds(page, server)
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

longTest('two takes are compared at the same sentence, and what one of them lacks is told', async ({ page, server }) => {
  const id = await openClouds(page, server)
  const slideId = (await server.lecture(id)).slides[0]!.id
  const { script } = DEMO_SLIDES[2]!
  await fetch(`${server.address}/api/slides/${slideId}`, {
    method: 'PATCH',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ script }),
  })
  const whole = execFileSync(
    'ffmpeg',
    ['-v', 'error', '-i', demoPath('take-3a.flac'), '-ac', '1', '-ar', '48000', '-f', 's16le', '-'],
    {
      maxBuffer: 1 << 28,
    },
  )
  const samples = fromInt16(new Int16Array(whole.buffer.slice(whole.byteOffset, whole.byteOffset + whole.length)))
  const said = async (number: number): Promise<{ text: string; start: number; end: number }[]> => {
    const take = (await server.lecture(id)).slides[0]!.takes.find((t) => t.number === number)
    if (!take) return []
    const answer = await fetch(`${server.address}/api/takes/${take.id}/sentences`)
    return ((await answer.json()) as { sentences: { text: string; start: number; end: number }[] }).sentences
  }
  await recordByApi(server, slideId, samples)
  await expect.poll(async () => (await said(1)).length).toBeGreaterThan(2)
  const sentences = await said(1)
  // the second ends before its last sentence, and begins a second later
  const second = new Float32Array(Math.round((sentences.at(-1)!.start - 0.1) * 48_000) + 48_000)
  second.set(samples.subarray(0, second.length - 48_000), 48_000)
  await recordByApi(server, slideId, second)
  await expect.poll(async () => (await said(2)).length).toBe(sentences.length - 1)

  await page.goto(`${server.address}/lectures/${id}/slides/${slideId}`)
  await page.evaluate(() => {
    const played: { src: string; at: number; element: HTMLMediaElement }[] = []
    Object.assign(window, { played })
    const play = HTMLMediaElement.prototype.play
    HTMLMediaElement.prototype.play = function (this: HTMLMediaElement) {
      // the page wakes its sound by one that is not heard
      if (!this.muted) played.push({ src: this.src, at: this.currentTime, element: this })
      return play.call(this)
    }
  })
  await page.getByRole('button', { name: 'Compare' }).click()
  const dialog = page.getByRole('dialog', { name: 'The same sentence in two takes' })
  await expect(dialog.getByRole('row')).toHaveCount(sentences.length + 1)
  await expect(dialog.getByRole('row').last()).toContainText('not said')
  const { text } = sentences[1]!
  for (const number of [1, 2]) await dialog.getByRole('button', { name: `Hear it in take ${number}: ${text}` }).click()
  const { takes } = (await server.lecture(id)).slides[0]!
  const clips = takes.map((take) => take.clip!.sound)
  const played = async () => {
    const all = await page.evaluate(() =>
      (window as unknown as { played: { src: string; at: number; element: HTMLMediaElement }[] }).played.map(
        ({ src, at, element }) => ({ src, at, ended: element.paused, reached: element.currentTime }),
      ),
    )
    return all.filter(({ src }) => clips.some((clip) => src.includes(clip)))
  }
  await expect.poll(async () => (await played()).map(({ ended }) => ended)).toEqual([true, true])
  for (const [i, { src, at, reached }] of (await played()).entries()) {
    const take = takes.find((t) => t.number === i + 1)!
    const { start, end } = (await said(i + 1))[1]!
    const from = take.tidyUp!.kept.start / 48_000
    expect(src).toContain(take.clip!.sound)
    expect(Math.abs(at - (start - 0.15 - from))).toBeLessThan(0.01)
    // the second was heard to the end of the sentence, and no further than a browser's tick
    if (i === 1) expect(Math.abs(reached - (end + 0.15 - from))).toBeLessThan(1)
  }
  await dialog.getByRole('button', { name: 'Keep take 1' }).click()
  await expect.poll(async () => (await server.lecture(id)).slides[0]!.keptTakeId).toBe(takes.find((t) => t.number === 1)!.id)
})
