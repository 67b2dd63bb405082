/** Captions and the tracks they make. */
import { z } from '../zod.ts'

/**
 * What somebody changed of a caption that made itself: its words, or also its times; null for nothing. `heard`: a recogniser wrote it down,
 * and nobody has looked at it yet.
 */
export const ManualEdit = z.enum(['text', 'time', 'heard']).nullable()
export type ManualEdit = z.infer<typeof ManualEdit>

/** A caption cue as stored: in seconds of the take it belongs to, or of the slide when the slide has no take. */
export interface StoredCue {
  id: string
  slideId: string
  takeId: string | null
  start: number
  end: number
  /** As people read it. Empty: left out on purpose. */
  text: string
  /** WebVTT cue text that says the same with tags; null where the text is plain. */
  markup: string | null
  settings: string
  /** Made by the aligner, which was not sure: please check. */
  needsReview: boolean
  /** The sentences of the script it is part of; empty for captions that belong to no script. */
  scriptText: string
  manualEdit: ManualEdit
}

/** Where captions come from: the scripts, a file or a keyboard, or cue by cue from those of the scripts. */
export type TrackOrigin = 'script' | 'file' | 'translation'
export const CAPTION_KINDS = ['captions', 'subtitles'] as const
export type CaptionKind = (typeof CAPTION_KINDS)[number]
export const TRACK_KINDS = [...CAPTION_KINDS, 'chapters'] as const
export type TrackKind = (typeof TRACK_KINDS)[number]

export interface CaptionTrack {
  id: string
  language: string
  label: string
  origin: TrackOrigin
  /** Captions are in the language that is spoken, for those who do not hear; subtitles in another; chapters name parts of the lecture. */
  kind: TrackKind
  cues: StoredCue[]
}
