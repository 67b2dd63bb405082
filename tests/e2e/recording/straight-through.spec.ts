/**
 * A whole lecture recorded straight through, with Chromium's microphone playing a known file: pictures in turn, a rest, a slip that is
 * picked up, and a server that dies in the middle. What was recorded is compared, sample by sample, with the file.
 */

import { writeFileSync } from 'node:fs'
import { chromium } from '@playwright/test'
import { fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import type { Mark } from '#core/model/marks.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { openClouds, storedSound } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { lay, seconds, voice } from '#tests/made/sound.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { IS_LONG } from '#tests/support/long.ts'
import { placesIn, unlikeItself } from '#tests/support/place-in.ts'

/** The daily run has a slide with two pictures, a rest and the slide after it; the long one a slip and a server that dies as well. */
const LENGTH_S = IS_LONG ? 120 : 45
const SPOKEN_TO = IS_LONG ? 7 : 4
const EVERY_S = 2.5
/** Sentences of 1.5 s with a second of rest between them, each of its own. */
function speech(): Float32Array {
  const all = unlikeItself(LENGTH_S, 11).map((v) => 0.006 * v)
  for (let i = 0; i * EVERY_S + 1.5 < LENGTH_S; i++) lay(all, voice(0.3, seconds(1.5), i + 1), seconds(i * EVERY_S + 0.4))
  return all
}

test('a lecture is recorded straight through; what the microphone played is there, to the sample, on the slides it was for', async ({
  server,
}, info) => {
  test.setTimeout(240_000)
  const known = speech()
  const path = info.outputPath('spoken.wav')
  writeFileSync(path, writeWav(toInt16(known), SAMPLE_RATE))
  const browser = await chromium.launch({ ...BROWSER, args: [...BROWSER.args!, `--use-file-for-fake-audio-capture=${path}`] })
  const context = await browser.newContext({
    permissions: ['microphone'],
    viewport: { width: 1280, height: 800 },
  })
  const page = await context.newPage()
  const id = await openClouds(page, server, 8)
  const before = await server.lecture(id)
  const [, second, third] = before.slides
  await fetch(`${server.address}/api/slides/steps`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({
      slides: [
        { id: second!.id, steps: [second!.steps[0]!.id, third!.steps[0]!.id], deleted: false },
        { id: third!.id, steps: [], deleted: true },
      ],
    }),
  })
  await page.goto(`${server.address}/lectures/${id}/booth?how=through`)
  const inputs = page.getByLabel('Microphone').locator('option')
  await expect(inputs.first()).not.toHaveText('Practice microphone')
  await page.getByLabel('Microphone').selectOption({ index: 0 })
  await expect(page.getByRole('radio', { name: 'Straight through' })).toBeChecked()
  await expect(page.getByRole('button', { name: /^Record/ })).toBeEnabled()

  /** A slip on the fourth slide, picked up after a run-up; the server dies on the fifth. */
  const slipAndServer = async () => {
    await page.waitForTimeout(3000)
    await page.keyboard.press('u')
    await expect(page.getByText('Listen, then go on')).toBeVisible()
    await expect(page.getByText('Listen, then go on')).toHaveCount(0)
    await page.waitForTimeout(1800)
    await page.keyboard.press('PageDown')
    await expect(page.getByText(/is on disk/)).toBeVisible()
    await server.kill()
    await page.waitForTimeout(1800)
    await page.keyboard.press('PageDown')
    await page.waitForTimeout(1800)
    await server.start()
    await page.keyboard.press('PageDown')
    await page.waitForTimeout(1800)
  }
  // counted in, then on through the slides as a pedal does it
  await page.keyboard.press('r')
  await expect(page.getByText('3', { exact: true })).toBeVisible()
  await expect(page.getByRole('button', { name: /^Stop/ })).toBeVisible()
  await page.waitForTimeout(2000)
  await page.keyboard.press('PageDown')
  await expect(page.getByText('Slide 2 of 7')).toBeVisible()
  await page.waitForTimeout(2000)
  await page.keyboard.press('PageDown')
  await expect(page.getByText('Picture 2 of 2')).toBeVisible()
  await page.waitForTimeout(1500)
  await page.keyboard.press('PageDown')
  await expect(page.getByText('Slide 3 of 7')).toBeVisible()
  await page.waitForTimeout(2000)
  // a rest: the file plays on unheard
  await page.keyboard.press('p')
  await expect(page.getByText('Resting')).toBeVisible()
  await page.waitForTimeout(1500)
  await page.keyboard.press('p')
  await expect(page.getByText('Resting')).toHaveCount(0)
  await page.waitForTimeout(2000)
  await page.keyboard.press('PageDown')
  if (IS_LONG) await slipAndServer()
  else await page.waitForTimeout(1800)
  await page.keyboard.press('r')
  await expect(page.getByText('The take is on disk, whole.')).toBeVisible()
  await expect(page.getByText(`${SPOKEN_TO} takes made.`, { exact: false })).toBeVisible()

  const lecture = await server.lecture(id)
  expect(lecture.slides.map((slide) => slide.takes.length)).toEqual(Array.from({ length: 7 }, (_, i) => (i < SPOKEN_TO ? 1 : 0)))
  expect(Object.keys(lecture.slides[1]!.takes[0]!.stepMoments)).toEqual([third!.steps[0]!.id])
  type Recordings = { recordings: { sound: string; samples: number; marks: Mark[] }[] }
  const { recordings } = (await (await fetch(`${server.address}/api/lectures/${id}/recordings`)).json()) as Recordings
  const [{ sound, samples, marks }] = recordings as [Recordings['recordings'][number]]
  const slips = marks.filter((mark) => mark.kind === 'pick-up')
  await expect.poll(async () => (await server.lecture(id)).slides[3]!.takes[0]!.tidyUp?.cuts.length).toBe(slips.length)
  expect(slips).toHaveLength(IS_LONG ? 1 : 0)

  // what was recorded is the file, from rest to pick-up: no sample missing, changed or twice
  const recorded = await storedSound(server, sound)
  expect(recorded.length).toBe(samples)
  const joints = [0, marks.find((mark) => mark.kind === 'pause')!.at, ...slips.map((slip) => slip.at), samples]
  let played = Number.NEGATIVE_INFINITY
  for (const [i, joint] of joints.slice(0, -1).entries()) {
    const places = placesIn(known, fromInt16(recorded.subarray(joint, joints[i + 1]!)))
    expect(Math.min(...places.map((place) => place.correlation))).toBeGreaterThan(0.999)
    const offsets = places.map((place) => joint + place.offset)
    expect(Math.max(...offsets) - Math.min(...offsets)).toBeLessThan(0.5)
    expect(offsets[0]!, 'each piece comes after the one before it').toBeGreaterThan(played)
    played = joints[i + 1]! - joint + offsets[0]!
  }
  await browser.close()
})
