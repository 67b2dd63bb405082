/** What the faults bench does: one recording under each fault, and nothing of it lost. In the daily run `faults.spec.ts` kills the server and the tab. */
import { expect, test } from '@playwright/test'
import { canFillDisks, FAULTS, playRound } from '#bench/faults/round.ts'
import { IS_LONG } from '#tests/support/long.ts'

for (const fault of IS_LONG ? FAULTS : [])
  test(`${fault} while recording: what was acknowledged is there, and all that the browser had`, async () => {
    test.skip(fault === 'disk full' && !canFillDisks(), 'no disk of its own can be made here')
    const outcome = await playRound(fault, { before: 2.5, during: 1 })
    expect(outcome.acknowledged).toBeGreaterThan(0)
    expect(outcome.lostAcknowledged).toBe(0)
    expect(outcome.pictures.lostAcknowledged).toBe(0)
    if (fault !== 'browser killed') expect(outcome.pictures.lost).toBe(0)
    // a browser that dies takes less than a second with it
    expect(outcome.lost).toBeLessThanOrEqual(fault === 'browser killed' ? 48_000 : 0)
  })

// a guest has no account by which they would be known again: in the daily run their browser dies
for (const fault of IS_LONG ? FAULTS : (['browser killed'] as const))
  test(`${fault} while a guest records: they find it again, and send it`, async () => {
    test.skip(fault === 'disk full' && !canFillDisks(), 'no disk of its own can be made here')
    const outcome = await playRound(fault, { before: 2.5, during: 0.5, isGuest: true })
    expect(outcome.acknowledged).toBeGreaterThan(0)
    expect(outcome.lostAcknowledged).toBe(0)
    expect(outcome.lost).toBeLessThanOrEqual(fault === 'browser killed' ? 48_000 : 0)
  })
