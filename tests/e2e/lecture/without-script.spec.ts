/** Captions where there is no script: a draft by listening, and typing by ear. */

import { readFileSync } from 'node:fs'
import type { Page } from '@playwright/test'
import { DEMO_SLIDES } from '#demo/lecture.ts'
import { demoPath, openClouds, type TestServer } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = IS_LONG ? test : test.skip

const SAID = DEMO_SLIDES[6]!.script
const fields = (page: Page) => page.getByRole('textbox', { name: /^Caption at/ })
const bare = (text: string) =>
  text
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim()

/** A lecture whose first slide has a real voice and no script. */
async function unscripted(page: Page, server: TestServer): Promise<string> {
  const id = await openClouds(page, server)
  const slideId = (await server.lecture(id)).slides[0]!.id
  const form = new FormData()
  form.append('file', new File([readFileSync(demoPath('take-7a.flac'))], 'take.flac'))
  await fetch(`${server.address}/api/slides/${slideId}/sounds`, { method: 'POST', body: form })
  await expect.poll(async () => (await server.lecture(id)).slides[0]!.takes[0]?.clip ?? null).not.toBeNull()
  await page.goto(`${server.address}/lectures/${id}/captions`)
  return id
}
const cuesOf = async (server: TestServer, id: string) =>
  (await server.lecture(id)).captionTracks.find((t) => t.origin === 'script')!.cues

longTest('a draft is heard, checked caption by caption from the keyboard, and becomes the script', async ({ page, server }) => {
  const id = await unscripted(page, server)
  const draft = page.getByRole('button', { name: 'Draft them by listening' })
  await expect(draft).toHaveAttribute('title', /knows the texts of the demo/)
  await draft.click()
  await expect(page.getByText(/captions heard, not checked/)).toBeVisible()
  const count = (await cuesOf(server, id)).length
  await expect(page.getByText(`${count} captions heard, not checked`)).toBeVisible()
  await expect(page.getByRole('button', { name: `${count} to check` })).toBeVisible()
  // it is no script before somebody has looked at it, and Publish tells
  await expect(page.getByRole('button', { name: 'Make this the script' })).toHaveCount(0)
  const lecture = await server.lecture(id)
  expect(lecture.slides[0]!.script).toBe('')
  // one is corrected, the others are right: one press each
  await fields(page).first().focus()
  await page.keyboard.press('Control+a')
  await page.keyboard.type('Seven weeks of figures.')
  for (let n = 0; n < count; n++) await page.keyboard.press('Alt+Enter')
  await expect(page.getByText(/heard, not checked/)).toHaveCount(0)
  await expect.poll(async () => (await cuesOf(server, id)).filter((cue) => cue.needsReview).length).toBe(0)
  expect((await cuesOf(server, id))[0]!.text).toBe('Seven weeks of figures.')
  await page.getByRole('button', { name: 'Make this the script' }).click()
  await expect.poll(async () => (await server.lecture(id)).slides[0]!.script).toContain('Seven weeks of figures.')
  const script = bare((await server.lecture(id)).slides[0]!.script).split(' ')
  expect(script.filter((word) => bare(SAID).split(' ').includes(word)).length / script.length).toBeGreaterThan(0.85)
})

test('typed by ear a phrase plays by itself and waits, Enter goes on, and words are guessed', async ({ page, server }) => {
  const id = await unscripted(page, server)
  await fetch(`${server.address}/api/slides/${(await server.lecture(id)).slides[1]!.id}`, {
    method: 'PATCH',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ script: 'These figures make one picture.' }),
  })
  await page.getByRole('button', { name: 'Type them by ear' }).click()
  const first = fields(page).first()
  await expect(first).toBeFocused()
  // it plays at once, and stops at the end of the phrase
  await expect(page.getByRole('button', { name: 'Pause the lecture' })).toBeVisible()
  await page.keyboard.type('Seven weeks of small fig')
  await expect(page.getByText('Tab writes figures')).toBeVisible()
  await page.keyboard.press('Tab')
  await expect(first).toHaveValue('Seven weeks of small figures')
  await expect(page.getByRole('button', { name: 'Play the lecture', exact: true })).toBeVisible()
  const spans = await cuesOf(server, id)
  const position = async () => {
    const shown = await page.getByRole('region', { name: 'Play the lecture' }).locator('strong').textContent()
    return Number(/(\d+)\.(\d)/.exec(shown!)![0])
  }
  const { tidyUp } = (await server.lecture(id)).slides[0]!.takes[0]!
  const stopped = await position()
  expect(stopped).toBeLessThan(spans[1]!.start + 1 - (tidyUp!.kept.start / 48_000 - 1))
  // the pedal's key hears it again; Enter goes on and plays
  // Playwright has no name for it
  await first.dispatchEvent('keydown', { key: 'F14', code: 'F14', bubbles: true, cancelable: true })
  await expect(page.getByRole('button', { name: 'Pause the lecture' })).toBeVisible()
  await page.keyboard.press('Enter')
  await expect(fields(page).nth(1)).toBeFocused()
  await expect(page.getByRole('button', { name: 'Pause the lecture' })).toBeVisible()
  await page.keyboard.type('make one picture.')
  await page.keyboard.press('Enter')
  await expect
    .poll(async () => (await cuesOf(server, id)).slice(0, 2).map((cue) => cue.text))
    .toEqual(['Seven weeks of small figures', 'make one picture.'])
})
