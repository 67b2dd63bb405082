/** What an alignment tells: whether it is to be believed, and what was noticed beside the words. */

import { type AlignedSentence, type Alignment, finalUtterance } from '#core/captions/align/align.ts'
import type { Findings } from '#core/model/take.ts'

/** Of the script's letters, how many must have been found for the rest to be believed. */
const FOUND_LEAST = 0.5
/**
 * Measured on scripts of two and three sentences (docs/figures/captions.md): the right one is believed in 31 of 36 cases, another one in 2.
 */
const CONFIDENCE_LEAST = 0.45
/** One sentence that is surely there makes up for others that are not. */
const [SURE, LEAST_WITH_SURE] = [0.75, 0.3]
/** Shorter sentences fit anywhere by chance. */
const TELLING_LETTERS = 12

/** Whether an alignment is believed at all: a script in another language, or of another slide, is hardly found anywhere. */
export function isConvincing({ sentences }: Alignment): boolean {
  const letters = (list: readonly AlignedSentence[]) => list.reduce((sum, s) => sum + s.text.length, 0)
  const found = sentences.filter((s) => !s.skipped)
  if (found.length === 0 || letters(found) < FOUND_LEAST * letters(sentences)) return false
  // what was not found counts as not believed
  const whole = found.reduce((sum, s) => sum + s.confidence * s.text.length, 0) / letters(sentences)
  const isSure = (s: AlignedSentence) => s.confidence >= SURE && !s.needsReview && s.text.length >= TELLING_LETTERS
  return whole >= (found.some(isSure) ? LEAST_WITH_SURE : CONFIDENCE_LEAST)
}

export function findingsOf({ sentences, offScript }: Alignment): Findings {
  return {
    repeated: sentences.flatMap((sentence) => {
      const meant = finalUtterance(sentence)
      return sentence.spans
        .filter((span) => span !== meant && meant && span.start < meant.start)
        .map((span, i, all) => ({ text: sentence.text, start: span.start, end: all[i + 1]?.start ?? meant!.start }))
    }),
    offScript,
    skipped: sentences.filter((s) => s.skipped).map((s) => s.text),
    needsReview: sentences.filter((s) => s.needsReview).map((s) => s.text),
  }
}
