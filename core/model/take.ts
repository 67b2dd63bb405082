/** A recording of a slide: what it is, what was found in it, what was rendered from it. */
import type { Message } from '#core/words/say.ts'
import { z } from '../zod.ts'
import type { Bookmark, Mark } from './marks.ts'
import type { TakeFootage } from './moving/footage.ts'
import { SampleRange } from './sample-range.ts'
import type { TidyUp } from './tidy-up.ts'

/** What analysis found in a take. Kept with it, since a take never changes. */
export const TakeAnalysis = z.object({
  /** Where the voice is, in samples of the take; in order. Empty when no voice was found. */
  speech: z.array(z.object({ start: z.number().int(), end: z.number().int() })),
  /** Level of the room between the words, dBFS; null when the take has no pause. */
  noiseFloorDb: z.number().nullable(),
  /** BS.1770 loudness of the take as recorded, heard on two channels; null when there is nothing above the gate. */
  loudnessLufs: z.number().nullable(),
  truePeakDbtp: z.number().nullable(),
  /** Samples at full scale in runs of three and more. */
  clippedSamples: z.number().int(),
  /** Frequency of the mains hum that was found, Hz; null when there is none. */
  humHz: z.number().nullable().default(null),
  /** A short burst of speech at the very end, after a long pause: perhaps not meant for the learners. */
  trailingUtterance: SampleRange.nullable().default(null),
})
export type TakeAnalysis = z.infer<typeof TakeAnalysis>

/** Figures of a rendered clip, shown beside those of the take. */
export const ClipFigures = z.object({
  loudnessLufs: z.number().nullable(),
  truePeakDbtp: z.number().nullable(),
  /** Level of the room between the words, dBFS; null without a pause. */
  noiseFloorDb: z.number().nullable(),
  gainDb: z.number(),
  /** Most that the limiter took away, dB; 0 when it had nothing to do. */
  gainReductionDb: z.number().default(0),
})
export type ClipFigures = z.infer<typeof ClipFigures>

/** A sound between the words that most would cut out. Seconds of the take. */
export interface HeardSound {
  kind: 'filled-pause' | 'cough'
  start: number
  end: number
  /** How surely it is one, told by its sound: above 0 it rather is, above 1 hardly ever something else. */
  certainty: number
}

/** Certainty from which a sound is no word beyond doubt: at 3 one sentence of `npm run bench -- align` began a second late. */
export const SURELY_NO_WORDS = 4

/** What the aligner noticed beside the words: offered to the teacher, never done. */
export interface Findings {
  /** Said again: the earlier saying may be cut. Seconds of the take. */
  repeated: { text: string; start: number; end: number }[]
  /** Said and not in the script. */
  offScript: { start: number; end: number }[]
  /** In the script and not said. */
  skipped: string[]
  /** Please check. */
  needsReview: string[]
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
  /** Who speaks, where the voice is somebody else's; null for the lecture's own. */
  speaker: string | null
  /** Moments at which sound was missing, and how long they are together, ms. */
  dropoutCount: number
  dropoutMs: number
  sound: string | null
  peaks: string | null
  spectrogram: string | null
  analysis: TakeAnalysis | null
  tidyUp: TidyUp | null
  clip: { samples: number; sound: string; peaks: string; figures: ClipFigures } | null
  /** A sentence when sealing or tidying failed. */
  problem: Message | null
  /** Moments at which the slide's further steps appear, in seconds of the take, by step. */
  stepMoments: Record<string, number>
  /** The same, found by the words that stand on them; what somebody set counts before. */
  heardMoments: Record<string, number>
  /** Told by keys while recording. */
  marks: Mark[]
  bookmarks: Bookmark[]
  /** Screen and camera that were recorded with it, in order. */
  footage: TakeFootage[]
  /** What the aligner noticed beside the words; null before it listened. */
  findings: Findings | null
}
