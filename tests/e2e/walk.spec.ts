/** From an empty shelf to a link, slide by slide: how many actions it takes beside the speaking itself. */
import { writeFileSync } from 'node:fs'
import { chromium, type Page } from '@playwright/test'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { lay, noise, seconds, voice } from '#tests/made/sound.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { demoPath, drop } from './server.ts'
import { expect, test } from './test.ts'

const MOST_ACTIONS = 15
const SLIDES = 8
const SPOKEN_S = 1.1

test.use({ ownServer: true })

test('a deck of eight slides becomes a link in fifteen actions', async ({ server }, info) => {
  const said = noise(0.002, seconds(60), 3)
  for (let at = 0; at < 58; at += 1.5) lay(said, voice(0.3, seconds(1.1), at + 1), seconds(at + 0.2))
  const path = info.outputPath('voice.wav')
  writeFileSync(path, writeWav(toInt16(said), SAMPLE_RATE))
  const browser = await chromium.launch({ ...BROWSER, args: [...BROWSER.args!, `--use-file-for-fake-audio-capture=${path}`] })
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, permissions: ['microphone'] })
  const page: Page = await context.newPage()
  // counting in is waiting and no action
  await page.addInitScript(() => localStorage.setItem('countdown', '0'))
  const done: string[] = []
  const act = async (what: string, how: () => Promise<unknown>) => {
    done.push(what)
    await how()
  }
  const press = (key: string) => act(key, () => page.keyboard.press(key))
  const click = (role: 'button' | 'link', name: string | RegExp) =>
    act(`“${name}”`, () => page.getByRole(role, { name }).first().click())

  await page.goto(server.address)
  await act('drop the deck', () => drop(page, demoPath('reading-the-rain-gauge.pdf')))
  await click('link', 'Record slide 1')
  await expect(page.getByRole('button', { name: /^Record/ })).toBeEnabled()
  await press('r')
  for (let n = 1; n <= SLIDES; n++) {
    await expect(page.getByText(`Slide ${n} of ${SLIDES}`)).toBeVisible()
    await expect(page.getByRole('button', { name: /^Stop/ })).toBeVisible()
    // the booth's own clock counts what has arrived: a busy machine's microphone gives less than the wall's
    await expect
      .poll(async () => Number((await page.getByRole('timer').innerText()).split(':')[1]))
      .toBeGreaterThanOrEqual(SPOKEN_S)
    await press(n < SLIDES ? 'ArrowRight' : 'r')
  }
  await expect(page.getByText('The take is on disk, whole.')).toBeVisible()
  await press('Escape')
  await click('link', 'Publish')
  await click('button', 'Make edition 1')
  const link = page.getByRole('link', { name: 'First link' })
  await expect(link).toBeVisible()
  await act('open the link', async () => page.goto((await link.getAttribute('href'))!))
  await expect(page.locator('video')).toBeVisible()

  const id = (await (await fetch(`${server.address}/api/lectures`)).json()) as { lectures: { id: string }[] }
  const { slides } = await server.lecture(id.lectures[0]!.id)
  expect(slides.map((slide) => slide.takes.length)).toEqual(Array(SLIDES).fill(1))
  for (const { takes } of slides) expect(takes[0]!.samples).toBeGreaterThan(seconds(SPOKEN_S - 0.5))
  await browser.close()
  console.log(`The walk took ${done.length} actions beside the speaking: ${done.join(', ')}`)
  expect(done.length).toBeLessThanOrEqual(MOST_ACTIONS)
})
