/** The recipe of non-destructive changes made to a take. */

import { z } from '../zod.ts'
import { SampleRange } from './sample-range.ts'

/** How a clip comes in or goes out. */
export const Fade = z.object({ seconds: z.number().min(0).max(10), shape: z.enum(['linear', 'equal-power']) })
export type Fade = z.infer<typeof Fade>

const SOFT_EDGE: Fade = { seconds: 0.008, shape: 'linear' }

/** The recipe of non-destructive changes made to a take. Positions are samples of the take. */
export const TidyUp = z.object({
  /** What is left between the two curtains. */
  kept: SampleRange,
  /** Stretches taken out of the middle by hand. */
  cuts: z.array(SampleRange).max(500).default([]),
  /** No pause stays longer than this; null leaves all pauses. */
  longestPauseSeconds: z.number().min(0.3).max(10).nullable().default(null),
  /** What that takes out, worked out from the speech that was found. */
  pauseCuts: z.array(SampleRange).default([]),
  /** Stretches in which only the room is heard, instead of what is there. */
  silenced: z.array(SampleRange).max(500).default([]),
  /** Stretches that are made louder or quieter. */
  gains: z
    .array(z.object({ stretch: SampleRange, db: z.number().min(-40).max(24) }))
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
  roomTone: SampleRange.nullable().default(null),
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
