/** A sentence said again, put into the place of the first one. */
import type { SampleRange } from '#core/model/sample-range.ts'
import { toSamples } from '#core/timing/clocks.ts'

/** Room left around what was said again. */
const ROOM = toSamples(0.12)
const JOIN = toSamples(0.03)
/** More than this is another microphone, not another mood. */
const MOST_GAIN_DB = 12

/** Root mean square over stretches. */
function level(samples: Float32Array, stretches: readonly SampleRange[]): number {
  let [sum, count] = [0, 0]
  for (const { start, end } of stretches)
    for (let i = start; i < Math.min(end, samples.length); i++) {
      sum += samples[i]! * samples[i]!
      count++
    }
  return count === 0 ? 0 : Math.sqrt(sum / count)
}

const within = (speech: readonly SampleRange[], { start, end }: SampleRange) =>
  speech.map((s) => ({ start: Math.max(s.start, start), end: Math.min(s.end, end) })).filter((s) => s.end > s.start)

/**
 * What a sentence of a take takes up: from the middle of the pause before it to the middle of the one after it; where it was spoken without a
 * pause, from its first word or to its last.
 *
 * @param sentence where its words are heard, samples
 * @param speech of the take
 * @param length of the take
 */
export function sentenceStretch(sentence: SampleRange, speech: readonly SampleRange[], length: number): SampleRange {
  // a word's edge and a stretch's edge lie a little apart
  const slack = toSamples(0.15)
  const around = (at: number) => speech.some((s) => s.start < at - slack && s.end > at + slack)
  const before = speech.filter((s) => s.end <= sentence.start + slack).at(-1)
  const after = speech.find((s) => s.start >= sentence.end - slack)
  const start = around(sentence.start)
    ? sentence.start
    : before
      ? Math.round((before.end + Math.max(before.end, sentence.start)) / 2)
      : 0
  const end = around(sentence.end)
    ? sentence.end
    : after
      ? Math.round((Math.min(after.start, sentence.end) + after.start) / 2)
      : length
  return { start, end: Math.max(end, start + 1) }
}

/**
 * Puts what was said again into the place of a stretch: as loud as what it replaces, joined by short equal-power cross-fades in the pauses.
 *
 * @param take mono, 48 kHz, with its speech
 * @param again the same sentence, recorded anew, with its speech
 * @returns the take with the sentence in its place, where that is, and from which sample of the new recording on; the take itself when nothing was
 *   said again
 */
export function patchTake(
  take: { samples: Float32Array; speech: readonly SampleRange[] },
  again: { samples: Float32Array; speech: readonly SampleRange[] },
  replaced: SampleRange,
): { samples: Float32Array; placed: SampleRange; from: number } {
  const first = again.speech[0]
  const last = again.speech.at(-1)
  if (!first || !last) return { samples: take.samples, placed: replaced, from: 0 }
  const from = Math.max(0, first.start - ROOM)
  const to = Math.min(again.samples.length, last.end + ROOM)
  const was = level(take.samples, within(take.speech, replaced))
  const is = level(again.samples, again.speech)
  const db = was > 0 && is > 0 ? 20 * Math.log10(was / is) : 0
  const gain = 10 ** (Math.max(-MOST_GAIN_DB, Math.min(MOST_GAIN_DB, db)) / 20)
  const out = new Float32Array(replaced.start + (to - from) + take.samples.length - replaced.end)
  out.set(take.samples.subarray(0, replaced.start))
  for (let i = from; i < to; i++) out[replaced.start + i - from] = again.samples[i]! * gain
  out.set(take.samples.subarray(replaced.end), replaced.start + to - from)
  /** Across a join, what stood before it goes and what comes after it arrives. */
  const join = (at: number, before: (n: number) => number, after: (n: number) => number) => {
    for (let n = -JOIN / 2; n < JOIN / 2; n++) {
      if (at + n < 0 || at + n >= out.length) continue
      const turn = ((n + JOIN / 2 + 0.5) / JOIN) * (Math.PI / 2)
      out[at + n] = before(n) * Math.cos(turn) + after(n) * Math.sin(turn)
    }
  }
  const old = (at: number) => take.samples[at] ?? 0
  const said = (at: number) => (again.samples[at] ?? 0) * gain
  if (replaced.start > 0)
    join(
      replaced.start,
      (n) => old(replaced.start + n),
      (n) => said(from + n),
    )
  const end = replaced.start + to - from
  if (replaced.end < take.samples.length)
    join(
      end,
      (n) => said(to + n),
      (n) => old(replaced.end + n),
    )
  return { samples: out, placed: { start: replaced.start, end }, from }
}
