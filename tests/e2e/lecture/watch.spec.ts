/** The learner's page: at one's own pace, in full screen, on a broken line, by keyboard, by a link in a message. */

import AxeBuilder from '@axe-core/playwright'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { isPaused, linkOf, published, stranger, timeOf } from '#tests/e2e/published.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = IS_LONG ? test : test.skip

declare global {
  interface Window {
    framesAskedFor?: number
  }
}

test('at the learner’s pace a slide stays until they go on, and nothing plays twice', async ({ browser, edition, server }) => {
  const { id, link } = edition
  const learner = await stranger(browser)
  await learner.goto(link)
  const times = schedule(await server.lecture(id)).slides
  const [first, second] = times
  await learner.getByLabel('Slide by slide, at your own pace').check()
  await learner.getByRole('button', { name: 'Begin' }).click()
  await expect.poll(() => timeOf(learner)).toBeGreaterThan(0.1)
  // near the first slide's end: it stops there and waits
  await learner.locator('video').evaluate((v: HTMLVideoElement, to) => {
    v.currentTime = to
  }, toSeconds(first!.lengthSamples) - 1)
  await learner.locator('video').evaluate((v: HTMLVideoElement) => v.play())
  await expect(learner.getByText('Go on when you are ready.', { exact: false })).toBeVisible()
  expect(await isPaused(learner)).toBe(true)
  const stopped = await timeOf(learner)
  expect(stopped).toBeLessThan(toSeconds(first!.lengthSamples))
  await learner.waitForTimeout(700)
  expect(await timeOf(learner)).toBe(stopped)

  // a page that looks late, because its machine is busy, goes back to the slide and waits as well
  await learner.getByRole('button', { name: 'Again' }).click()
  await expect(learner.getByText('Go on when you are ready.', { exact: false })).toHaveCount(0)
  await learner.locator('video').evaluate((v: HTMLVideoElement, to) => {
    v.currentTime = to
    v.addEventListener(
      'seeked',
      () => {
        for (const until = performance.now() + 2500; performance.now() < until; );
      },
      { once: true },
    )
  }, toSeconds(first!.lengthSamples) - 1)
  await expect(learner.getByText('Go on when you are ready.', { exact: false })).toBeVisible()
  expect(await isPaused(learner)).toBe(true)
  expect(await timeOf(learner)).toBeLessThan(toSeconds(first!.lengthSamples))

  await learner.getByRole('button', { name: 'Next' }).click()
  await expect.poll(() => timeOf(learner)).toBeGreaterThan(toSeconds(second!.startSamples) + 0.2)
  // early on: what is said stops, the next begins; only one player exists
  await learner.keyboard.press('ArrowRight')
  await expect.poll(() => timeOf(learner)).toBeGreaterThan(toSeconds(times[2]!.startSamples))
  await learner.getByRole('button', { name: 'Back' }).click()
  await expect.poll(() => timeOf(learner)).toBeLessThan(toSeconds(second!.startSamples) + 2)
  expect(await timeOf(learner)).toBeGreaterThanOrEqual(toSeconds(second!.startSamples))
  expect(await learner.locator('video, audio').count()).toBe(1)
  await expect(learner.getByText('Slide 2 of 4', { exact: false })).toBeVisible()
})

test('the page has the looks of all its buttons, though its style sheet is its own', async ({ browser, edition }) => {
  const learner = await stranger(browser)
  await learner.goto(edition.link)
  const look = learner.getByLabel('How captions look')
  await expect(look).toBeVisible()
  const { width, height } = (await look.boundingBox())!
  expect([width, height]).toEqual([32, 32])
  await expect(look).toHaveCSS('background-color', 'rgba(0, 0, 0, 0)')
  await learner.context().close()
})

test('where the browser blocks sound, a large control says so', async ({ browser, edition }) => {
  const { link } = edition
  const learner = await stranger(browser)
  await learner.addInitScript(() => {
    const play = HTMLMediaElement.prototype.play
    let blocked = true
    HTMLMediaElement.prototype.play = function () {
      if (!blocked) return play.call(this)
      blocked = false
      return Promise.reject(new DOMException('play() failed', 'NotAllowedError'))
    }
  })
  await learner.goto(link)
  await learner.getByRole('button', { name: 'Play', exact: true }).click()
  await learner.getByRole('button', { name: 'Go on, with sound' }).click()
  await expect.poll(() => timeOf(learner)).toBeGreaterThan(0.2)
  await expect(learner.getByRole('button', { name: 'Go on, with sound' })).toHaveCount(0)
})

test('the watch page is sound for every reader, wide and narrow, and remembers where one stopped', async ({
  browser,
  edition,
}) => {
  const { link } = edition
  for (const size of [
    { width: 1280, height: 800 },
    { width: 360, height: 740 },
  ]) {
    const learner = await stranger(browser, size)
    await learner.goto(link)
    await expect(learner.getByRole('button', { name: 'Begin' })).toBeVisible()
    const { violations } = await new AxeBuilder({ page: learner }).analyze()
    expect(violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.html).join(' ')}`)).toEqual([])
    expect(await learner.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(size.width)
  }
  const learner = await stranger(browser)
  await learner.goto(link)
  await learner.getByLabel('Speed').selectOption('1.5')
  await learner.getByLabel('Where you are in the lecture').fill('9')
  await expect.poll(() => timeOf(learner)).toBeGreaterThan(8)
  await learner.waitForTimeout(300)
  await learner.goto(link)
  await expect(learner.getByText('You stopped at 0:09 last time.', { exact: false })).toBeVisible()
  await expect.poll(() => learner.locator('video').evaluate((v: HTMLVideoElement) => v.playbackRate)).toBe(1.5)
  // who would rather begin again does so with one press
  await learner.getByRole('button', { name: 'Begin again' }).click()
  await expect.poll(() => timeOf(learner)).toBeLessThan(8)
  await expect.poll(() => isPaused(learner)).toBe(false)
  await expect(learner.getByText('last time', { exact: false })).toHaveCount(0)
})

test('full screen has captions, controls and the slides; they go when nobody moves, and come back', async ({
  browser,
  edition,
}) => {
  const learner = await stranger(browser)
  await learner.goto(edition.link)
  await learner.getByRole('button', { name: 'Begin' }).click()
  await learner.getByRole('button', { name: 'Full screen', exact: true }).click()
  const controls = learner.getByRole('region', { name: 'Controls' })
  await expect(controls).toHaveCSS('position', 'absolute')
  expect(
    await learner.evaluate(() => document.fullscreenElement?.contains(document.querySelector('[aria-label="Controls"]'))),
  ).toBe(true)
  expect(await controls.evaluate((element) => element.getBoundingClientRect().width)).toBe(1280)
  await learner.getByLabel('Slide', { exact: true }).selectOption('1')
  await expect(learner.getByTestId('caption')).toBeVisible()
  expect(
    await learner.evaluate(() => document.fullscreenElement?.contains(document.querySelector('[data-testid="caption"]'))),
  ).toBe(true)
  await learner.evaluate(() => (document.activeElement as HTMLElement).blur())
  await expect(controls).toHaveCSS('opacity', '0')
  await learner.mouse.move(300, 300)
  await learner.mouse.move(310, 310)
  await expect(controls).toHaveCSS('opacity', '1')
  // slide by slide it goes on from there
  // while the browser is between the two, a press may find neither
  await expect(async () => {
    if (await learner.getByRole('button', { name: 'Leave full screen' }).isVisible()) await learner.keyboard.press('f')
    await expect(learner.getByRole('button', { name: 'Full screen', exact: true })).toBeVisible({ timeout: 2000 })
  }).toPass()
  await learner.getByLabel('Slide by slide, at your own pace').check()
  await learner.getByRole('button', { name: 'Full screen', exact: true }).click()
  const number = async () => Number(/Slide (\d)/.exec(await learner.getByText(/^Slide \d of 4/).innerText())![1])
  const before = await number()
  await learner.getByRole('button', { name: 'Next' }).click()
  await expect.poll(number).toBe(before + 1)
  await learner.keyboard.press('Escape')
})

test('where nothing plays nothing is drawn: a page that is only open costs its reader no battery', async ({
  page,
  server,
  edition,
}) => {
  await page.addInitScript(() => {
    const ask = window.requestAnimationFrame.bind(window)
    window.requestAnimationFrame = (draw) => {
      window.framesAskedFor = (window.framesAskedFor ?? 0) + 1
      return ask(draw)
    }
  })
  const lecture = `${server.address}/lectures/${edition.id}`
  for (const [address, sign] of [
    [lecture, /^Play/],
    [`${lecture}/captions`, /^Play/],
    [edition.link, 'Begin'],
  ] as const) {
    await page.goto(address)
    await expect(page.getByRole('button', { name: sign }).first()).toBeVisible()
    const asked = async () => {
      const before = await page.evaluate(() => window.framesAskedFor ?? 0)
      await page.waitForTimeout(400)
      return (await page.evaluate(() => window.framesAskedFor ?? 0)) - before
    }
    await expect.poll(asked, { message: address, timeout: 10_000 }).toBe(0)
  }
})

test('a line that breaks is said, with a way on; so is a text that does not come', async ({ browser, edition }) => {
  const learner = await stranger(browser)
  let isBroken = true
  await learner.route(/\/files\/.*\.(mp4|webm|vtt)$/, (route) => (isBroken ? route.abort() : route.continue()))
  await learner.goto(edition.link)
  await expect(learner.getByText('The video cannot be loaded now.')).toBeVisible()
  await expect(learner.getByText('The text could not be loaded', { exact: false })).toBeVisible()
  isBroken = false
  await learner.getByRole('region', { name: 'Transcript' }).getByRole('button', { name: 'Try again' }).click()
  await expect(learner.getByRole('region', { name: 'Transcript' }).getByRole('link').first()).toBeVisible()
  await learner.getByRole('status').getByRole('button', { name: 'Try again' }).click()
  await expect.poll(() => timeOf(learner)).toBeGreaterThan(0.1)
  await expect(learner.getByText('The video cannot be loaded now.')).toHaveCount(0)
})

test('an address opens at its moment; captions stand beside the video for pictures in pictures; nothing large comes before play', async ({
  browser,
  edition,
}) => {
  const learner = await stranger(browser)
  await learner.goto(`${edition.link}#t=7`)
  await expect.poll(() => timeOf(learner)).toBeGreaterThan(6.9)
  expect(await timeOf(learner)).toBeLessThan(7.2)
  const video = learner.locator('video')
  expect(await video.getAttribute('preload')).toBe('metadata')
  const modes = () => video.evaluate((v: HTMLVideoElement) => [...v.textTracks].map((track) => `${track.language} ${track.mode}`))
  expect(await modes()).toEqual(['en-GB disabled'])
  await video.evaluate((v) => v.dispatchEvent(new Event('enterpictureinpicture')))
  expect(await modes()).toEqual(['en-GB showing'])
  await video.evaluate((v) => v.dispatchEvent(new Event('leavepictureinpicture')))
  expect(await modes()).toEqual(['en-GB disabled'])
  expect(await learner.evaluate(() => navigator.mediaSession.metadata?.title)).toBe(await learner.title())
})

test('what is said is found over the borders of captions, counted, and left alone while one reads elsewhere', async ({
  browser,
  edition,
}) => {
  const learner = await stranger(browser)
  await learner.goto(edition.link)
  const transcript = learner.getByRole('region', { name: 'Transcript' })
  const links = transcript.getByRole('link')
  await expect(links.nth(1)).toBeVisible()
  // the last word of one caption and the first of the next
  const [one, two] = (await links.allInnerTexts()) as [string, string]
  await transcript.getByRole('searchbox').fill(`${one.trim().split(' ').at(-1)} ${two.trim().split(' ')[0]}`.toUpperCase())
  await expect(transcript.getByText(/^\d+ places?$/)).toBeVisible()
  await expect(links.first()).toHaveText(one.trim())
  await transcript.getByRole('searchbox').fill('nobody says this')
  await expect(transcript.getByText('This is not said, and stands in no title.')).toBeVisible()
  // while another sentence is said, those that are found are one stop of the tab key all the same
  await links.first().waitFor({ state: 'detached' })
  await transcript.getByRole('searchbox').fill('')
  await links.nth(1).click()
  await transcript.getByRole('searchbox').fill(one.trim())
  await expect(links).toHaveCount(1)
  await learner.keyboard.press('Tab')
  await expect(links.first()).toBeFocused()
  await transcript.getByRole('searchbox').fill('')
  // arrows go from sentence to sentence, from the one that is said
  await expect(links.nth(1)).toBeVisible()
  await transcript.getByRole('searchbox').focus()
  await learner.keyboard.press('Tab')
  await expect(links.nth(1)).toBeFocused()
  await learner.keyboard.press('ArrowUp')
  await expect(links.first()).toBeFocused()
  await learner.mouse.move(1100, 400)
  await learner.mouse.wheel(0, 100)
  await transcript.getByRole('button', { name: 'Follow again' }).click()
  await expect(transcript.getByRole('button', { name: 'Follow again' })).toHaveCount(0)
})

test('slide by slide one seeks within the slide and comes to an end; letters as keys are turned off where they are in the way', async ({
  browser,
  edition,
  server,
}) => {
  const { id, link } = edition
  const learner = await stranger(browser)
  await learner.goto(link)
  await learner.getByLabel('Slide by slide, at your own pace').check()
  const times = schedule(await server.lecture(id)).slides
  const last = times.at(-1)!
  // by the list of slides to the last one, and within it to its end
  await learner.getByRole('navigation', { name: 'Slides of this lecture' }).getByRole('button').last().click()
  await expect(learner.getByText('Slide 4 of 4', { exact: false })).toBeVisible()
  const place = learner.getByLabel('Where you are in this slide')
  expect(Number(await place.getAttribute('min'))).toBeCloseTo(toSeconds(last.startSamples), 3)
  await place.fill(String(toSeconds(last.startSamples) + 1))
  await expect.poll(() => timeOf(learner)).toBeGreaterThan(toSeconds(last.startSamples) + 0.9)
  await learner.getByRole('button', { name: 'Play', exact: true }).click()
  await expect(learner.getByText('you have come to the end', { exact: false })).toBeVisible()
  await learner.getByRole('button', { name: 'From the beginning' }).click()
  await expect(learner.getByText('Slide 1 of 4', { exact: false })).toBeVisible()

  const captions = learner.getByLabel('Captions', { exact: true })
  await learner.locator('body').press('c')
  await expect(captions).toHaveValue('')
  await learner.getByText('Keys', { exact: true }).click()
  // with focus on nothing that takes letters for itself
  const press = async (key: string) => {
    await learner.evaluate(() => (document.activeElement as HTMLElement).blur())
    await learner.keyboard.press(key)
  }
  await learner.getByLabel('Single letters and signs work as keys').uncheck()
  await press('c')
  await learner.waitForTimeout(300)
  await expect(captions).toHaveValue('')
  await learner.getByLabel('Single letters and signs work as keys').check()
  await press('c')
  await expect(captions).toHaveValue('en-GB')
})

test('a message shows what a link opens, and a browser without scripts plays it', async ({
  browser,
  edition,
  server,
  request,
}) => {
  const source = await (await request.get(edition.link)).text()
  const { title } = await server.lecture(edition.id)
  expect(source).toContain(`<meta property="og:title" content="${title}" />`)
  expect(source).toMatch(/<meta property="og:image" content="http:\/\/localhost:\d+\/watch\/.+\/poster.jpg" \/>/)
  const plain = await (await browser.newContext({ javaScriptEnabled: false })).newPage()
  await plain.goto(edition.link)
  await expect(plain.getByRole('heading', { name: title })).toBeVisible()
  await expect(plain.locator('video track')).toHaveCount(1)
  expect(
    (
      await request.get(new URL((await plain.getByRole('link', { name: 'Transcript' }).getAttribute('href'))!, edition.link).href)
    ).ok(),
  ).toBe(true)
  expect(await (await request.get(`${edition.link}x`)).text()).not.toContain('og:title')
})

test('on a slow line the video comes first: one script, words with it, the edition asked for once, pictures of slides later', async ({
  browser,
  edition,
  request,
}) => {
  const learner = await stranger(browser)
  const asked: string[] = []
  learner.on('request', (r) => asked.push(new URL(r.url()).pathname))
  let letGo = () => {}
  const line = new Promise<void>((resolve) => {
    letGo = resolve
  })
  await learner.route(/\.(mp4|webm)$/, async (route) => {
    await line
    await route.continue()
  })
  await learner.goto(edition.link)
  await learner.getByRole('button', { name: 'Begin', exact: true }).click()
  await learner.waitForTimeout(1000)
  const pictures = () => asked.filter((path) => /slide-\d+\.webp$/.test(path)).length
  expect(pictures()).toBe(0)
  expect(asked.filter((path) => /\/assets\/watch-[^/]*\.js$/.test(path) && !path.includes('words'))).toHaveLength(1)
  expect(asked.filter((path) => path.endsWith('/edition'))).toHaveLength(1)
  letGo()
  await expect.poll(pictures).toBeGreaterThan(0)
  await expect.poll(() => timeOf(learner)).toBeGreaterThan(0.3)

  const french = await (await request.get(edition.link, { headers: { 'accept-language': 'it, fr-CH;q=0.9, en;q=0.5' } })).text()
  expect(french).toMatch(/<link rel="modulepreload" href="\/assets\/watch-words-fr-/)
})

longTest('a passcode is asked for; wrong ones are counted; the right one opens', async ({ browser, page, server }) => {
  await published(page, server)
  const link = await linkOf(page)
  await page.getByRole('button', { name: 'Settings' }).first().click()
  // too short is said, and set it is when the field is left
  await page.getByLabel('Passcode').fill('cum')
  await page.getByLabel('Passcode').blur()
  await expect(page.getByRole('alert')).toContainText('This one is not set')
  await expect(page.getByLabel('Passcode')).toHaveAccessibleDescription(/This one is not set/)
  await expect(page.getByText('All changes saved')).toHaveCount(0)
  await page.getByLabel('Passcode').fill('cumulus')
  await page.getByLabel('Passcode').blur()
  await expect(page.getByText('All changes saved')).toBeVisible()
  await expect(page.getByText('opens with its passcode', { exact: false })).toBeVisible()
  await page.getByLabel('the video').uncheck()
  await expect(page.getByLabel('the video')).not.toBeChecked()

  const learner = await stranger(browser)
  await learner.goto(link)
  await learner.getByLabel('Passcode').fill('stratus')
  await learner.getByRole('button', { name: 'Open' }).click()
  await expect(learner.getByRole('alert')).toContainText('This is not the passcode')
  await learner.getByLabel('Passcode').fill('cumulus')
  await learner.getByRole('button', { name: 'Open' }).click()
  await expect(learner.getByRole('button', { name: 'Begin' })).toBeVisible()
  await learner.reload()
  await expect(learner.getByRole('button', { name: 'Begin' })).toBeVisible()
  await learner.getByText('Download', { exact: true }).click()
  await expect(learner.getByRole('link', { name: /Captions, English, WebVTT|Sound alone, M4A/ }).first()).toBeVisible()
  await expect(learner.getByRole('link', { name: /^Video/ })).toHaveCount(0)
})
