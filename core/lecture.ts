/** The model: what a lecture is made of, as Zod schemas and types shared by web, server and command line. */
import { z } from 'zod'
import type { Findings } from './captions/align/findings.ts'
import type { Making } from './edition/making.ts'

export { Language } from './language.ts'

// the page's Content-Security-Policy forbids generated code, which Zod would try for speed
z.config({ jitless: true })

/** A half-open stretch of a take, in samples at 48 kHz. */
export const Stretch = z
  .object({ start: z.number().int().nonnegative(), end: z.number().int().nonnegative() })
  .refine((s) => s.end > s.start, 'a stretch must end after it starts')
export type Stretch = z.infer<typeof Stretch>

/** How a clip comes in or goes out. */
export const Fade = z.object({ seconds: z.number().min(0).max(10), shape: z.enum(['linear', 'equal-power']) })
export type Fade = z.infer<typeof Fade>

const SOFT_EDGE: Fade = { seconds: 0.008, shape: 'linear' }

/** The recipe of non-destructive changes made to a take. Positions are samples of the take. */
export const TidyUp = z.object({
  /** What is left between the two curtains. */
  kept: Stretch,
  /** Stretches taken out of the middle by hand. */
  cuts: z.array(Stretch).max(500).default([]),
  /** No pause stays longer than this; null leaves all pauses. */
  longestPauseSeconds: z.number().min(0.3).max(10).nullable().default(null),
  /** What that takes out, worked out from the speech that was found. */
  pauseCuts: z.array(Stretch).default([]),
  /** Stretches in which only the room is heard, instead of what is there. */
  silenced: z.array(Stretch).max(500).default([]),
  /** Stretches that are made louder or quieter. */
  gains: z
    .array(z.object({ stretch: Stretch, db: z.number().min(-40).max(24) }))
    .max(500)
    .default([]),
  fadeIn: Fade.default(SOFT_EDGE),
  fadeOut: Fade.default(SOFT_EDGE),
  /** Corner of the high-pass that takes rumble away; null leaves the bass alone. */
  highPassHz: z.number().min(20).max(200).nullable().default(70),
  /** 0 leaves the sound untouched, 1 is the strongest cleaning. */
  cleaning: z.number().min(0).max(1).default(0.6),
  /** Takes mains hum away where there is some. */
  hum: z.boolean().default(true),
  /** Takes clicks between words away. */
  clicks: z.boolean().default(true),
  /** Where only the room is heard; null lets the cleaner find it. */
  roomTone: Stretch.nullable().default(null),
  /** What loudness to bring the clip to; null leaves it as recorded. */
  level: z
    .object({
      targetLufs: z.number().min(-40).max(-8),
      ceilingDbtp: z.number().min(-9).max(0),
      /** Brings quiet and loud passages of the take nearer to each other. */
      even: z.boolean().default(false),
    })
    .nullable()
    .default({ targetLufs: -16, ceilingDbtp: -1, even: false }),
  /** How much faster the clip is spoken than the take, with its pitch kept; 1 is as recorded. */
  tempo: z.number().min(0.95).max(1.05).default(1),
})
export type TidyUp = z.infer<typeof TidyUp>

const moment = z.number().int().nonnegative()
/** Something that was told by a key while recording, at its exact sample. */
export const Mark = z.discriminatedUnion('kind', [
  /** From here on another slide is spoken to. */
  z.object({ kind: z.literal('slide'), at: moment, slideId: z.string() }),
  /** The next picture of the slide appears. */
  z.object({ kind: z.literal('step'), at: moment, stepId: z.string() }),
  /** The recording rested here. */
  z.object({ kind: z.literal('pause'), at: moment }),
  /** What was said just before was wrong. */
  z.object({ kind: z.literal('wrong'), at: moment }),
  /** Learners may want to find this place again. */
  z.object({ kind: z.literal('bookmark'), at: moment }),
  /** What lies between was a slip and is said again from here on. */
  z.object({ kind: z.literal('pick-up'), at: moment, from: moment }),
])
export type Mark = z.infer<typeof Mark>
export const Marks = z.array(Mark).max(5000)

/** A place in a take that learners may want to find again: an entry under its slide's chapter. */
export const Bookmark = z.object({
  /** Seconds of the take. */
  at: z
    .number()
    .nonnegative()
    .max(24 * 3600),
  title: z.string().trim().min(1, 'A bookmark needs a name.').max(120),
})
export type Bookmark = z.infer<typeof Bookmark>
export const Bookmarks = z.array(Bookmark).max(200)

/** What timing may be. Seconds. */
const TimingFields = {
  /** Rest before the voice. Common practice: the slide is seen before the voice begins, never more than half a second. */
  leadSeconds: z.number().min(0).max(10),
  /** Rest after the last sound. Common practice: 0.2 s at least, 0.4 s is comfortable. */
  tailSeconds: z.number().min(0.2).max(10),
  /** How long a slide without a take is shown. */
  holdSeconds: z.number().min(0.5).max(600),
  /** No slide is shown for less. */
  minimumSeconds: z.number().min(0).max(60),
  /** Every slide is held exactly this long; null lets each last as long as its sound. */
  paceSeconds: z.number().min(2).max(600).nullable(),
}
/** How long slides last beyond their sound. */
export const TimingDefaults = z.object({
  leadSeconds: TimingFields.leadSeconds.default(0.25),
  tailSeconds: TimingFields.tailSeconds.default(0.4),
  holdSeconds: TimingFields.holdSeconds.default(5),
  minimumSeconds: TimingFields.minimumSeconds.default(1),
  paceSeconds: TimingFields.paceSeconds.default(null),
})
export type TimingDefaults = z.infer<typeof TimingDefaults>
export const DEFAULT_TIMING: TimingDefaults = TimingDefaults.parse({})
/** A slide's own exceptions: what is absent follows the lecture. Not `partial()` of the defaults, which would fill in what is absent. */
export const TimingExceptions = z.object(TimingFields).partial()
export type TimingExceptions = z.infer<typeof TimingExceptions>

/** How a slide takes over from the one before it. */
export const Transition = z.object({
  kind: z.enum(['none', 'cross-fade', 'wipe', 'push']),
  seconds: z.number().min(0.2).max(1.5),
})
export type Transition = z.infer<typeof Transition>
export const NO_TRANSITION: Transition = { kind: 'none', seconds: 0.5 }

/** A slide that is only text, made in the app: for openings, sections and endings. */
export const Card = z.object({
  heading: z.string().trim().min(1, 'A text slide needs a heading.').max(160),
  line: z.string().trim().max(400),
  colours: z.enum(['paper', 'ink', 'spruce', 'ochre']),
})
export type Card = z.infer<typeof Card>

/** How a bed is played under the slides it covers. */
export const BedSettings = z.object({
  /** First and last slide it covers. */
  fromSlideId: z.string(),
  toSlideId: z.string(),
  /** How loud it is beside the voice, LU. */
  volumeDb: z.number().min(-40).max(6),
  fadeInSeconds: z.number().min(0).max(20),
  fadeOutSeconds: z.number().min(0).max(20),
  /** Begins again when it has ended; else it plays once. */
  loop: z.boolean(),
  /** How much quieter it becomes while somebody speaks, dB; 0 does not give way. */
  duckDb: z.number().min(-40).max(0),
})
export type BedSettings = z.infer<typeof BedSettings>

/** Common practice, no published source: opening music fades out over about three seconds and stays well under the voice. */
export const DEFAULT_BED: Omit<BedSettings, 'fromSlideId' | 'toSlideId'> = {
  volumeDb: -6,
  fadeInSeconds: 0.5,
  fadeOutSeconds: 3,
  loop: true,
  duckDb: -14,
}

/** Music or room sound under slides. */
export interface Bed extends BedSettings {
  id: string
  name: string
  /** Stereo, 48 kHz. */
  sound: string
  peaks: string
  samples: number
  /** Of the file as it came; null for silence. */
  loudnessLufs: number | null
}

/** What analysis found in a take. Kept with it, since a take never changes. */
export const TakeAnalysis = z.object({
  /** Where the voice is, in samples of the take; in order. Empty when no voice was found. */
  speech: z.array(z.object({ start: z.number().int(), end: z.number().int() })),
  /** Level of the room between the words, dBFS; null when the take has no pause. */
  roomDb: z.number().nullable(),
  /** BS.1770 loudness of the take as recorded, heard on two channels; null when there is nothing above the gate. */
  loudnessLufs: z.number().nullable(),
  truePeakDbtp: z.number().nullable(),
  /** Samples at full scale in runs of three and more. */
  clippedSamples: z.number().int(),
  /** Frequency of the mains hum that was found, Hz; null when there is none. */
  humHz: z.number().nullable().default(null),
  /** A short burst of speech at the very end, after a long pause: perhaps not meant for the learners. */
  falseStop: Stretch.nullable().default(null),
})
export type TakeAnalysis = z.infer<typeof TakeAnalysis>

/** Figures of a rendered clip, shown beside those of the take. */
export const ClipFigures = z.object({
  loudnessLufs: z.number().nullable(),
  truePeakDbtp: z.number().nullable(),
  /** Level of the room between the words, dBFS; null without a pause. */
  roomDb: z.number().nullable(),
  gainDb: z.number(),
  /** Most that the limiter took away, dB; 0 when it had nothing to do. */
  limitedDb: z.number().default(0),
})
export type ClipFigures = z.infer<typeof ClipFigures>

/** What somebody changed of a caption that made itself: its words, or also its times; null for nothing. */
export const Hand = z.enum(['text', 'time']).nullable()
export type Hand = z.infer<typeof Hand>

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
  doubtful: boolean
  /** The sentences of the script it is part of; empty for captions that belong to no script. */
  source: string
  hand: Hand
}

export interface Step {
  id: string
  picture: string
  thumbnail: string
  width: number
  height: number
}

export type TakeState = 'recording' | 'sealed'

export interface Take {
  id: string
  slideId: string
  number: number
  state: TakeState
  /** True when the recording ended without its stop: it was put together from what had reached the disk. */
  recovered: boolean
  startedAt: number
  samples: number
  microphone: string
  /** Moments at which sound was missing, and how long they are together, ms. */
  gaps: number
  gapMs: number
  sound: string | null
  peaks: string | null
  spectrogram: string | null
  analysis: TakeAnalysis | null
  tidyUp: TidyUp | null
  clip: { samples: number; sound: string; peaks: string; figures: ClipFigures } | null
  /** A sentence when sealing or tidying failed. */
  problem: string | null
  /** Moments at which the slide's further steps appear, in seconds of the take, by step. */
  stepMoments: Record<string, number>
  /** Told by keys while recording. */
  marks: Mark[]
  bookmarks: Bookmark[]
  /** What the aligner noticed beside the words; null before it listened. */
  findings: Findings | null
}

export interface Slide {
  id: string
  title: string
  altText: string
  script: string
  hidden: boolean
  keptTakeId: string | null
  /** Exceptions to the lecture's timing; an absent field follows the lecture. */
  timing: TimingExceptions
  /** How it takes over from the slide before; null follows the lecture. */
  transition: Transition | null
  /** What its picture was made from, when the app drew it. */
  card: Card | null
  /** What of its deck could not be taken over, one sentence each. */
  findings: string[]
  /** In its deck it shows all of the slide before and something more. */
  buildsOn: boolean
  /** Heading of the section that begins with it; '' where none does. */
  section: string
  steps: Step[]
  /** Pictures that its deck has for it beside those that are shown: one of them may be the right one. */
  offered: Step[]
  takes: Take[]
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

export interface Lecture {
  id: string
  title: string
  language: string
  timing: TimingDefaults
  transition: Transition
  /** How its editions are made. */
  making: Making
  slides: Slide[]
  /** Characters a line of the captions that make themselves. */
  lineCharacters: number
  /** Captions and subtitles. */
  captionTracks: CaptionTrack[]
  /** Chapters from files, each track in its language; those of the slides' own titles need none. */
  chapterTracks: CaptionTrack[]
  beds: Bed[]
}

/** @returns the take that is heard on the slide, or null while nothing usable is kept */
export function keptTake(slide: Pick<Slide, 'keptTakeId' | 'takes'>): Take | null {
  return slide.takes.find((take) => take.id === slide.keptTakeId) ?? null
}
