/** Chromium's own caption reader as judge of ours: the same files, the same cues, settings and trees. */
import { expect, test } from '@playwright/test'
import { IS_LONG } from '#tests/support/long.ts'
import { differingFromChromium, ours } from './webvtt-chromium.ts'
import { DEPARTURES, WEBVTT_INPUTS } from './webvtt-inputs.ts'

const longTest = IS_LONG ? test : test.skip

longTest('every tricky caption file reads as Chromium reads it', async ({ page }) => {
  expect(WEBVTT_INPUTS.length).toBeGreaterThanOrEqual(100)
  expect(await differingFromChromium(page)).toEqual([])
})

longTest('where Chromium departs from the letter of the standard, the standard is followed', () => {
  for (const { file, ...wanted } of DEPARTURES) {
    const read = ours(file)
    expect(read).toHaveLength(1)
    expect(read[0], JSON.stringify(file)).toMatchObject(wanted)
  }
})
