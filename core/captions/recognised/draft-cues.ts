/** A draft of captions from what a recogniser heard: its words, at the times at which the aligner finds them. */

import type { AlignedSentence, Alignment } from '#core/captions/align/align.ts'
import { isConvincing } from '#core/captions/compare/findings.ts'
import { type CueMaterial, type MadeCue, makeCues } from '#core/captions/generate/make-cues.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import type { HeardSentence } from './heard-sentences.ts'

/** Sentences at the times their recogniser told, for languages in which no words can be sought. */
export function alignmentOfHeard(heard: readonly HeardSentence[]): Alignment {
  return {
    sentences: heard.map(({ text, words }, i): AlignedSentence => {
      const timed = text.split(' ').map((w, k) => ({ k, w, start: words[k]!.start, end: words[k]!.end }))
      const span = { start: words[0]!.start, end: words.at(-1)!.end, partial: false, words: timed }
      return { i, text, skipped: false, confidence: 1, needsReview: true, spans: [span] }
    }),
    offScript: [],
  }
}

/** Somebody who speaks says some twelve letters a second; what is written of music is a word or two. Common practice, no published source. */
const LEAST_LETTERS_A_SECOND = 2

/** Whether so much was written as somebody could have said in the time. */
function isEnough({ sentences }: Alignment, speech: readonly SampleRange[]): boolean {
  const letters = sentences.reduce((sum, { text, skipped }) => sum + (skipped ? 0 : text.length), 0)
  return letters >= LEAST_LETTERS_A_SECOND * toSeconds(speech.reduce((sum, { start, end }) => sum + end - start, 0))
}

export interface DraftCues {
  cues: MadeCue[]
  /** Sentences that the recogniser wrote and that are not in the sound. */
  leftOut: string[]
}

/**
 * @param alignment of the recogniser's sentences, sought in the sound as those of a script are
 * @returns captions that nobody has checked; null when the whole is not believed: what was written is not what is heard
 */
export function draftCues(
  alignment: Alignment,
  material: Omit<CueMaterial, 'script' | 'alignment' | 'unsure'>,
): DraftCues | null {
  if (!isConvincing(alignment) || !isEnough(alignment, material.speech)) return null
  const cues = makeCues({ ...material, script: '', alignment, unsure: false }, []).map(
    (cue): MadeCue => ({ ...cue, scriptText: '', manualEdit: 'heard', needsReview: true }),
  )
  return { cues, leftOut: alignment.sentences.filter((s) => s.skipped).map((s) => s.text) }
}
