/** What a speaker would not have said so: offered to be cut out, never done by itself. */

import { HESITATION, LONG_PAUSE } from '#core/audio/speech/long-pauses.ts'
import type { WordCut } from '#core/audio/tidy-up/place-cut.ts'
import { type Alignment, finalUtterance, type SentenceSpan } from '#core/captions/align/align.ts'
import { type SpokenWord, unknownWords, wordsOfAlignment } from '#core/captions/spoken/spoken-words.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { type HeardSound, SURELY_NO_WORDS, type TakeAnalysis } from '#core/model/take.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'

export const SLIP_KINDS = ['begun-anew', 'said-twice', 'filled-pause', 'cough', 'hesitation', 'long-pause', 'stray-end'] as const
export type SlipKind = (typeof SLIP_KINDS)[number]

export interface Slip {
  kind: SlipKind
  /** What goes, seconds of the take. */
  start: number
  end: number
  /** The words that go; '' where none do. */
  text: string
  /** Where the words stand that go and those beside them: the cut is placed in the quiet between; null where `start` and `end` are that cut. */
  words: WordCut | null
}

/** Words may lie a little over each other. Seconds. */
const OVER_S = 0.04

interface SlipTake {
  /** Length, samples. */
  samples: number
  analysis: Pick<TakeAnalysis, 'speech' | 'trailingUtterance'> | null
  /** null where its words are not known. */
  alignment: Alignment | null
  sounds: readonly HeardSound[]
}

/** What goes, with what stands before and after it among all that is heard. @param heard words and sounds in order */
function wordCut(heard: readonly { start: number; end: number }[], start: number, end: number): WordCut {
  const before = heard.filter((one) => one.end <= start + OVER_S && one.start < start).at(-1)
  const after = heard.find((one) => one.start >= end - OVER_S && one.end > end)
  return {
    before: before ? toSamples(before.end) : null,
    first: toSamples(start),
    last: toSamples(end),
    after: after ? toSamples(after.start) : null,
  }
}

/** Sayings that were followed by the same sentence, and what was said in between. */
function repeats({ sentences, offScript }: Alignment, heard: readonly { start: number; end: number }[]): Slip[] {
  const all = sentences.flatMap((sentence) => sentence.spans)
  return sentences.flatMap((sentence) => {
    const meant = finalUtterance(sentence)
    return sentence.spans.flatMap((span, i, spans): Slip[] => {
      const next: SentenceSpan | undefined = spans[i + 1]
      if (!meant || !next || span.start >= meant.start) return []
      const isBetween = (s: { start: number; end: number }) => s.start >= span.end && s.end <= next.start
      // with another sentence in between it goes alone
      const goesOn = all.some((other) => other !== span && isBetween(other))
      const between = goesOn ? [] : offScript.filter(isBetween)
      const end = Math.max(span.end, ...between.map((s) => s.end))
      return [
        {
          kind: span.partial ? 'begun-anew' : 'said-twice',
          start: span.start,
          end,
          text: span.words.map(({ w }) => w).join(' '),
          words: wordCut(heard, span.start, end),
        },
      ]
    })
  })
}

/** Pauses that last: inside a sentence, and anywhere. */
function pauses(speech: readonly SampleRange[], words: readonly SpokenWord[]): Slip[] {
  const isInside = (gap: { start: number; end: number }) => {
    const before = words.findLast((word) => word.end <= gap.start + 0.2)
    const after = words.find((word) => word.start >= gap.end - 0.2)
    return before !== undefined && after !== undefined && before.utterance === after.utterance
  }
  return speech.slice(1).flatMap((s, i): Slip[] => {
    const gap = { start: toSeconds(speech[i]!.end), end: toSeconds(s.start) }
    const length = gap.end - gap.start
    const rule = isInside(gap) && length >= HESITATION.least ? HESITATION : length >= LONG_PAUSE.least ? LONG_PAUSE : null
    if (!rule) return []
    const kind = rule === HESITATION ? 'hesitation' : 'long-pause'
    return [{ kind, start: gap.start + rule.left / 2, end: gap.end - rule.left / 2, text: '', words: null }]
  })
}

/** A sound of which so much is words that are known is a part of them. */
const KNOWN_SHARE = 0.5
/** What sounds so surely like one is one, although the aligner has laid a word over it: the first of a sentence is drawn to an "um" before it. */
const RATHER_THAN_WORDS = 1
/** A word of which so much is in a sound is not drawn to it from elsewhere: it is that sound, unless that surely is none. */
const OWN_SHARE = 0.8

const overlap = (a: { start: number; end: number }, b: { start: number; end: number }) =>
  Math.max(0, Math.min(a.end, b.end) - Math.max(a.start, b.start))

/** Sounds that are no part of a word: a syllable between two stops stands alone, too. */
export const ownSounds = (sounds: readonly HeardSound[], words: readonly SpokenWord[]) =>
  sounds.filter((sound) => {
    // a beginning may be nothing but such a sound
    const known = words.filter(({ kind }) => kind === 'script' || kind === 'repeat')
    const filled = (list: readonly SpokenWord[]) =>
      list.reduce((sum, word) => sum + overlap(word, sound), 0) >= KNOWN_SHARE * (sound.end - sound.start)
    if (!filled(known)) return true
    const itself = known.filter((word) => overlap(word, sound) >= OWN_SHARE * (word.end - word.start))
    return sound.certainty >= (filled(itself) ? SURELY_NO_WORDS : RATHER_THAN_WORDS)
  })

const covers = (sound: HeardSound, slip: Slip) =>
  Math.min(sound.end, slip.end) - Math.max(sound.start, slip.start) > KNOWN_SHARE * (slip.end - slip.start)

/** @returns slips in the order in which they are heard */
export function findSlips({ samples, analysis, alignment, sounds }: SlipTake): Slip[] {
  const known = alignment ? wordsOfAlignment(alignment) : null
  const own = ownSounds(sounds, known ?? [])
  // where nothing is known of the words, what is heard beside a sound is the speech around it
  const words = known ?? unknownWords(analysis?.speech ?? [], own)
  const heard = [...words, ...own].sort((a, b) => a.start - b.start)
  // a beginning that is a held vowel or a cough was none
  const said = alignment ? repeats(alignment, heard).filter((slip) => !own.some((sound) => covers(sound, slip))) : []
  const isGone = (s: { start: number; end: number }) => said.some((slip) => s.start >= slip.start && s.end <= slip.end)
  const found: Slip[] = [
    ...said,
    ...own
      .filter((sound) => !isGone(sound))
      .map(({ kind, start, end }): Slip => ({ kind, start, end, text: '', words: wordCut(heard, start, end) })),
    ...pauses(analysis?.speech ?? [], words),
  ]
  const trailing = analysis?.trailingUtterance
  if (trailing)
    found.push({ kind: 'stray-end', start: toSeconds(trailing.start), end: toSeconds(samples), text: '', words: null })
  return found.sort((a, b) => a.start - b.start)
}
