/** How far the aligner is from the truth. */
import type { Alignment } from '#core/captions/align/align.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import type { Case } from './corpus.ts'

export interface Errors {
  /** Seconds, signed: positive is late. */
  starts: number[]
  ends: number[]
  /** Sayings found, and those whose start is off by more than 250 ms or that were not found. */
  sayings: number
  gross: number
  /** Gross ones in a sentence that is not marked for a look. */
  grossUnflagged: number
  skips: { true: number; found: number; false: number; sentences: number }
  repeats: { true: number; found: number }
  adLibs: { true: number; captioned: number }
  needsReview: number
}

export const noErrors = (): Errors => ({
  starts: [],
  ends: [],
  sayings: 0,
  gross: 0,
  grossUnflagged: 0,
  skips: { true: 0, found: 0, false: 0, sentences: 0 },
  repeats: { true: 0, found: 0 },
  adLibs: { true: 0, captioned: 0 },
  needsReview: 0,
})

const GROSS_S = 0.25

/** Adds what one alignment did to the sums. */
export function judge(errors: Errors, made: Case, found: Alignment) {
  for (const [i, sentence] of found.sentences.entries()) {
    const truth = made.said.filter((s) => s.sentence === i)
    errors.skips.sentences++
    if (made.skipped.includes(i)) {
      errors.skips.true++
      if (sentence.skipped) errors.skips.found++
      continue
    }
    if (sentence.skipped) errors.skips.false++
    if (sentence.needsReview) errors.needsReview++
    if (made.repeated.includes(i)) {
      errors.repeats.true++
      if (sentence.spans.length > 1) errors.repeats.found++
    }
    // the saying that was meant is the last one; an earlier one counts where it was found
    const meant = sentence.spans.length >= truth.length ? truth : truth.slice(-sentence.spans.length || truth.length)
    for (const said of meant) {
      const [start, end] = [toSeconds(said.start), toSeconds(said.end)]
      const span = sentence.spans.reduce<(typeof sentence.spans)[number] | null>(
        (best, s) => (!best || Math.abs(s.start - start) < Math.abs(best.start - start) ? s : best),
        null,
      )
      errors.sayings++
      const off = span ? Math.max(Math.abs(span.start - start), Math.abs(span.end - end)) : Number.POSITIVE_INFINITY
      if (off > GROSS_S) {
        errors.gross++
        if (!sentence.needsReview && !sentence.skipped) errors.grossUnflagged++
      }
      if (!span) continue
      errors.starts.push(span.start - start)
      errors.ends.push(span.end - end)
    }
  }
  for (const said of made.said.filter((s) => s.sentence === null)) {
    errors.adLibs.true++
    const [start, end] = [toSeconds(said.start), toSeconds(said.end)]
    const covered = found.sentences.some((s) =>
      s.spans.some((span) => !s.needsReview && Math.min(span.end, end) - Math.max(span.start, start) > 0.5 * (end - start)),
    )
    if (covered) errors.adLibs.captioned++
  }
}

/** @param values seconds @returns milliseconds, of the absolute values */
export function quantileMs(values: readonly number[], part: number): number {
  const sorted = values.map(Math.abs).sort((a, b) => a - b)
  return 1000 * (sorted[Math.min(sorted.length - 1, Math.floor(part * sorted.length))] ?? 0)
}
