/** A script is followed while it is spoken, by a made-up voice; how near in real ones is measured by `npm run bench -- words`. */
import { expect, test } from 'vitest'
import { makeReference } from '#core/captions/align/reference.ts'
import { lay, noise } from '#tests/made/sound.ts'
import { speaker } from '#tests/made/speaker.ts'
import { LIVE_RATE, LiveFollower } from './live-follower.ts'

const SCRIPT = [
  'the funnel is eight inches across',
  'below it stands a brass tube and a stick',
  'you read the gauge at seven in the morning',
  'never leave snow in a closed vessel',
]
const engine = speaker({ pitch: 110, stretch: 1, shift: 1 }, 22_050)
const voice = speaker({ pitch: 170, stretch: 1.1, shift: 1.06 }, LIVE_RATE)
const reference = makeReference(SCRIPT, engine)

/** Sentences said one after the other, with rests. @returns where each begins and ends, seconds */
function reading(order: readonly number[]) {
  const pieces = order.map((sentence) => voice.speak(SCRIPT[sentence]!).samples)
  const places: { start: number; end: number }[] = []
  let at = 0.6 * LIVE_RATE
  for (const piece of pieces) {
    places.push({ start: at / LIVE_RATE, end: (at + piece.length) / LIVE_RATE })
    at += piece.length + 0.5 * LIVE_RATE
  }
  const samples = noise(0.0005, at, 3)
  for (const [i, piece] of pieces.entries()) lay(samples, piece, places[i]!.start * LIVE_RATE)
  return { samples, places }
}

/** Which sentence was told at so many seconds. */
function follow(samples: Float32Array, moments: readonly number[], pieces = 1600) {
  const live = new LiveFollower(reference)
  const told: (number | undefined)[] = []
  let next = 0
  for (let at = 0; at < samples.length; at += pieces) {
    live.hear(samples.subarray(at, at + pieces))
    while (next < moments.length && moments[next]! * LIVE_RATE <= at + pieces) {
      told.push(live.place()?.sentence)
      next++
    }
  }
  return told
}
/** Most of the way through each. */
const late = (places: readonly { start: number; end: number }[]) => places.map(({ start, end }) => start + 0.8 * (end - start))

test('sentence after sentence is told while it is said', () => {
  const { samples, places } = reading([0, 1, 2, 3])
  expect(follow(samples, late(places))).toEqual([0, 1, 2, 3])
})

test('over one that is left out, and back to one that was said before', () => {
  const { samples, places } = reading([0, 2, 3, 1])
  expect(follow(samples, late(places))).toEqual([0, 2, 3, 1])
})

test('pieces of any length tell the same', () => {
  const { samples, places } = reading([0, 1, 2])
  expect(follow(samples, late(places), 777)).toEqual([0, 1, 2])
})

test('nothing is told of silence and of noise', () => {
  const live = new LiveFollower(reference)
  live.hear(new Float32Array(2 * LIVE_RATE))
  expect(live.place()).toBeNull()
  live.hear(new Float32Array(0))
  expect(live.place()).toBeNull()
})

test('who says where they go on from is followed from there', () => {
  const { samples, places } = reading([0, 3])
  const live = new LiveFollower(reference)
  live.hear(samples.subarray(0, Math.round(places[0]!.end * LIVE_RATE)))
  live.goTo(3)
  expect(live.place()).toEqual({ sentence: 3, words: 0 })
  live.hear(samples.subarray(Math.round(places[0]!.end * LIVE_RATE), Math.round(places[1]!.end * LIVE_RATE)))
  expect(live.place()!.sentence).toBe(3)
  expect(live.place()!.words).toBeGreaterThan(3)
})
