/** Takes the pictures in docs/screenshots of a running demo. Usage: npm run screenshots -- [address] [folder]; of a demo school with --school after them */
import { mkdirSync } from 'node:fs'
import { chromium, type Page } from '@playwright/test'
import { SCHOOL_PASSWORD } from '#demo/school.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { readSound } from '#server/media/read-sound.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { makeVoiceLinkOver, recordByLinkOver } from '#tests/support/recording.ts'

const [address = 'http://localhost:4870', folder = 'docs/screenshots', kind] = process.argv.slice(2)
mkdirSync(folder, { recursive: true })
const browser = await chromium.launch(BROWSER)
const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, locale: 'en-GB', permissions: ['microphone'] })
const page = await context.newPage()
page.on('console', (message) => message.type() === 'error' && console.error('page:', message.text()))
page.on('pageerror', (error) => console.error('page:', error.message))
const shoot = async (name: string, where: Page = page) => {
  await where.waitForTimeout(500)
  await where.screenshot({ path: `${folder}/${name}.png` })
}
async function signIn(email: string) {
  await context.clearCookies()
  await page.goto(address)
  await page.getByLabel('E-mail address').fill(email)
  await page.getByLabel('Password').fill(SCHOOL_PASSWORD)
  await page.getByRole('button', { name: 'Sign in', exact: true }).click()
  await page.getByRole('button', { name: /^Signed in as/ }).waitFor()
}

async function shootSchool() {
  await page.goto(address)
  await page.getByLabel('E-mail address').waitFor()
  await shoot('sign-in')
  await signIn('ines@school.example')
  await page.goto(`${address}/people`)
  await page.getByRole('row', { name: /Mira Holt/ }).waitFor()
  await shoot('people')
  await page.goto(`${address}/upkeep`)
  await page.getByRole('img', { name: 'Hours recorded, by person' }).waitFor()
  await shoot('upkeep')
  await signIn('mira@school.example')
  await page.goto(`${address}/spaces`)
  await page.getByRole('heading', { name: 'Weather, year 7' }).waitFor()
  await shoot('spaces')
  await page.goto(address)
  await page.getByRole('list', { name: 'Lectures' }).getByRole('link').first().click()
  await page.getByRole('button', { name: 'Comments on slide 4: 1 open' }).click()
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Hear it from/ })
    .waitFor()
  await shoot('comments')
}

/** From the shelf to the page of learners. @returns the lecture's address */
async function shootLecture(): Promise<string> {
  await page.goto(address)
  const first = page.getByRole('list', { name: 'Lectures' }).getByRole('link').first()
  await first.waitFor()
  await shoot('shelf')
  await first.click()
  await page.getByRole('list', { name: 'Slides' }).waitFor()
  const lecture = page.url()
  await shoot('sheet')
  await page
    .getByRole('listitem', { name: /^Slide 2/ })
    .getByRole('link')
    .click()
  await page.getByRole('region', { name: 'Bench of slide 2' }).waitFor()
  await page.getByRole('listitem', { name: /^Slide 2/ }).scrollIntoViewIfNeeded()
  await shoot('bench')
  await page.goto(`${lecture}/slips`)
  await page.getByRole('region', { name: 'Said twice' }).waitFor()
  await shoot('slips')
  await page.goto(`${lecture}/captions`)
  await page
    .getByRole('textbox', { name: /^Caption at/ })
    .nth(3)
    .focus()
  await shoot('captions')
  await page.goto(`${lecture}/sound`)
  await page.getByRole('table').waitFor()
  await shoot('sound')
  await page.goto(`${lecture}/publish`)
  await page.getByRole('button', { name: /^Make edition/ }).waitFor()
  if ((await page.getByRole('link', { name: 'First link' }).count()) === 0) {
    await page.getByRole('button', { name: /^Make edition/ }).click()
    await page.getByRole('link', { name: 'First link' }).waitFor({ timeout: 60_000 })
  }
  await shoot('publish')
  const watching = await context.newPage()
  await watching.goto((await page.getByRole('link', { name: 'First link' }).getAttribute('href'))!)
  await watching.getByRole('button', { name: /What is inside/ }).click()
  await watching.waitForTimeout(1500)
  await watching.getByLabel('Where you are in the lecture').fill('18')
  await watching.waitForTimeout(1000)
  await shoot('watch', watching)
  return lecture
}

/** A guest who was invited, and a class that read. */
async function shootVoices(lecture: string) {
  const id = lecture.split('/').at(-1)!
  const { slides } = (await (await fetch(`${address}/api/lectures/${id}`)).json()) as { slides: { id: string }[] }
  const ids = slides.map((slide) => slide.id)
  const read = async (name: string) => (await readSound(ffmpegAt('ffmpeg'), `demo/files/${name}.flac`)).samples
  const class7 = await makeVoiceLinkOver(address, id, 'class', 'Class 7b', [ids[1]!, ids[2]!])
  await recordByLinkOver(address, class7, 'Ada Example', ids[1]!, await read('take-2b'))
  await recordByLinkOver(address, class7, 'Bo Muster', ids[2]!, await read('take-3a'))
  await page.goto(`${lecture}/answers/${class7}`)
  await page.getByText('correct words/min').nth(1).waitFor({ timeout: 120_000 })
  await shoot('answers')
  const guest = await makeVoiceLinkOver(address, id, 'guest', 'A guest', [ids[2]!, ids[3]!, ids[4]!])
  await page.goto(`${address}/record/${guest}`)
  await page.getByLabel('Your name').fill('Ada Example')
  await page.getByRole('button', { name: 'To the booth' }).click()
  await page.evaluate(() => localStorage.setItem('countdown', '0'))
  await page.getByLabel('Microphone').selectOption('Practice microphone')
  await page.getByRole('button', { name: /^Record/ }).waitFor()
  await page.waitForTimeout(1000)
  await page.keyboard.press('r')
  await page.waitForTimeout(4000)
  await page.keyboard.press('r')
  await page.getByRole('button', { name: 'Send recording 1' }).waitFor()
  await shoot('guest-booth')
}

async function shootRecording(lecture: string) {
  await page.goto(`${lecture}/booth`)
  await page.getByLabel('Microphone').selectOption('Practice microphone')
  await page.getByRole('button', { name: /^Record/ }).waitFor()
  await page.getByLabel('Camera', { exact: true }).selectOption({ label: 'Practice camera' })
  await page.waitForTimeout(2500)
  await shoot('booth')
  await page.getByLabel('Camera', { exact: true }).selectOption('none')
  await page.getByRole('button', { name: 'Try it out' }).click()
  const check = page.getByRole('dialog', { name: 'Try the microphone' })
  for (const scene of ['quiet room', 'beside a fan']) {
    await check.getByRole('combobox', { name: 'Practice scene' }).selectOption(scene)
    await check.getByRole('button', { name: /^Listen for/ }).click()
    await check.getByRole('heading', { name: `Practice microphone, ${scene}` }).waitFor()
  }
  await shoot('microphone')
  await check.getByRole('button', { name: 'Done' }).click()
  // the last four slides, straight through, and how that was divided
  await page.evaluate(() => localStorage.setItem('countdown', '0'))
  await page.goto(`${lecture}/booth?how=through`)
  await page.getByLabel('Microphone').selectOption('Practice microphone')
  await page.getByRole('button', { name: /^Record/ }).waitFor()
  await page.waitForTimeout(500)
  await page.keyboard.press('r')
  for (let n = 0; n < 3; n++) {
    await page.waitForTimeout(7000)
    await page.keyboard.press('ArrowLeft')
  }
  await page.waitForTimeout(7000)
  await page.keyboard.press('r')
  await page.getByRole('link', { name: 'See and move them' }).click({ timeout: 60_000 })
  await page.getByRole('group', { name: 'Changes of slide over the recording' }).waitFor()
  await page.waitForTimeout(1000)
  await shoot('divide')
  await page.goto(`${address}/settings`)
  await page.getByRole('heading', { name: 'Settings' }).waitFor()
  await shoot('settings')
}

try {
  if (kind === '--school') await shootSchool()
  else {
    const lecture = await shootLecture()
    await shootVoices(lecture)
    await shootRecording(lecture)
  }
} finally {
  await browser.close()
}
