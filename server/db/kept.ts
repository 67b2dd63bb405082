/** What some columns hold as text: found once, and known by what it was found for. */
import type { Alignment } from '#core/captions/align/align.ts'
import type { WordPath } from '#core/captions/reading/word-path.ts'
import type { SegmentFacts } from '#core/edition/estimate.ts'
import type { HeardSound } from '#core/model/take.ts'

/** Facts of a segment; of sound also its loudness, for that of the whole. */
export interface StoredSegmentFacts extends SegmentFacts {
  /** K-weighted powers of 400 ms blocks, one each 100 ms. */
  powers?: number[]
  truePeakDbtp?: number | null
}

export interface KeptAlignment {
  version: number
  language: string
  script: string
  alignment: Alignment
}

/** What `wordPath` found in an answer. */
export interface KeptReading {
  version: number
  language: string
  script: string
  path: WordPath
}

export interface KeptDraft {
  /** The recogniser's name. */
  recogniser: string
  language: string
  alignment: Alignment
}

export interface KeptSounds {
  version: number
  sounds: HeardSound[]
}
