/** A lecture as one open file: what `bundle.json` in a bundle says. Its description for others is docs/formats.md. */

import { z } from 'zod'
import { ALIGN_VERSION } from '#core/captions/align/align.ts'
import { LINE_CHARACTERS } from '#core/captions/generate/break-lines.ts'
import { Language } from '#core/language-tag.ts'
import { BedSettings } from '#core/model/bed.ts'
import { ManualEdit, TRACK_KINDS } from '#core/model/caption.ts'
import { ExportSettings } from '#core/model/export-settings.ts'
import { Bookmarks, Marks } from '#core/model/marks.ts'
import { DEFAULT_FILM, FilmSettings } from '#core/model/moving/film.ts'
import { FOOTAGE_KINDS, FootageCut } from '#core/model/moving/footage.ts'
import { SmallPicture, SmallPictureException } from '#core/model/moving/small-picture.ts'
import { Questions } from '#core/model/question.ts'
import { Card } from '#core/model/slide.ts'
import { TakeAnalysis } from '#core/model/take.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { TimingDefaults, TimingExceptions, Transition } from '#core/model/timing.ts'
import { KeptMessage } from '#core/words/kept-message.ts'

/** Raise it when a bundle says something that an earlier version would misread; `earlier-versions.ts` reads those before. */
export const BUNDLE_VERSION = 4

const Id = z.uuid()
const LONGEST_SECONDS = 7 * 24 * 3600
const seconds = z.number().nonnegative().max(LONGEST_SECONDS)
/** Cues may lie before their take begins, where a file put them. */
const anySeconds = z.number().min(-LONGEST_SECONDS).max(LONGEST_SECONDS)
const text = (most: number) => z.string().max(most)
/** Six hours at 48 kHz, as long as a recording lasts. */
const SampleCount = z
  .number()
  .int()
  .positive()
  .max(6 * 3600 * 48_000)
const Side = z.number().int().positive().max(8192)
/** Name of a file in the bundle. */
const Path = z.string().regex(/^(pictures|takes|beds)\/[0-9a-f]{64}\.(png|flac)$/)

/** A film as it came, whatever kind of file it is. */
const FilmPath = z.string().regex(/^films\/[0-9a-f]{64}\.[a-z0-9]{1,5}$/)
const Films = z
  .array(
    z.object({
      id: Id,
      name: text(1000),
      original: FilmPath,
      hasPoster: z.boolean(),
      isOfDeck: z.boolean().default(false),
      // those of earlier versions say nothing of it
      settings: FilmSettings.extend({
        runsOn: FilmSettings.shape.runsOn.default(DEFAULT_FILM.runsOn),
        captions: FilmSettings.shape.captions.default(DEFAULT_FILM.captions),
      }),
    }),
  )
  .max(100)
/** Screen and camera as they were recorded. */
const FootagePath = z.string().regex(/^footage\/[0-9a-f]{64}\.mp4$/)
const Pictures = z
  .array(
    z.object({
      id: Id,
      picture: Path,
      text: text(100_000).default(''),
      afterSeconds: seconds.nullable().default(null),
      films: Films.default([]),
    }),
  )
  .max(1000)

const Span = z.object({
  start: seconds,
  end: seconds,
  partial: z.boolean(),
  words: z.array(z.object({ k: z.number().int().nonnegative(), w: text(1000), start: seconds, end: seconds })).max(20_000),
})
const Alignment = z.object({
  version: z.literal(ALIGN_VERSION),
  language: text(100),
  script: text(50_000),
  alignment: z.object({
    sentences: z
      .array(
        z.object({
          i: z.number().int().nonnegative(),
          text: text(50_000),
          skipped: z.boolean(),
          confidence: z.number(),
          needsReview: z.boolean(),
          spans: z.array(Span).max(1000),
        }),
      )
      .max(20_000),
    offScript: z.array(z.object({ start: seconds, end: seconds })).max(20_000),
  }),
})
/** One of another version says things in another way: it is made again from script and recording. */
const OwnAlignment = z.preprocess(
  (value) => ((value as { version?: unknown } | null | undefined)?.version === ALIGN_VERSION ? value : null),
  Alignment.nullable(),
)

const Form = z.object({
  bundle: z.literal('tidy-lectern'),
  version: z.literal(BUNDLE_VERSION),
  lecture: z.object({
    title: z.string().min(1).max(200),
    language: Language,
    timing: TimingDefaults,
    transition: Transition.nullable(),
    exportSettings: ExportSettings.nullable(),
    lineCharacters: z.number().int().min(LINE_CHARACTERS.least).max(LINE_CHARACTERS.most),
    smallPicture: SmallPicture.nullable().default(null),
    countsWatching: z.boolean().default(true),
  }),
  slides: z
    .array(
      z.object({
        id: Id,
        title: text(10_000),
        altText: text(100_000),
        isAltTextDraft: z.boolean().default(false),
        script: text(50_000),
        language: Language.nullable().default(null),
        hidden: z.boolean(),
        keptTakeId: Id.nullable(),
        timing: TimingExceptions,
        transition: Transition.nullable(),
        smallPicture: SmallPictureException.nullable().default(null),
        card: Card.nullable(),
        questions: Questions.default([]),
        warnings: z.array(KeptMessage).max(1000),
        buildsOn: z.boolean().default(false),
        section: z.string().max(200).default(''),
        steps: Pictures.min(1),
        /** Pictures that were found for the slide and not chosen. */
        offered: Pictures.default([]),
      }),
    )
    .min(1)
    .max(1000),
  takes: z
    .array(
      z.object({
        id: Id,
        slideId: Id,
        number: z.number().int().positive().max(1e6),
        recovered: z.boolean(),
        /** Milliseconds since 1970. */
        startedAt: z.number().int(),
        microphone: text(1000),
        /** Who speaks, where the voice is somebody else's. */
        speaker: text(200).nullable().default(null),
        dropoutCount: z.number().int().nonnegative(),
        dropoutMs: z.number().int().nonnegative().default(0),
        samples: SampleCount,
        sound: Path,
        analysis: TakeAnalysis.nullable(),
        tidyUp: TidyUp.nullable(),
        /** When its words are heard, as the aligner found it; made again when it is of another version. */
        alignment: OwnAlignment,
        /** Seconds of the take, by step. */
        stepMoments: z.record(Id, seconds),
        marks: Marks,
        bookmarks: Bookmarks,
        footage: z
          .array(FootageCut.extend({ footageId: Id }))
          .max(1000)
          .default([]),
      }),
    )
    .max(20_000),
  /** What was recorded by screen and camera with its takes. */
  footage: z
    .array(
      z.object({
        id: Id,
        takeId: Id,
        kind: z.enum(FOOTAGE_KINDS),
        isPractice: z.boolean().default(false),
        original: FootagePath,
        width: Side,
        height: Side,
        samples: SampleCount,
        description: text(2000),
      }),
    )
    .max(20_000)
    .default([]),
  captionTracks: z.array(
    z.object({
      id: Id,
      language: Language,
      label: text(1000),
      origin: z.enum(['script', 'file', 'translation']),
      kind: z.enum(TRACK_KINDS),
      cues: z.array(
        z.object({
          id: text(100),
          slideId: Id,
          takeId: Id.nullable(),
          start: anySeconds,
          end: anySeconds,
          text: text(10_000),
          markup: text(20_000).nullable(),
          settings: text(1000),
          needsReview: z.boolean(),
          scriptText: text(50_000),
          manualEdit: ManualEdit,
        }),
      ),
      translations: z.array(z.object({ cueId: text(100), text: text(10_000), original: text(10_000) })).max(200_000),
    }),
  ),
  beds: z.array(
    z.object({
      id: Id,
      name: text(1000),
      sound: Path,
      samples: SampleCount,
      loudnessLufs: z.number().nullable(),
      settings: BedSettings,
    }),
  ),
})
type Form = z.infer<typeof Form>

/** A picture may end a little after the sound it was recorded with. */
const TAIL_SAMPLES = 2 * 48_000

/** What of a bundle points to what, and where that does not fit. */
function misfits(bundle: Form): { path: (string | number)[]; message: string }[] {
  const found: { path: (string | number)[]; message: string }[] = []
  const say = (message: string, ...path: (string | number)[]) => found.push({ path, message })
  const known = new Set<string>()
  const own = (id: string, ...path: (string | number)[]) => {
    if (known.has(id)) say('is there twice', ...path)
    known.add(id)
  }
  for (const [i, slide] of bundle.slides.entries()) {
    own(slide.id, 'slides', i, 'id')
    for (const [k, step] of slide.steps.entries()) {
      own(step.id, 'slides', i, 'steps', k, 'id')
      for (const [f, film] of step.films.entries()) own(film.id, 'slides', i, 'steps', k, 'films', f, 'id')
    }
    for (const [k, step] of slide.offered.entries()) own(step.id, 'slides', i, 'offered', k, 'id')
  }
  const slides = new Set(bundle.slides.map((slide) => slide.id))
  const footage = new Map(bundle.footage.map((one) => [one.id, one]))
  for (const [i, one] of bundle.footage.entries()) own(one.id, 'footage', i, 'id')
  const takes = new Map(bundle.takes.map((take) => [take.id, take]))
  const numbers = new Set<string>()
  for (const [i, take] of bundle.takes.entries()) {
    own(take.id, 'takes', i, 'id')
    if (!slides.has(take.slideId)) say('names a slide that is not in it', 'takes', i, 'slideId')
    const number = `${take.slideId} ${take.number}`
    if (numbers.has(number)) say('is there twice on its slide', 'takes', i, 'number')
    numbers.add(number)
    for (const [k, cut] of take.footage.entries())
      if (!footage.has(cut.footageId)) say('names a footage that is not in it', 'takes', i, 'footage', k)
      else if (cut.end <= cut.start || cut.end > take.samples + TAIL_SAMPLES)
        say('reaches past the end of its recording', 'takes', i, 'footage', k)
    const { kept, cuts = [], pauseCuts = [], silenced = [], gains = [], roomTone = null } = take.tidyUp ?? {}
    const stretches = [...(kept ? [kept] : []), ...cuts, ...pauseCuts, ...silenced, ...gains.map((g) => g.stretch)]
    if ([...stretches, ...(roomTone ? [roomTone] : [])].some((stretch) => stretch.end > take.samples))
      say('reaches past the end of its recording', 'takes', i, 'tidyUp')
  }
  for (const [i, slide] of bundle.slides.entries())
    if (slide.keptTakeId !== null && takes.get(slide.keptTakeId)?.slideId !== slide.id)
      say('names a take that is not one of its slide', 'slides', i, 'keptTakeId')
  for (const [i, track] of bundle.captionTracks.entries()) {
    own(track.id, 'captionTracks', i, 'id')
    for (const [k, cue] of track.cues.entries()) {
      own(cue.id, 'captionTracks', i, 'cues', k, 'id')
      if (!slides.has(cue.slideId)) say('names a slide that is not in it', 'captionTracks', i, 'cues', k, 'slideId')
      if (cue.takeId !== null && !takes.has(cue.takeId))
        say('names a take that is not in it', 'captionTracks', i, 'cues', k, 'takeId')
    }
  }
  for (const [i, bed] of bundle.beds.entries()) own(bed.id, 'beds', i, 'id')
  return found
}

export const Bundle = Form.superRefine((bundle, context) => {
  for (const misfit of misfits(bundle)) context.addIssue({ code: 'custom', ...misfit })
})
export type Bundle = z.infer<typeof Bundle>

/** @returns names of the files that a bundle's pictures, films and sounds are, each once */
export const filesNamed = (bundle: Bundle): string[] => [
  ...new Set([
    ...bundle.slides.flatMap((slide) => [...slide.steps, ...slide.offered].map((step) => step.picture)),
    ...bundle.slides.flatMap((slide) => slide.steps.flatMap((step) => step.films.map((film) => film.original))),
    ...bundle.takes.map((take) => take.sound),
    ...bundle.footage.map((one) => one.original),
    ...bundle.beds.map((bed) => bed.sound),
  ]),
]

/**
 * The same bundle with other ids, so that it can stand beside the lecture it came from. Every id is made anew, those too that name
 * something that was left behind, so that nothing in it names a thing of another lecture.
 *
 * @param fresh makes a new id
 */
export function renamed(bundle: Bundle, fresh: () => string): Bundle {
  const ids = new Map<string, string>()
  const anew = (id: string): string => {
    const known = ids.get(id) ?? fresh()
    ids.set(id, known)
    return known
  }
  const orNull = (id: string | null) => (id === null ? null : anew(id))
  const pictures = (steps: Bundle['slides'][number]['steps']) =>
    steps.map((step) => ({
      ...step,
      id: anew(step.id),
      films: step.films.map((film) => ({ ...film, id: anew(film.id) })),
    }))
  return {
    ...bundle,
    slides: bundle.slides.map((slide) => ({
      ...slide,
      id: anew(slide.id),
      keptTakeId: orNull(slide.keptTakeId),
      steps: pictures(slide.steps),
      offered: pictures(slide.offered),
    })),
    footage: bundle.footage.map((one) => ({ ...one, id: anew(one.id), takeId: anew(one.takeId) })),
    takes: bundle.takes.map((take) => ({
      ...take,
      id: anew(take.id),
      slideId: anew(take.slideId),
      footage: take.footage.map((cut) => ({ ...cut, footageId: anew(cut.footageId) })),
      stepMoments: Object.fromEntries(Object.entries(take.stepMoments).map(([step, at]) => [anew(step), at])),
      marks: take.marks.map((mark) => {
        if (mark.kind === 'slide') return { ...mark, slideId: anew(mark.slideId) }
        return mark.kind === 'step' ? { ...mark, stepId: anew(mark.stepId) } : mark
      }),
    })),
    captionTracks: bundle.captionTracks.map((track) => ({
      ...track,
      id: anew(track.id),
      cues: track.cues.map((cue) => ({ ...cue, id: anew(cue.id), slideId: anew(cue.slideId), takeId: orNull(cue.takeId) })),
      translations: track.translations.map((said) => ({ ...said, cueId: anew(said.cueId) })),
    })),
    beds: bundle.beds.map((bed) => ({
      ...bed,
      id: anew(bed.id),
      settings: {
        ...bed.settings,
        fromSlideId: anew(bed.settings.fromSlideId),
        toSlideId: anew(bed.settings.toSlideId),
      },
    })),
  }
}
