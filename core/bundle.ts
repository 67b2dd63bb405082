/** A lecture as one open file: what `bundle.json` in a bundle says. Its description for others is docs/formats.md. */
import { z } from 'zod'
import { Making } from '#core/edition/making.ts'
import {
  BedSettings,
  Bookmarks,
  Card,
  Hand,
  Language,
  Marks,
  TakeAnalysis,
  TidyUp,
  TimingDefaults,
  TRACK_KINDS,
  Transition,
} from '#core/lecture.ts'

/** Raise it when a bundle says something that an earlier version would misread. */
export const BUNDLE_VERSION = 1

const Id = z.uuid()
const seconds = z.number().nonnegative()
/** Name of a file in the bundle. */
const Path = z.string().regex(/^(pictures|takes|beds)\/[0-9a-f]{64}\.(png|flac)$/)

const Pictures = z.array(z.object({ id: Id, picture: Path }))

export const Bundle = z.object({
  bundle: z.literal('tidy-lectern'),
  version: z.number().int().min(1),
  lecture: z.object({
    title: z.string().min(1).max(200),
    language: Language,
    timing: TimingDefaults,
    transition: Transition.nullable(),
    making: Making.nullable(),
    lineCharacters: z.number().int(),
  }),
  slides: z
    .array(
      z.object({
        id: Id,
        title: z.string(),
        altText: z.string(),
        script: z.string().max(50_000),
        hidden: z.boolean(),
        keptTakeId: Id.nullable(),
        timing: TimingDefaults.partial(),
        transition: Transition.nullable(),
        card: Card.nullable(),
        findings: z.array(z.string()),
        buildsOn: z.boolean().default(false),
        section: z.string().max(200).default(''),
        steps: Pictures.min(1),
        /** Pictures that were found for the slide and not chosen. */
        offered: Pictures.default([]),
      }),
    )
    .min(1)
    .max(1000),
  takes: z.array(
    z.object({
      id: Id,
      slideId: Id,
      number: z.number().int().positive(),
      recovered: z.boolean(),
      /** Milliseconds since 1970. */
      startedAt: z.number().int(),
      microphone: z.string(),
      gaps: z.number().int(),
      gapMs: z.number().int().default(0),
      samples: z.number().int().positive(),
      sound: Path,
      analysis: TakeAnalysis.nullable(),
      tidyUp: TidyUp.nullable(),
      /** When its words are heard, as the aligner found it; made again when it is of another version. */
      alignment: z.unknown(),
      /** Seconds of the take, by step. */
      stepMoments: z.record(Id, seconds),
      marks: Marks,
      bookmarks: Bookmarks,
    }),
  ),
  captionTracks: z.array(
    z.object({
      id: Id,
      language: Language,
      label: z.string(),
      origin: z.enum(['script', 'file', 'translation']),
      kind: z.enum(TRACK_KINDS),
      cues: z.array(
        z.object({
          id: z.string(),
          slideId: Id,
          takeId: Id.nullable(),
          start: z.number(),
          end: z.number(),
          text: z.string(),
          markup: z.string().nullable(),
          settings: z.string(),
          doubtful: z.boolean(),
          source: z.string(),
          hand: Hand,
        }),
      ),
      translations: z.array(z.object({ cueId: z.string(), text: z.string(), original: z.string() })),
    }),
  ),
  beds: z.array(
    z.object({
      id: Id,
      name: z.string(),
      sound: Path,
      samples: z.number().int().positive(),
      loudnessLufs: z.number().nullable(),
      settings: BedSettings,
    }),
  ),
})
export type Bundle = z.infer<typeof Bundle>

/** @returns names of the files that a bundle's pictures and sounds are, each once */
export const filesNamed = (bundle: Bundle): string[] => [
  ...new Set([
    ...bundle.slides.flatMap((slide) => [...slide.steps, ...slide.offered].map((step) => step.picture)),
    ...bundle.takes.map((take) => take.sound),
    ...bundle.beds.map((bed) => bed.sound),
  ]),
]

const UUID = /[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}/g

/**
 * The same bundle with other ids, so that it can stand beside the lecture it came from.
 *
 * @param fresh makes a new id
 */
export function renamed(bundle: Bundle, fresh: () => string): Bundle {
  const ids = new Map<string, string>()
  for (const part of [...bundle.slides, ...bundle.takes, ...bundle.captionTracks, ...bundle.beds]) ids.set(part.id, fresh())
  for (const slide of bundle.slides) for (const step of [...slide.steps, ...slide.offered]) ids.set(step.id, fresh())
  for (const track of bundle.captionTracks) for (const cue of track.cues) ids.set(cue.id, fresh())
  return JSON.parse(JSON.stringify(bundle).replace(UUID, (id) => ids.get(id) ?? id)) as Bundle
}
