/** The captions page: edited as text and on the sound, files in and out, other languages, and what learners see of it. */

import { readFileSync, writeFileSync } from 'node:fs'
import type { Page } from '@playwright/test'
import { cuesOnLecture } from '#core/captions/tracks/place-cues.ts'
import type { CaptionTrack } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { DEMO_SLIDES } from '#demo/lecture.ts'
import { demoPath, drop, openClouds, recordByApi, type TestServer } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { lay, noise, seconds, voice } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = IS_LONG ? test : test.skip

const script = DEMO_SLIDES[2]!.script

/** A lecture whose first slide has a real voice saying its script, the captions on their words. */
async function spoken(page: Page, server: TestServer): Promise<string> {
  const id = await openClouds(page, server)
  const slideId = (await server.lecture(id)).slides[0]!.id
  await fetch(`${server.address}/api/slides/${slideId}`, {
    method: 'PATCH',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ script }),
  })
  const form = new FormData()
  form.append('file', new File([readFileSync(demoPath('take-3a.flac'))], 'take.flac'))
  await fetch(`${server.address}/api/slides/${slideId}/sounds`, { method: 'POST', body: form })
  await expect.poll(async () => (await server.lecture(id)).slides[0]!.takes[0]?.findings ?? null).not.toBeNull()
  await page.goto(`${server.address}/lectures/${id}/captions`)
  return id
}
const track = (lecture: Lecture, which: (t: CaptionTrack) => boolean) => lecture.captionTracks.find(which)!
const fromScripts = async (server: TestServer, id: string) => track(await server.lecture(id), (t) => t.origin === 'script')
const texts = async (server: TestServer, id: string) =>
  (await fromScripts(server, id)).cues.map((cue) => cue.text.replaceAll('\n', ' '))
const fields = (page: Page) => page.getByRole('textbox', { name: /^Caption at/ })
const exported = async (server: TestServer, id: string, trackId: string, format = 'vtt') =>
  (await fetch(`${server.address}/api/lectures/${id}/captions/${trackId}.${format}`)).text()

test('captions are edited, divided, joined and moved; the script follows; undo takes each back', async ({ page, server }) => {
  const id = await spoken(page, server)
  const before = await texts(server, id)
  const first = fields(page).first()
  await first.fill('Find an open spot.')
  await page.getByRole('heading', { name: 'Languages' }).click()
  await expect.poll(async () => (await texts(server, id))[0]).toBe('Find an open spot.')
  expect((await server.lecture(id)).slides[0]!.script.startsWith('Find an open spot.')).toBe(true)
  await page.keyboard.press('Control+z')
  await expect.poll(() => texts(server, id)).toEqual(before)
  expect((await server.lecture(id)).slides[0]!.script).toBe(script)

  // divided where the cursor stands, the second part stands on its own words; joined it is one again
  const second = fields(page).nth(1)
  await second.focus()
  const half = await second.evaluate((field: HTMLTextAreaElement) => {
    const at = field.value.indexOf(' ', field.value.length / 2)
    field.setSelectionRange(at, at)
    return field.value.slice(0, at).replaceAll('\n', ' ')
  })
  await second.press('Control+Enter')
  await expect.poll(async () => (await texts(server, id))[1]).toBe(half)
  expect(await texts(server, id)).toHaveLength(before.length + 1)
  await fields(page).nth(1).focus()
  await page.getByRole('button', { name: 'Join with the next' }).click()
  await expect.poll(() => texts(server, id)).toEqual(before)

  // moved by keys and on its sound
  const start = async () => (await fromScripts(server, id)).cues[1]!.start
  const stood = await start()
  await fields(page).nth(1).focus()
  await fields(page).nth(1).press('Alt+ArrowRight')
  await expect.poll(start).toBeCloseTo(stood + 0.1, 3)
  const edge = page.getByRole('button', { name: /^Comes at/ })
  const box = (await edge.boundingBox())!
  await page.mouse.move(box.x + box.width / 2, box.y + 20)
  await page.mouse.down()
  await page.mouse.move(box.x + box.width / 2 + 25, box.y + 20, { steps: 4 })
  await page.mouse.up()
  await expect.poll(start).toBeGreaterThan(stood + 0.15)
  await page.getByRole('button', { name: 'Time them by the voice again' }).click()
  await expect.poll(start).toBeCloseTo(stood, 3)

  // found, replaced everywhere, and said who speaks
  await page.getByLabel('Find in the captions').fill('the')
  await page.getByLabel('Put in its place').fill('THE')
  await page.getByRole('button', { name: 'Replace all' }).click()
  await expect.poll(async () => (await texts(server, id)).join(' ')).toContain('THE')
  await page.keyboard.press('Control+z')
  await expect.poll(() => texts(server, id)).toEqual(before)
  await fields(page).first().focus()
  await page.getByLabel('Who speaks').fill('Ada')
  await page.getByLabel('Who speaks').blur()
  await expect.poll(async () => exported(server, id, (await fromScripts(server, id)).id)).toContain('<v Ada>')
})

longTest(
  'exported and attached again they are the same; French and Arabic beside them reach the learners on time',
  async ({ page, server }, info) => {
    const id = await spoken(page, server)
    const scripts = await fromScripts(server, id)
    const vtt = await exported(server, id, scripts.id)
    const saved = info.outputPath('lecture.en.vtt')
    writeFileSync(saved, vtt)
    await drop(page, saved)
    const dialog = page.getByRole('dialog', { name: 'Attach “lecture.en.vtt”' })
    await expect(dialog.getByLabel('In which language is it?')).toHaveValue('en')
    await dialog.getByRole('button', { name: 'Attach it' }).click()
    await expect(page.getByText('attached.', { exact: false })).toBeVisible()
    const attached = track(await server.lecture(id), (t) => t.origin === 'file')
    expect(await exported(server, id, attached.id)).toBe(vtt)

    // in the lecture's own language it would take the place of captions from the scripts: that is asked
    const taking = info.outputPath('again.en-GB.vtt')
    writeFileSync(taking, vtt)
    await drop(page, taking)
    const question = page.getByRole('dialog', { name: 'Attach “again.en-GB.vtt”' })
    await expect(question.getByRole('alert')).toContainText('from its scripts. Learners would get the')
    await expect(question.getByRole('button', { name: 'Attach it' })).toBeDisabled()
    await question.getByLabel('Publish this file instead').check()
    await expect(question.getByRole('button', { name: 'Attach it' })).toBeEnabled()
    await question.getByRole('button', { name: 'Leave it' }).click()

    // a file whose name says nothing is known by its text, and takes no other language's place
    const nameless = info.outputPath('4.srt')
    writeFileSync(nameless, '1\n00:00:01,000 --> 00:00:03,000\nLes nuages ont des noms, et les plus hauts sont fins et blancs.\n')
    await drop(page, nameless)
    const asked = page.getByRole('dialog', { name: 'Attach “4.srt”' })
    await expect(asked.getByLabel('In which language is it?')).toHaveValue('fr')
    await expect(asked.getByRole('button', { name: 'Attach it' })).toBeEnabled()
    await asked.getByRole('button', { name: 'Leave it' }).click()

    const french = info.outputPath('lecture.fr.srt')
    writeFileSync(french, '1\n00:00:01,000 --> 00:00:03,000\nChoisissez un endroit dégagé.\n')
    await drop(page, french)
    await page.getByRole('dialog', { name: 'Attach “lecture.fr.srt”' }).getByRole('button', { name: 'Attach it' }).click()
    await expect(page.getByRole('radio', { name: /^French/ })).toBeChecked()

    await page.getByRole('button', { name: 'Translate' }).click()
    const begin = page.getByRole('dialog', { name: 'Translate the captions' })
    await begin.getByLabel('Into which language?').selectOption('ar')
    await begin.getByRole('button', { name: 'Begin' }).click()
    const field = page.getByRole('textbox', { name: /^In Arabic, caption at/ }).first()
    await field.fill('اختر مكانا مفتوحا.')
    await field.blur()
    await expect(page.getByText(`1 of ${scripts.cues.length} captions translated`, { exact: false })).toBeVisible()
    expect(await field.evaluate((f) => getComputedStyle(f).direction)).toBe('rtl')

    // shown at once, kept a moment later
    const arabic = async () => (await server.lecture(id)).captionTracks.find((t) => t.language === 'ar')?.cues[0]?.text
    await expect.poll(arabic).toBe('اختر مكانا مفتوحا.')
    await fetch(`${server.address}/api/lectures/${id}/editions`, { method: 'POST' })
    const links = async () =>
      ((await (await fetch(`${server.address}/api/lectures/${id}/editions`)).json()) as { links: { token: string }[] }).links
    await expect.poll(async () => (await links()).length).toBe(1)
    await page.goto(`${server.address}/watch/${(await links())[0]!.token}`)
    const lecture = await server.lecture(id)
    // each caption is there from its start to its end, to a tenth of a second
    for (const [language, tracked] of [
      ['en', attached],
      ['ar', track(lecture, (t) => t.language === 'ar')],
      ['fr', track(lecture, (t) => t.language === 'fr')],
    ] as const) {
      await page.getByLabel('Captions', { exact: true }).selectOption(language)
      const [cue] = cuesOnLecture(lecture, tracked.cues)
      const at = async (moment: number) => {
        await page.evaluate((seconds) => {
          document.querySelector('video')!.currentTime = seconds
        }, moment)
        return page.getByTestId('caption')
      }
      await expect(await at(cue!.start + 0.1)).toHaveText(cue!.text)
      await expect(await at(cue!.end - 0.1)).toHaveText(cue!.text)
      if (cue!.start > 0.2) await expect(await at(cue!.start - 0.1)).toHaveCount(0)
    }
  },
)

longTest('without a script captions are typed by ear, in loops, and can become the script', async ({ page, server }) => {
  const id = await openClouds(page, server)
  const { slides } = await server.lecture(id)
  const sound = noise(0.002, seconds(7), 3)
  lay(sound, voice(0.3, seconds(2), 1), seconds(0.5))
  lay(sound, voice(0.3, seconds(2.5), 2), seconds(3.5))
  await recordByApi(server, slides[0]!.id, sound)
  await expect.poll(async () => (await server.lecture(id)).slides[0]!.takes[0]?.clip ?? null).not.toBeNull()
  await page.goto(`${server.address}/lectures/${id}/captions`)
  await page.getByRole('button', { name: 'Type them by ear' }).click()
  await expect(page.getByText('2 to check')).toBeVisible()
  // in a loop, as one likes to who does not want to be led
  await page.getByLabel(/^typing by ear/).uncheck()
  await fields(page).first().focus()
  await page.getByRole('button', { name: 'Over and over' }).click()
  const now = page.getByRole('region', { name: 'Play the lecture' }).locator('strong')
  // past the end of the first stretch it begins again
  await page.waitForTimeout(3500)
  const shown = Number(/(\d+)\.(\d)/.exec((await now.textContent())!)![0].replace(':', '.'))
  expect(shown).toBeLessThan(3.4)
  await fields(page).first().fill('High clouds are thin.')
  await fields(page).first().press('Alt+ArrowDown')
  await expect(fields(page).nth(1)).toBeFocused()
  await page.keyboard.type('Low clouds are grey.')
  await page.getByRole('button', { name: 'Pause the lecture' }).click()
  await expect(page.getByText('Nothing to check')).toBeVisible()
  await page.getByRole('button', { name: 'Make this the script' }).click()
  await expect.poll(async () => (await server.lecture(id)).slides[0]!.script).toBe('High clouds are thin. Low clouds are grey.')
  await expect.poll(() => texts(server, id)).toEqual(['High clouds are thin.', 'Low clouds are grey.'])
})

longTest(
  'one sentence is said again and stands in its place; what was before stays among the takes',
  async ({ page, server }) => {
    const id = await spoken(page, server)
    const before = (await server.lecture(id)).slides[0]!
    const kept = before.takes[0]!
    const sentence = (await fromScripts(server, id)).cues[2]!
    await fields(page).nth(2).focus()
    await page.getByRole('link', { name: 'Say the sentence again' }).click()
    await expect(page.getByRole('region', { name: 'Say this sentence again' })).toContainText(sentence.scriptText)
    await page.getByLabel('Microphone').selectOption('Practice microphone')
    await expect(page.getByRole('button', { name: /^Record/ })).toBeEnabled()
    await page.keyboard.press('r')
    await expect(page.getByRole('button', { name: /^Stop/ })).toBeVisible()
    await page.waitForTimeout(4000)
    await page.keyboard.press('r')
    await expect(page.getByText('The sentence is in its place.', { exact: false })).toBeVisible()
    await expect
      .poll(async () => {
        const slide = (await server.lecture(id)).slides[0]!
        return slide.takes.find((take) => take.id === slide.keptTakeId)?.microphone
      })
      .toMatch(/a sentence said again$/)
    const { takes } = (await server.lecture(id)).slides[0]!
    expect(takes).toHaveLength(3)
    expect(takes.some((take) => take.id === kept.id)).toBe(true)
    // what came before the sentence is the same, to the sample
    const samples = async (takeId: string) =>
      Buffer.from(await (await fetch(`${server.address}/api/takes/${takeId}/samples?start=0&end=48000`)).arrayBuffer())
    expect(sentence.start).toBeGreaterThan(1.5)
    expect((await samples(takes[0]!.id)).equals(await samples(kept.id))).toBe(true)
  },
)
