import { expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { lectureSound, loudnessSpread } from './lecture-sound.ts'

const take = (id: string, before: number, after: number | null) => ({
  id,
  samples: 48_000,
  tidyUp: TidyUp.parse({ kept: { start: 0, end: 48_000 }, cleaning: 0.4 }),
  analysis: {
    speech: [],
    noiseFloorDb: -50,
    loudnessLufs: before,
    truePeakDbtp: -3,
    clippedSamples: 0,
    humHz: null,
    trailingUtterance: null,
  },
  clip: after === null ? null : { figures: { loudnessLufs: after, noiseFloorDb: -80 } },
})
const slide = (id: string, ...takes: ReturnType<typeof take>[]) => ({ id, title: id, keptTakeId: takes[0]?.id ?? null, takes })
const lecture = {
  slides: [
    slide('a', take('1', -30, -16.2)),
    slide('b'),
    slide('c', take('2', -18, -15.9), take('3', -60, -40)),
    slide('d', take('4', -20, null)),
  ],
} as unknown as Lecture

test('kept takes are told in order, with their place in the lecture', () => {
  expect(lectureSound(lecture).map(({ number, voice, cleaning }) => [number, voice.before, voice.after, cleaning])).toEqual([
    [1, -30, -16.2, 0.4],
    [3, -18, -15.9, 0.4],
    [4, -20, null, 0.4],
  ])
})

test('the spread is that of what is known', () => {
  const sounds = lectureSound(lecture)
  expect(loudnessSpread(sounds, 'before')).toBe(12)
  expect(loudnessSpread(sounds, 'after')).toBeCloseTo(0.3, 9)
  expect(loudnessSpread(sounds.slice(2), 'after')).toBeNull()
})
