import { describe, expect, test } from 'vitest'
import { TidyUp } from '#core/model/tidy-up.ts'
import { marksAfter, momentAfter, tidyUpAfter } from './after-replacing.ts'

// samples 300 to 500 are 350 samples now: what comes after is 150 later
const replaced = { stretch: { start: 300, end: 500 }, length: 350 }
const recipe = (more: object) => TidyUp.parse({ kept: { start: 100, end: 900 }, ...more })

describe('a stretch of a take was replaced', () => {
  test('what is before stays, what is after moves, what was inside is at its beginning', () => {
    expect([0, 299, 300, 499, 500, 900].map((at) => momentAfter(replaced, at))).toEqual([0, 299, 300, 300, 650, 1050])
  })
  test('cuts, silences and gains of the rest stay, and those inside are gone', () => {
    const range = (start: number, end: number) => ({ start, end })
    const next = tidyUpAfter(
      replaced,
      recipe({
        cuts: [range(150, 200), range(350, 400), range(250, 350), range(600, 700)],
        pauseCuts: [range(450, 550)],
        silenced: [range(120, 800)],
        gains: [{ stretch: range(480, 520), db: 6 }],
        roomTone: range(310, 490),
        cleaning: 0.9,
      }),
    )
    expect(next.cuts).toEqual([range(150, 200), range(250, 300), range(750, 850)])
    expect(next.pauseCuts).toEqual([range(650, 700)])
    expect(next.silenced).toEqual([range(120, 300), range(650, 950)])
    expect(next.gains).toEqual([{ stretch: range(650, 670), db: 6 }])
    expect(next.roomTone).toBeNull()
    expect(next).toMatchObject({ kept: range(100, 1050), cleaning: 0.9 })
  })
  test('a curtain inside what was replaced opens for what stands there now', () => {
    expect(tidyUpAfter(replaced, recipe({ kept: { start: 350, end: 900 } })).kept).toEqual({ start: 300, end: 1050 })
    expect(tidyUpAfter(replaced, recipe({ kept: { start: 10, end: 420 } })).kept).toEqual({ start: 10, end: 650 })
    expect(tidyUpAfter(replaced, recipe({ kept: { start: 10, end: 300 } })).kept).toEqual({ start: 10, end: 300 })
  })
  test('marks move, and those of a slip that was replaced are gone', () => {
    expect(
      marksAfter(replaced, [
        { kind: 'step', at: 200, stepId: 'a' },
        { kind: 'wrong', at: 400 },
        { kind: 'pick-up', at: 450, from: 320 },
        { kind: 'step', at: 600, stepId: 'b' },
        { kind: 'pick-up', at: 800, from: 700 },
      ]),
    ).toEqual([
      { kind: 'step', at: 200, stepId: 'a' },
      { kind: 'step', at: 750, stepId: 'b' },
      { kind: 'pick-up', at: 950, from: 850 },
    ])
  })
})
