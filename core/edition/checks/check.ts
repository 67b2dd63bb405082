/** What a check tells, and what one press does about it. */

import type { FilmSettings } from '#core/model/moving/film.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import type { TimingDefaults } from '#core/model/timing.ts'
import type { Message } from '#core/words/say.ts'

export type CheckKind =
  | 'no-sound'
  | 'not-tidied'
  | 'practice-voice'
  | 'practice-picture'
  | 'over-pace'
  | 'no-captions'
  | 'check-captions'
  | 'heard-captions'
  | 'points-missed'
  | 'not-timed'
  | 'captions-missing'
  | 'undrawable-captions'
  | 'said-twice'
  | 'off-script'
  | 'marked-wrong'
  | 'clipped'
  | 'no-voice'
  | 'noisy'
  | 'long-lead'
  | 'long-pause'
  | 'long-slide'
  | 'coarse-picture'
  | 'no-alt-text'
  | 'draft-alt-text'
  | 'from-deck'
  | 'builds-up'
  | 'film-missing'
  | 'film-flashes'
  | 'film-captions'
  | 'film-description'
  | 'uneven-loudness'
  | 'changed'

/** What one press changes. */
export interface Fix {
  label: string
  slide?: {
    id: string
    change: { altText?: string; isAltTextDraft?: boolean; timing?: Partial<TimingDefaults>; warnings?: Message[] }
  }
  film?: { id: string; change: Partial<FilmSettings> }
  tidyUps?: { takeId: string; tidyUp: TidyUp }[]
  /** Slides whose pictures become further steps of one; none of them has a take. */
  join?: { into: string; from: string[] }
}

export interface Check {
  kind: CheckKind
  /** `note` says something without asking for anything. */
  level: 'missing' | 'look' | 'note'
  slideId: string | null
  /** Place of the slide among those shown, from 1; null for the whole lecture. */
  slideNumber: number | null
  finding: string
  advice: string
  fix?: Fix
}

/** A finding before it is known of which slide. */
export type Finding = Omit<Check, 'slideId' | 'slideNumber'>
