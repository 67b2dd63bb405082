/** How exactly speech is found: starts and ends of phrases against their known places. */
import { findSpeech } from '#core/audio/speech/voice-activity.ts'
import type { Recording } from './corpus.ts'

export interface Edges {
  startsMs: number[]
  endsMs: number[]
  /** Stretches found where nobody speaks. */
  falseSpeech: number
  missed: number
}

/** Pauses shorter than this are speech to us, and no edges. */
const LEAST_PAUSE = 0.35 * 48_000

export function edgesOf(recording: Recording, speechProbability: Float32Array): Edges {
  const found = findSpeech(speechProbability, recording.noisy.length)
  const out: Edges = { startsMs: [], endsMs: [], falseSpeech: 0, missed: 0 }
  recording.phrases.forEach((phrase, i) => {
    const touching = found.filter((s) => s.end > phrase.start && s.start < phrase.end)
    if (touching.length === 0) {
      out.missed++
      return
    }
    const [before, after] = [recording.phrases[i - 1], recording.phrases[i + 1]]
    if (!before || phrase.start - before.end > LEAST_PAUSE) out.startsMs.push((touching[0]!.start - phrase.start) / 48)
    if (!after || after.start - phrase.end > LEAST_PAUSE) out.endsMs.push((touching.at(-1)!.end - phrase.end) / 48)
  })
  out.falseSpeech = found.filter((s) => !recording.phrases.some((p) => p.end > s.start && p.start < s.end)).length
  return out
}

/** Absolute values at a share of the way up. */
export function quantile(values: number[], share: number): number {
  const sorted = values.map(Math.abs).sort((a, b) => a - b)
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? Number.NaN
}
