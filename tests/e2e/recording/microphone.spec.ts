/** The microphone check: a sentence is heard and judged, microphones are compared, and the choice stays. */

import { applyBiquad, highPass } from '#core/audio/signal/filters.ts'
import { fromInt16, rms } from '#core/audio/signal/pcm.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { enterBooth, openClouds, recordFor } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = IS_LONG ? test : test.skip

longTest(
  'microphones are tried with one sentence, told apart in words and figures, and the chosen one is used',
  async ({ page, server }) => {
    const id = await openClouds(page, server)
    await page.goto(`${server.address}/settings`)
    await page.getByRole('button', { name: 'Try the microphone' }).click()
    const dialog = page.getByRole('dialog', { name: 'Try the microphone' })
    const tried = dialog.getByRole('list', { name: 'Microphones tried' }).getByRole('listitem')
    const inputs = dialog.getByRole('combobox', { name: /^Microphone/ })
    // devices, and one practice microphone with its scenes inside
    await expect(inputs.getByRole('option', { name: /^Practice microphone/ })).toHaveCount(1)
    await expect(dialog.getByText('Not listening yet.')).toBeVisible()
    await inputs.selectOption('Practice microphone')
    const listen = async (scene: string, says: RegExp) => {
      await dialog.getByRole('combobox', { name: 'Practice scene' }).selectOption(scene)
      await dialog.getByRole('button', { name: /^Listen for/ }).click()
      await expect(tried.first()).toContainText(`Practice microphone, ${scene}`)
      await expect(tried.first()).toContainText(says)
    }
    await listen('quiet room', /good place to record/)
    await listen('beside a fan', /dB too loud for the voice/)
    await listen('too loud', /peaks are cut off/)
    await expect(tried).toHaveCount(3)
    await tried.filter({ hasText: 'quiet room' }).getByRole('button', { name: 'Use this one' }).click()
    await dialog.getByRole('button', { name: 'Done' }).click()
    await page.goto(`${server.address}/lectures/${id}/booth`)
    await expect(page.getByRole('combobox', { name: /^Microphone/ })).toHaveValue('practice')
    await expect(page.getByRole('combobox', { name: 'Practice scene' })).toHaveValue('practice-quiet-room')
  },
)

test('the key counts from the moment the button can be pressed', async ({ page, server }) => {
  const id = await openClouds(page, server)
  await page.goto(`${server.address}/lectures/${id}/booth`)
  await page.getByLabel('Microphone').selectOption('Practice microphone')
  await page.evaluate(
    () =>
      new Promise<void>((resolve) => {
        const look = () => {
          const record = [...document.querySelectorAll('button')].find((b) => b.textContent?.startsWith('Record'))
          if (!record || record.disabled) return
          observer.disconnect()
          window.dispatchEvent(new KeyboardEvent('keydown', { key: 'r' }))
          resolve()
        }
        const observer = new MutationObserver(look)
        observer.observe(document.body, { subtree: true, childList: true, attributes: true })
        look()
      }),
  )
  await expect(page.getByRole('button', { name: /^Stop/ })).toBeVisible()
  await page.keyboard.press('r')
})

test('a mark stands where the key was pressed, however long the page was busy then', async ({ page, server }) => {
  const id = await openClouds(page, server)
  await enterBooth(page, server, id)
  await page.evaluate(() => {
    const pressed: number[] = []
    Object.assign(window, { pressed })
    addEventListener('keydown', (event) => event.key === 'w' && pressed.push(event.timeStamp), true)
  })
  await page.keyboard.press('r')
  await expect(page.getByRole('button', { name: /^Stop/ })).toBeVisible()
  await page.waitForTimeout(1500)
  await page.keyboard.press('w')
  await expect(page.getByText('1 thing marked as wrong')).toBeVisible()
  // nothing is handled for most of a second
  const busy = page.evaluate(() => {
    const begun = performance.now()
    while (performance.now() - begun < 800);
  })
  await page.waitForTimeout(100)
  await page.keyboard.press('w')
  await busy
  await expect(page.getByText('2 things marked as wrong')).toBeVisible()
  const pressed = await page.evaluate(() => (window as unknown as { pressed: number[] }).pressed)
  await page.waitForTimeout(500)
  await page.keyboard.press('r')
  await expect(page.getByText('The take is on disk, whole.')).toBeVisible()
  const { slides } = await server.lecture(id)
  const { marks } = slides.flatMap((slide) => slide.takes).at(-1)!
  const apart = (marks[1]!.at - marks[0]!.at) / (SAMPLE_RATE / 1000)
  // the machine may stand still for some of the time; the page was busy for much longer after the key
  expect(Math.abs(apart - (pressed[1]! - pressed[0]!))).toBeLessThan(250)
})

longTest('the small quality keeps the band of the voice only', async ({ page, server }) => {
  const id = await openClouds(page, server)
  await page.goto(`${server.address}/settings`)
  await page.getByRole('radio', { name: /^Small, about 1.5 MB a minute/ }).click()
  await enterBooth(page, server, id)
  await recordFor(page, 2)
  await expect(page.getByText('The take is on disk, whole.')).toBeVisible()
  const take = (await server.lecture(id)).slides[0]!.takes[0]!
  const bytes = await (await fetch(`${server.address}/api/takes/${take.id}/samples?start=0&end=${take.samples}`)).arrayBuffer()
  const samples = fromInt16(new Int16Array(bytes))
  // the practice room hisses at all frequencies: above the band it is gone
  const above = applyBiquad(applyBiquad(samples, highPass(14_000, SAMPLE_RATE)), highPass(14_000, SAMPLE_RATE))
  const [all, high] = [rms(samples), rms(above)]
  expect(all).toBeGreaterThan(0.002)
  expect(20 * Math.log10(high / all)).toBeLessThan(-55)
})
