/** How the editions of a lecture are made: which videos, how large, what stands in their corner. */

import { Language } from '#core/language-tag.ts'
import { message } from '#core/words/say.ts'
import { z } from '../zod.ts'
import { CORNERS } from './moving/small-picture.ts'

export const PRESETS = ['standard', 'small', 'everywhere', 'open'] as const
export const Preset = z.enum(PRESETS)
export type Preset = z.infer<typeof Preset>

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

export const ExportSettings = z.object({
  /** Of those as large as a learner's screen and line want, the first is what links play. */
  presets: z
    .array(Preset)
    .min(1, message('An edition needs a video: choose one kind at least.').id)
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
export type ExportSettings = z.infer<typeof ExportSettings>
export const DEFAULT_EXPORT_SETTINGS: ExportSettings = ExportSettings.parse({})
