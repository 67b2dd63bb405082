/** Caption cues of a take from the moments at which its words were heard. */
import { takeSeconds } from '#core/timing/clocks.ts'
import type { AlignedSentence, Alignment, SentenceSpan } from './align/align.ts'
import { breakLines, captionTexts } from './break-lines.ts'
import type { TakeCue } from './cues-from-script.ts'

/** Common practice, no published source: a caption is there just before its words and stays a little after them. */
const EARLY_S = 0.05
const LINGER_S = 0.4
/** Shorter gaps flicker: the caption stays until the next. */
const CLOSED_GAP_S = 0.5
/** DCMP Captioning Key: shown no shorter than about a second; a little more reads better. */
const SHORTEST_S = 1.2

export interface TimedCue extends TakeCue {
  /** The words may stand elsewhere, or may not have been said like this. */
  doubtful: boolean
}

/** The saying that counts: the last whole one, else the last. */
export function meantSpan(sentence: Pick<AlignedSentence, 'spans'>): SentenceSpan | null {
  return sentence.spans.findLast((span) => !span.partial) ?? sentence.spans.at(-1) ?? null
}

/** Of the script's letters, how many must have been found for the rest to be believed. */
const FOUND_LEAST = 0.5
/** Measured: the right script has 0.73 and more, another one 0.34 at most (docs/captions-figures.md). */
const CONFIDENCE_LEAST = 0.45

/** Whether an alignment is believed at all: a script in another language, or of another slide, is hardly found anywhere. */
export function isConvincing({ sentences }: Alignment): boolean {
  const letters = (list: readonly AlignedSentence[]) => list.reduce((sum, s) => sum + s.text.length, 0)
  const found = sentences.filter((s) => !s.skipped)
  if (found.length === 0 || letters(found) < FOUND_LEAST * letters(sentences)) return false
  return found.reduce((sum, s) => sum + s.confidence * s.text.length, 0) / letters(found) >= CONFIDENCE_LEAST
}

/**
 * @param seconds length of the take: no caption reaches past it
 * @returns cues in take time, in order, not overlapping; sentences that were not said have none
 */
export function cuesFromAlignment(alignment: Alignment, seconds: number): TimedCue[] {
  const raw = alignment.sentences.flatMap((sentence) => {
    const span = meantSpan(sentence)
    if (!span) return []
    let first = 0
    return captionTexts(sentence.text).flatMap((text) => {
      const end = first + text.split(' ').length
      const words = span.words.filter((word) => word.k >= first && word.k < end)
      first = end
      if (words.length === 0) return []
      return { text: breakLines(text), start: words[0]!.start, end: words.at(-1)!.end, doubtful: sentence.doubtful }
    })
  })
  raw.sort((a, b) => a.start - b.start)
  return raw.map((cue, i): TimedCue => {
    const next = raw[i + 1]
    const before = raw[i - 1]
    const start = Math.max(0, cue.start - EARLY_S, before ? Math.min(before.end, cue.start) : 0)
    const wanted = Math.max(cue.end + LINGER_S, start + SHORTEST_S)
    const nextStart = next ? Math.max(cue.end, next.start - EARLY_S, Math.min(cue.end, next.start)) : seconds
    const end = next && nextStart - wanted < CLOSED_GAP_S ? nextStart : Math.min(wanted, nextStart)
    return { text: cue.text, doubtful: cue.doubtful, start: takeSeconds(start), end: takeSeconds(Math.max(end, start + 0.05)) }
  })
}

/** What the aligner noticed beside the words: offered to the teacher, never done. */
export interface Findings {
  /** Said again: the earlier saying may be cut. Seconds of the take. */
  repeated: { text: string; start: number; end: number }[]
  /** Said and not in the script. */
  extra: { start: number; end: number }[]
  /** In the script and not said. */
  skipped: string[]
  /** Please check. */
  doubtful: string[]
}

export function findingsOf({ sentences, extra }: Alignment): Findings {
  return {
    repeated: sentences.flatMap((sentence) => {
      const meant = meantSpan(sentence)
      return sentence.spans
        .filter((span) => span !== meant && meant && span.start < meant.start)
        .map((span, i, all) => ({ text: sentence.text, start: span.start, end: all[i + 1]?.start ?? meant!.start }))
    }),
    extra,
    skipped: sentences.filter((s) => s.skipped).map((s) => s.text),
    doubtful: sentences.filter((s) => s.doubtful).map((s) => s.text),
  }
}
