/** From the presence of a voice to stretches of speech: where it begins and ends, and what is only a click. */

import type { Samples } from '#core/audio/signal/sample-source.ts'
import { HOP } from '#core/audio/signal/stft.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { toSamples } from '#core/timing/clocks.ts'

/** Samples between two probabilities of a voice: every second frame, 94 a second. */
export const SPEAKING_HOP = 2 * HOP

/** A voice is sure above the first; it is followed outwards as long as it is above the second. */
const [SURE, PERHAPS] = [0.8, 0.01]
const steps = (seconds: number) => Math.round((seconds * 48_000) / SPEAKING_HOP)
/** One after the other: a click is sure for a step here and there. */
const FEWEST_SURE = steps(0.064)
/** What rises out of the room, or fades into it, is followed no further than this where it is less than likely. */
const LIKELY = 0.5
const [RISES, FADES] = [steps(0.043), steps(0.043)]
const SHORTEST_SPEECH = steps(0.07) // a key click is shorter
const SHORTEST_PAUSE = steps(0.2)
/** A stop that ends a word (“act”, “look”) is let go after so much silence at most, and heard for this many sure steps. */
const LONGEST_CLOSURE = steps(0.085)
const RELEASED = 2
/** A burst this short, standing alone, is a knock and not a word. */
const LONE_BURST = steps(0.2)
const LONE_GAP = steps(0.3)
/** Soft consonants and fading last words lie just outside of what is sure. */
const [PAD_START, PAD_END] = [toSamples(0.022), toSamples(0.038)]

interface Run {
  from: number
  to: number
}

function runs(count: number, is: (step: number) => boolean): Run[] {
  const out: Run[] = []
  for (let s = 0; s < count; s++) {
    if (!is(s)) continue
    const last = out.at(-1)
    if (last && last.to === s) last.to = s + 1
    else out.push({ from: s, to: s + 1 })
  }
  return out
}

/**
 * Speech intervals of a take.
 *
 * @param probability of a voice (`voiceProbability` or `speechProbability`), as `clean` tells it
 * @param length of the take in samples
 * @returns stretches in samples, in order, not overlapping; empty when there is no voice
 */
export function findSpeech(probability: Float32Array, length: number): SampleRange[] {
  const sure = runs(probability.length, (s) => probability[s]! > SURE).filter((run) => run.to - run.from >= FEWEST_SURE)
  const joined: Run[] = []
  for (const run of runs(probability.length, (s) => probability[s]! > PERHAPS)) {
    const last = joined.at(-1)
    const long = run.to - run.from >= SHORTEST_SPEECH && sure.some((part) => part.from >= run.from && part.to <= run.to)
    const release =
      last &&
      run.from - last.to <= LONGEST_CLOSURE &&
      probability.subarray(run.from, run.to).filter((p) => p > SURE).length >= RELEASED
    if (!long && !release) continue
    if (last && (release || run.from - last.to < SHORTEST_PAUSE)) last.to = run.to
    else joined.push({ ...run })
  }
  return joined
    .filter((run, i) => {
      const before = run.from - (joined[i - 1]?.to ?? Number.NEGATIVE_INFINITY)
      const after = (joined[i + 1]?.from ?? Number.POSITIVE_INFINITY) - run.to
      return run.to - run.from > LONE_BURST || before < LONE_GAP || after < LONE_GAP
    })
    .map((run) => {
      let [first, end] = [run.from, run.to]
      while (probability[first]! < LIKELY) first++
      while (probability[end - 1]! < LIKELY) end--
      return {
        start: Math.max(0, Math.max(run.from, first - RISES) * SPEAKING_HOP - PAD_START),
        end: Math.min(length, Math.min(run.to, end + FADES) * SPEAKING_HOP + PAD_END),
      }
    })
}

/**
 * Level of the room: the middle one of the 100 ms pieces outside speech.
 *
 * @param sound mono, 48 kHz
 * @param speech as `findSpeech` returns it
 * @returns dBFS, root mean square; null when speech leaves no pause of 100 ms; −120 for digital silence
 */
export function roomLevel(sound: Samples, speech: readonly SampleRange[]): number | null {
  const piece = toSamples(0.1)
  const powers: number[] = []
  let at = 0
  for (const edge of [...speech, { start: sound.length, end: sound.length }]) {
    for (; at + piece <= edge.start; at += piece) {
      const samples = sound.subarray(at, at + piece)
      let sum = 0
      for (let i = 0; i < piece; i++) sum += samples[i]! * samples[i]!
      powers.push(sum / piece)
    }
    at = Math.max(at, edge.end)
  }
  if (powers.length === 0) return null
  powers.sort((a, b) => a - b)
  const median = powers[Math.floor(powers.length / 2)]!
  return Math.max(-120, 10 * Math.log10(median + 1e-12))
}
