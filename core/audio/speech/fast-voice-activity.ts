/** Where somebody speaks, found at once by level alone: for what cannot wait, such as going back to the last pause. */
import type { SampleRange } from '#core/model/sample-range.ts'
import { SAMPLE_RATE, toSamples } from '#core/timing/clocks.ts'

const FRAME = SAMPLE_RATE / 50
/** Of all frames, so many are quieter than the room is taken to be. */
const ROOM_SHARE = 0.15
/** Speech stands so far out of the room, and never lies under the least. */
const ABOVE_ROOM_DB = 9
const LEAST_DB = -58
/** Shorter gaps are stops inside words, shorter bursts are clicks. */
const SHORTEST_PAUSE_S = 0.25
const SHORTEST_SPEECH_S = 0.12

/**
 * @param samples mono, 48 kHz
 * @returns stretches of speech in samples, in order
 */
export function quickSpeech(samples: Float32Array): SampleRange[] {
  const levels: number[] = []
  for (let at = 0; at + FRAME <= samples.length; at += FRAME) {
    let sum = 0
    for (let i = at; i < at + FRAME; i++) sum += samples[i]! * samples[i]!
    levels.push(10 * Math.log10(sum / FRAME + 1e-12))
  }
  const sorted = [...levels].sort((a, b) => a - b)
  const room = sorted[Math.floor(ROOM_SHARE * sorted.length)] ?? LEAST_DB
  const loud = sorted[Math.floor(0.95 * sorted.length)] ?? LEAST_DB
  // where there is little pause the quiet frames are speech themselves: then a share of the way up to the loud ones
  const threshold = Math.max(LEAST_DB, Math.min(room + ABOVE_ROOM_DB, (room + loud) / 2))
  const runs: SampleRange[] = []
  for (const [n, level] of levels.entries()) {
    if (level <= threshold) continue
    const [start, end] = [n * FRAME, (n + 1) * FRAME]
    const last = runs.at(-1)
    if (last && start - last.end < toSamples(SHORTEST_PAUSE_S)) last.end = end
    else runs.push({ start, end })
  }
  return runs.filter((run) => run.end - run.start >= toSamples(SHORTEST_SPEECH_S))
}

/**
 * Where a speaker who slipped takes up again: in the pause before what was said last.
 *
 * @param speech of what was recorded so far
 * @param before nothing later than this sample counts, so that going back twice goes further back
 * @returns a sample in the middle of that pause; 0 when there is none
 */
export function pickUpPoint(speech: readonly SampleRange[], before = Number.POSITIVE_INFINITY): number {
  const said = speech.filter((s) => s.start < before)
  const last = said.at(-1)
  const earlier = said.at(-2)
  if (!last || !earlier) return 0
  return Math.round((earlier.end + last.start) / 2)
}

/**
 * What a mark "that was wrong" is about: what was said last before the key was pressed, pauses at both ends left half.
 *
 * @param length of the take
 * @returns null when nothing was said before it
 */
export function wrongStretch(speech: readonly SampleRange[], at: number, length: number): SampleRange | null {
  const i = speech.findLastIndex((s) => s.start < at)
  const said = speech[i]
  if (!said) return null
  const before = speech[i - 1]
  const next = speech[i + 1]
  const start = before ? Math.round((before.end + said.start) / 2) : 0
  // pressed in the middle of a word, the stretch ends with it
  const end = next ? Math.round((said.end + next.start) / 2) : length
  return end > start ? { start, end } : null
}
