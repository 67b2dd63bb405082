/** Decks as teachers have them: one drop of everything, a new version later, and all of it out again. */

import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import AxeBuilder from '@axe-core/playwright'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { keptTake } from '#core/model/kept-take.ts'
import { demoPath, drop } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { madeTake } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = IS_LONG ? test : test.skip

const deck = (...slides: [string, string][]) =>
  slides.map(([title, text]) => `# ${title}\n\n${text}\n\nNotes: What is said of ${title}.\n`).join('\n---\n\n')

longTest(
  'one drop of a deck and its sounds is a narrated lecture; a new version keeps the voice; a bundle brings it back',
  async ({ page, server }) => {
    const folder = mkdtempSync(join(tmpdir(), 'lectern-decks-'))
    const at = (name: string, content: string | Uint8Array) => {
      writeFileSync(join(folder, name), content)
      return join(folder, name)
    }
    try {
      const voice = writeWav(toInt16(madeTake().samples), 48_000)
      // of two microphones the right one was never plugged in
      const sound = execFileSync('ffmpeg', ['-v', 'error', '-i', '-', '-af', 'pan=stereo|c0=c0', '-f', 'wav', '-'], {
        input: voice,
        maxBuffer: 1e8,
      })
      await page.goto(server.address)
      await drop(
        page,
        at('talk.md', deck(['Rain', 'falls on hills'], ['Gauges', 'are made of copper'])),
        at('slide 2.wav', sound),
      )
      await expect(page.getByRole('listitem', { name: 'Slide 1: Rain' })).toBeVisible()
      await expect(page.getByText('Only the left channel of “slide 2.wav” carries sound; it was taken alone.')).toBeVisible()
      const id = page.url().split('/').at(-1)!
      await expect.poll(async () => keptTake((await server.lecture(id)).slides[1]!)?.clip ?? null).not.toBeNull()
      expect((await server.lecture(id)).slides[0]!.script).toBe('What is said of Rain.')

      // the same deck as a presentation file, with another look and one more slide
      const { default: Pptx } = await import('pptxgenjs')
      const fresh = new (Pptx as unknown as { new (): import('pptxgenjs').default })()
      for (const [title, text] of [
        ['Rain', 'falls on hills'],
        ['Gauges', 'are made of copper'],
        ['Hail', 'breaks windows'],
      ] as const) {
        const slide = fresh.addSlide()
        slide.addText(title, { x: 1, y: 0.5, w: 8, h: 1, fontSize: 40 })
        slide.addText(text, { x: 1, y: 2, w: 8, h: 1, fontSize: 24 })
      }
      await drop(page, at('talk.pptx', (await fresh.write({ outputType: 'nodebuffer' })) as Buffer))
      const dialog = page.getByRole('dialog', { name: 'The new deck beside this lecture' })
      await expect(dialog).toBeVisible()
      await expect(dialog.getByRole('region', { name: 'Changed slides' }).getByRole('checkbox')).toHaveCount(2)
      await expect(dialog.getByText('Hail, after 2. Gauges')).toBeVisible()
      expect((await new AxeBuilder({ page }).setLegacyMode(true).include('[role=dialog]').analyze()).violations).toEqual([])
      const before = (await server.lecture(id)).slides[1]!
      await dialog.getByRole('button', { name: 'Take it over' }).click()
      await expect(page.getByRole('listitem', { name: 'Slide 3: Hail' })).toBeVisible()
      const after = (await server.lecture(id)).slides[1]!
      expect(after.keptTakeId).toBe(before.keptTakeId)
      expect(after.steps[0]!.picture).not.toBe(before.steps[0]!.picture)
      await page.locator('main').click({ position: { x: 5, y: 5 } })
      await page.keyboard.press('Control+z')
      await expect.poll(async () => (await server.lecture(id)).slides.length).toBe(2)
      expect((await server.lecture(id)).slides[1]!.steps[0]!.picture).toBe(before.steps[0]!.picture)

      await page.goto(`${server.address}/lectures/${id}/publish`)
      await page.getByText('Take it away').click()
      const [bundle] = await Promise.all([
        page.waitForEvent('download'),
        page.getByRole('link', { name: 'The whole lecture as one bundle' }).click(),
      ])
      const path = join(folder, bundle.suggestedFilename())
      await bundle.saveAs(path)
      const [times] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Times, CSV' }).click()])
      expect(times.suggestedFilename()).toContain('timings.csv')
      await page.goto(server.address)
      await drop(page, path)
      await expect(page).not.toHaveURL(server.address)
      await expect(page.getByRole('listitem', { name: 'Slide 2: Gauges' })).toBeVisible()
      const copy = page.url().split('/').at(-1)!
      expect(copy).not.toBe(id)
      expect((await server.lecture(copy)).slides[1]!.takes).toHaveLength(1)
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
  },
)

longTest('where the PDF of a deck differs, its pages stand beside the drawing to choose from', async ({ page, server }) => {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-differs-'))
  try {
    const written = join(folder, 'clouds.md')
    writeFileSync(written, deck(['Clouds by their shapes', 'an evening'], ['Rain in the gauge', 'and how deep it stands']))
    await page.goto(server.address)
    await drop(page, written, demoPath('clouds-by-their-shapes.pdf'))
    await expect(page.getByRole('listitem', { name: 'Slide 2: Rain in the gauge' })).toBeVisible()
    const id = page.url().split('/').at(-1)!
    const [, second] = (await server.lecture(id)).slides
    expect(second!.offered.length).toBeGreaterThan(1)
    await page.goto(`${server.address}/lectures/${id}/slides/${second!.id}`)
    const choice = page.getByRole('region', { name: 'Which picture is right?' })
    await expect(choice.getByRole('img')).toHaveCount(1 + second!.offered.length)
    expect(
      (await new AxeBuilder({ page }).setLegacyMode(true).include('[aria-label="Which picture is right?"]').analyze()).violations,
    ).toEqual([])
    await choice.getByRole('button', { name: 'Take this one' }).first().click()
    await expect(choice).toHaveCount(0)
    const shown = async () => (await server.lecture(id)).slides[1]!.steps[0]!.picture
    await expect.poll(shown).toBe(second!.offered[0]!.picture)
    await page.keyboard.press('Control+z')
    await expect(choice).toBeVisible()
    await expect.poll(shown).toBe(second!.steps[0]!.picture)

    // a section that begins here stands over its row, and over its slide for learners
    await page.getByLabel(/^Section/).fill('In the garden')
    await page.getByLabel(/^Section/).blur()
    await expect(page.getByRole('heading', { name: 'In the garden' })).toBeVisible()
    await expect.poll(async () => (await server.lecture(id)).slides[1]!.section).toBe('In the garden')
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
})

test('slides that could not be drawn whole are found, and pages of the PDF take their place, on those slides alone', async ({
  page,
  server,
}) => {
  const { default: Pptx } = await import('pptxgenjs')
  const made = new (Pptx as unknown as { new (): import('pptxgenjs').default })()
  for (const title of ['Clouds by their shapes', 'High: thin and white', 'Middle: sheets and rolls', 'Low: heaps and grey'])
    made.addSlide().addText(title, { x: 1, y: 0.5, w: 8, h: 1, fontSize: 40 })
  const parts = unzipSync(new Uint8Array((await made.write({ outputType: 'nodebuffer' })) as Buffer))
  const name = 'ppt/slides/slide1.xml'
  const frame =
    '<p:graphicFrame><p:nvGraphicFramePr><p:cNvPr id="90" name="d"/><p:cNvGraphicFramePr/><p:nvPr/></p:nvGraphicFramePr><p:xfrm><a:off x="0" y="0"/><a:ext cx="914400" cy="914400"/></p:xfrm><a:graphic><a:graphicData uri="http://schemas.openxmlformats.org/drawingml/2006/diagram"/></a:graphic></p:graphicFrame>'
  parts[name] = strToU8(strFromU8(parts[name]!).replace('</p:spTree>', `${frame}</p:spTree>`))
  const folder = mkdtempSync(join(tmpdir(), 'lectern-decks-'))
  try {
    const deckFile = join(folder, 'clouds.pptx')
    writeFileSync(deckFile, zipSync(parts))
    await page.goto(server.address)
    await drop(page, deckFile)
    await expect(page.getByRole('listitem', { name: 'Slide 1: Clouds by their shapes' })).toBeVisible()
    const id = page.url().split('/').at(-1)!
    const before = await server.lecture(id)
    expect(before.slides[0]!.warnings).toHaveLength(1)
    await page.getByRole('radio', { name: 'Not all drawn 1' }).check({ force: true })
    await expect(page.getByRole('listitem', { name: /^Slide \d/ })).toHaveCount(1)
    const choosing = page.waitForEvent('filechooser')
    await page.getByRole('button', { name: 'Choose the PDF' }).click()
    await (await choosing).setFiles(demoPath('clouds-by-their-shapes.pdf'))
    const dialog = page.getByRole('dialog', { name: 'The new deck beside this lecture' })
    await expect(dialog.getByRole('checkbox', { checked: true })).toHaveCount(1)
    await dialog.getByRole('button', { name: 'Take it over' }).click()
    await expect(dialog).toBeHidden()
    await expect(page.getByText('No slide is like this any more.')).toBeVisible()
    const now = await server.lecture(id)
    const pictures = (lecture: typeof now) => lecture.slides.map((slide) => slide.steps[0]!.picture)
    expect(now.slides[0]!.warnings).toEqual([])
    expect(pictures(now)[0]).not.toBe(pictures(before)[0])
    expect(pictures(now).slice(1)).toEqual(pictures(before).slice(1))
    expect(now.slides.map((slide) => slide.title)).toEqual(before.slides.map((slide) => slide.title))
    await page.keyboard.press('Control+z')
    await expect.poll(async () => (await server.lecture(id)).slides[0]!.warnings.length).toBe(1)
    expect(pictures(await server.lecture(id))).toEqual(pictures(before))
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
})
