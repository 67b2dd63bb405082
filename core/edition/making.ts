/** How the editions of a lecture are made: which videos, how large, what stands in their corner. */
import { z } from 'zod'
import { Language } from '#core/language.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'

export const PRESETS = ['standard', 'small', 'everywhere', 'open'] as const
export const Preset = z.enum(PRESETS)
export type Preset = z.infer<typeof Preset>

export const CORNERS = ['top-left', 'top-right', 'bottom-left', 'bottom-right'] as const

/** A small picture of the teacher's, such as a school's crest, in a corner of every slide. */
export const Crest = z.object({
  /** Content name. */
  picture: z.string().regex(/^[0-9a-f]{64}$/),
  corner: z.enum(CORNERS),
  /** Its width, as a share of the slide's. */
  share: z.number().min(0.03).max(0.3),
  opacity: z.number().min(0.1).max(1),
})
export type Crest = z.infer<typeof Crest>

export const Making = z.object({
  /** The first is what links play. */
  presets: z
    .array(Preset)
    .min(1, 'An edition needs a video: choose one kind at least.')
    .max(PRESETS.length)
    .default(['standard']),
  /** Lines of the picture; `small` is 720 whatever is chosen. */
  height: z.union([z.literal(720), z.literal(1080), z.literal(2160)]).default(1080),
  /** Language of the captions that are drawn into the picture; null for none. */
  burnedIn: Language.nullable().default(null),
  /** Whether the sound is made as MP3 as well. */
  mp3: z.boolean().default(false),
  /** Who speaks, as players show it. */
  author: z.string().trim().max(200).default(''),
  crest: Crest.nullable().default(null),
})
export type Making = z.infer<typeof Making>
export const DEFAULT_MAKING: Making = Making.parse({})

/** One kind of video, down to its numbers. */
export interface VideoForm {
  preset: Preset
  width: number
  height: number
  container: 'mp4' | 'webm'
  /** Frames a second, all alike; null where each picture is shown and then repeated as `frames.ts` says. */
  rate: number | null
  sound: SoundForm
  /** Name in the edition. */
  file: string
}
export interface SoundForm {
  codec: 'aac' | 'opus'
  channels: 1 | 2
  kilobits: number
}

const AAC: SoundForm = { codec: 'aac', channels: 2, kilobits: 128 }
/** Frames of a constant rate: five a second is the least that picky players take; ten keeps changes within 50 ms of the voice. */
const CONSTANT_RATE = 10

/** Samples between two frames of a constant rate. */
export const gridSamples = (rate: number) => SAMPLE_RATE / rate

export function formOf(making: Pick<Making, 'height'>, preset: Preset): VideoForm {
  const height = preset === 'small' ? 720 : making.height
  const size = { width: (height * 16) / 9, height }
  switch (preset) {
    case 'standard':
      return { preset, ...size, container: 'mp4', rate: null, sound: AAC, file: 'video.mp4' }
    case 'small':
      return {
        preset,
        ...size,
        container: 'mp4',
        rate: null,
        sound: { codec: 'aac', channels: 1, kilobits: 64 },
        file: 'video-small.mp4',
      }
    case 'everywhere':
      return { preset, ...size, container: 'mp4', rate: CONSTANT_RATE, sound: AAC, file: 'video-everywhere.mp4' }
    case 'open':
      return {
        preset,
        ...size,
        container: 'webm',
        rate: null,
        sound: { codec: 'opus', channels: 2, kilobits: 96 },
        file: 'video.webm',
      }
  }
}

/** What the sound-only file is made of. */
export const soundOnlyForm = (making: Pick<Making, 'presets'>): SoundForm =>
  making.presets.every((preset) => preset === 'small') ? formOf({ height: 720 }, 'small').sound : AAC
