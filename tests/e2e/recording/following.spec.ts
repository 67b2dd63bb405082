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

test('who leaves a sentence out is found at the next one, and who says one again at that one', async ({ page, server }, info) => {
  const id = await openClouds(page, server)
  const [first] = (await server.lecture(id)).slides
  await page.request.patch(`${server.address}/api/slides/${first!.id}`, { data: { script: SCRIPT.join(' ') } })
  const voice = (await openSynthesiser('en'))!
  const pieces: { sound: Float32Array; at: number }[] = []
  let at = seconds(1.5)
  // the second is left out; the first is said again at the end
  for (const sentence of [0, 2, 3, 0]) {
    const { samples, rate } = voice.speak(SCRIPT[sentence]!)
    const sound = new Resampler(rate, SAMPLE_RATE).push(samples).map((v) => 0.6 * v)
    pieces.push({ sound, at })
    at += sound.length + seconds(0.7)
  }
  const said = noise(0.0006, at + seconds(20), 3)
  for (const piece of pieces) lay(said, piece.sound, piece.at)
  const path = info.outputPath('voice.wav')
  writeFileSync(path, writeWav(toInt16(said), SAMPLE_RATE))
  const browser = await chromium.launch({ ...BROWSER, args: [...BROWSER.args!, `--use-file-for-fake-audio-capture=${path}`] })
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, permissions: ['microphone'] })
  const booth = await context.newPage()
  await booth.addInitScript(() => localStorage.setItem('countdown', '0'))
  const spoken = booth.waitForResponse(/scripts\/spoken/)
  await booth.goto(`${server.address}/lectures/${id}/booth?slide=${first!.id}`)
  expect((await spoken).status()).toBe(200)
  await expect(booth.getByRole('button', { name: /^Record/ })).toBeEnabled()
  await booth.keyboard.press('r')
  const marked = booth.getByRole('region', { name: 'Script' }).locator('[aria-current]')
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
  await browser.close()
})
