/** The script is followed by the words that are said: over a sentence that is left out, and back to one that is said again. */

import { writeFileSync } from 'node:fs'
import { chromium } from '@playwright/test'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { Resampler } from '#core/audio/signal/resample.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { openClouds } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { lay, noise, seconds } from '#tests/made/sound.ts'
import { BROWSER } from '#tests/support/browser.ts'

const SCRIPT = [
  'Lower the stick gently until it touches the bottom.',
  'If you drop it, water climbs the wood and your figure is too high.',
  'Lift it straight out, turn it to the light, and look for the line where wet meets dry.',
  'Read that line to the nearest hundredth of an inch.',
]

/** A microphone that hears the sentences one after the other, after a rest, where scripts are known as they would be said. @returns the booth's page, and an end of it */
async function boothThatHears(order: readonly number[], path: string, address: string, scripts: readonly string[]) {
  const voice = (await openSynthesiser('en'))!
  const pieces: { sound: Float32Array; at: number }[] = []
  let at = seconds(1.5)
  for (const sentence of order) {
    const { samples, rate } = voice.speak(SCRIPT[sentence]!)
    const sound = new Resampler(rate, SAMPLE_RATE).push(samples).map((v) => 0.6 * v)
    pieces.push({ sound, at })
    at += sound.length + seconds(0.7)
  }
  const said = noise(0.0006, at + seconds(1), 3)
  for (const piece of pieces) lay(said, piece.sound, piece.at)
  writeFileSync(path, writeWav(toInt16(said), SAMPLE_RATE))
  const browser = await chromium.launch({ ...BROWSER, args: [...BROWSER.args!, `--use-file-for-fake-audio-capture=${path}`] })
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, permissions: ['microphone'] })
  const booth = await context.newPage()
  await booth.addInitScript(() => localStorage.setItem('countdown', '0'))
  const known = scripts.map((script) =>
    booth.waitForResponse(
      (answer) => answer.url().endsWith('/scripts/spoken') && answer.request().postDataJSON().script === script,
    ),
  )
  await booth.goto(address)
  for (const answer of known) expect((await answer).status()).toBe(200)
  await expect(booth.getByRole('button', { name: /^Record/ })).toBeEnabled()
  return { booth, marked: booth.getByRole('region', { name: 'Script' }).locator('[aria-current]'), end: () => browser.close() }
}

test('who leaves a sentence out is found at the next one, and who says one again at that one', async ({ page, server }, info) => {
  const id = await openClouds(page, server)
  const [first] = (await server.lecture(id)).slides
  await page.request.patch(`${server.address}/api/slides/${first!.id}`, { data: { script: SCRIPT.join(' ') } })
  // the second is left out; the first is said again at the end; the microphone plays it over and over
  const { booth, marked, end } = await boothThatHears(
    [0, 2, 3, 0],
    info.outputPath('voice.wav'),
    `${server.address}/lectures/${id}/booth?slide=${first!.id}`,
    [SCRIPT.join(' ')],
  )
  await booth.keyboard.press('r')
  await expect(marked).toHaveText(/^Lower the stick/)
  const seen: string[] = []
  const note = async () => {
    const text = (await marked.textContent({ timeout: 1000 }).catch(() => '')) ?? ''
    if (text && seen.at(-1) !== text.slice(0, 5)) seen.push(text.slice(0, 5))
    return seen.join(' ')
  }
  // whatever is shown for a moment between two: the way goes from the first over the third and fourth back to the first
  await expect.poll(note, { intervals: [100], timeout: 60_000 }).toMatch(/^Lower .*Lift .*Read .*Lower/)
  await booth.keyboard.press('r')
  await end()
})

test('straight through each slide is followed by its own words, from the moment it is shown', async ({ page, server }, info) => {
  const id = await openClouds(page, server)
  const [first, second] = (await server.lecture(id)).slides
  await page.request.patch(`${server.address}/api/slides/${first!.id}`, { data: { script: SCRIPT[0] } })
  await page.request.patch(`${server.address}/api/slides/${second!.id}`, { data: { script: SCRIPT.join(' ') } })
  // nothing but the last sentence of the second slide, again and again
  const { booth, marked, end } = await boothThatHears(
    [3],
    info.outputPath('voice.wav'),
    `${server.address}/lectures/${id}/booth?slide=${first!.id}&how=through`,
    // that of the slide after is asked for before it is shown
    [SCRIPT[0]!, SCRIPT.join(' ')],
  )
  await booth.keyboard.press('r')
  await expect(booth.getByRole('button', { name: /^Stop/ })).toBeVisible()
  await booth.keyboard.press('ArrowRight')
  await expect(booth.getByText('Slide 2 of 4')).toBeVisible()
  // by rests alone the third would be marked before the fourth; nobody says it
  const seen = new Set<string>()
  await expect
    .poll(
      async () => {
        const text = (await marked.textContent({ timeout: 1000 }).catch(() => '')) ?? ''
        seen.add(text.slice(0, 4))
        return text
      },
      { intervals: [50], timeout: 60_000 },
    )
    .toMatch(/^Read/)
  expect([...seen]).not.toContain('Lift')
  await booth.keyboard.press('r')
  await end()
})
