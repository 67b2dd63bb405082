/** Words of one take beside those of another: all samples are there, and what was decided about them stays. */
import { expect, test } from 'vitest'
import { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { clipSamples, keptStretches } from '#core/timing/time-map.ts'
import { firstDifference } from '#tests/made/sound.ts'
import { addWords } from './add-words.ts'

const s = toSamples
const range = (start: number, end: number) => ({ start: s(start), end: s(end) })
const take = Int16Array.from({ length: s(5) }, (_, i) => 1 + (i % 100))
const words = Int16Array.from({ length: s(2) }, (_, i) => -1 - (i % 100))
const tidyUp = TidyUp.parse({
  kept: range(0.5, 4.5),
  cuts: [range(2, 2.5)],
  silenced: [range(3, 3.1)],
  gains: [{ stretch: range(1, 1.5), db: 3 }],
  roomTone: range(4, 4.2),
  cleaning: 0.3,
})

test('before: everything decided moves along, and what lay before the curtain is not heard', () => {
  const made = addWords({ samples: take, tidyUp }, words, 'start')
  expect(made.shift).toBe(words.length)
  expect(firstDifference(made.samples.subarray(0, words.length), words)).toBe(-1)
  expect(firstDifference(made.samples.subarray(words.length), take)).toBe(-1)
  expect(keptStretches(made.tidyUp)).toEqual([range(0, 1.99), range(2.5, 4), range(4.5, 6.5)])
  expect(made.tidyUp.gains).toEqual([{ stretch: range(3, 3.5), db: 3 }])
  expect(made.tidyUp.silenced).toEqual([range(5, 5.1)])
  expect(made.tidyUp.roomTone).toEqual(range(6, 6.2))
  expect(made.tidyUp.cleaning).toBe(0.3)
  expect(clipSamples(made.tidyUp)).toBe(clipSamples(tidyUp) + words.length - s(0.01))
})

test('after: nothing of the take moves, and what lay after its curtain is not heard', () => {
  const made = addWords({ samples: take, tidyUp }, words, 'end')
  expect(made.shift).toBe(0)
  expect(keptStretches(made.tidyUp)).toEqual([range(0.5, 2), range(2.5, 4.5), range(5.01, 7)])
  expect(TidyUp.parse(made.tidyUp)).toEqual(made.tidyUp)
})

test('a take whose curtains stand at its ends is joined by a cut as short as a join', () => {
  const whole = TidyUp.parse({ kept: { start: 0, end: take.length } })
  for (const at of ['start', 'end'] as const) {
    const made = addWords({ samples: take, tidyUp: whole }, words, at)
    expect(TidyUp.parse(made.tidyUp)).toEqual(made.tidyUp)
    expect(clipSamples(made.tidyUp)).toBeGreaterThan(take.length + words.length - s(0.02))
  }
})
