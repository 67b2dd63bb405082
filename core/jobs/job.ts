/** Work that outlives a request: what each kind is given, what it gives, and what is to be seen of it before it ends. */

import { SampleRange } from '#core/model/sample-range.ts'
import { KeptMessage } from '#core/words/kept-message.ts'
import { z } from '#core/zod.ts'

const Id = z.string()
/** A file of the store, as the person calls it. */
export const GivenFile = z.object({ name: z.string(), file: z.string() })
export type GivenFile = z.infer<typeof GivenFile>

/** `id` is of what comes of it: given with the job, so that one that is taken up again after a restart makes nothing twice. */
const GivenSound = GivenFile.extend({ id: Id })
/** What is told once, where a file could not be read as a whole. */
const note = KeptMessage.nullable().default(null)
const nothing = z.null()

/** A lecture that came of files. */
export const ImportedLecture = z.object({
  lectureId: Id,
  /** Names of files for which there was no use: sounds without a slide, what lay in a zip beside its pictures. */
  unmatched: z.array(z.string()),
  /** Names of given files that are shown on their slides as films; absent in what an earlier version made. */
  films: z.array(z.string()).default([]),
  /** Jobs that bring the sounds to their slides. */
  sounds: z.array(Id),
})
export type ImportedLecture = z.infer<typeof ImportedLecture>

/** What is to be seen of a deck while the rest of it is read. */
const RowsSoFar = z.object({ rows: z.array(z.object({ title: z.string(), thumbnail: z.string() })) })
export type RowsSoFar = z.infer<typeof RowsSoFar>

/** Slides in the order they are spoken of, and the samples at which the second and each further one begins. */
export const Division = z.object({
  slideIds: z.array(Id).min(1).max(1000),
  boundaries: z.array(z.number().int().positive()),
})
export type Division = z.infer<typeof Division>

export const SaidAgain = z.object({
  /** The take that has the sentence, and the one in which only the sentence is said. */
  takeId: z.uuid(),
  againTakeId: z.uuid(),
  /** The sentence, or the sentences, and where its captions stand, samples of the first. */
  text: z.string().max(20_000),
  start: z.number().int().nonnegative(),
  end: z.number().int().positive(),
})
export type SaidAgain = z.infer<typeof SaidAgain>

export const MovedWords = z.object({
  /** The take that has them, and the stretch of it in which they are, samples. */
  takeId: z.uuid(),
  cut: SampleRange,
  /** The slide they go to, and whether before or after what is said there. */
  slideId: z.uuid(),
  at: z.enum(['start', 'end']),
})
export type MovedWords = z.infer<typeof MovedWords>

/** Each kind of job: what it is given, what it gives, and what stands as its result until it has one. */
export const JOBS = {
  /** A deck, pictures or a bundle become a lecture. */
  import: {
    payload: z.object({
      lectureId: Id,
      /** Where nothing better is found. */
      language: z.string(),
      /** By somebody, before or while the deck is read; null to find it. */
      chosenLanguage: z.string().nullable().default(null),
      files: z.array(GivenFile),
    }),
    result: ImportedLecture,
    soFar: RowsSoFar,
  },
  /** The demo lecture is made, or what of it is missing. */
  demo: { payload: z.object({ lectureId: Id }), result: ImportedLecture, soFar: RowsSoFar },
  /** A new version of a deck is compared with its lecture. */
  replace: {
    payload: z.object({ lectureId: Id, files: z.array(GivenFile) }),
    /** `unmatched`: names of files for which there was no use. */
    result: z.object({ replacementId: Id, unmatched: z.array(z.string()).default([]) }),
    soFar: RowsSoFar,
  },
  /** A take is analysed, and its clip rendered. */
  tidy: { payload: z.object({ takeId: Id }), result: nothing, soFar: nothing },
  /** The words of a slide's script are found in its kept take. */
  align: {
    /** `soundsOnly`: what was found of its words by an earlier version stays. `captionsOnly`: what lies between its words can wait. */
    payload: z.object({ slideId: Id, soundsOnly: z.boolean().optional(), captionsOnly: z.boolean().optional() }),
    result: nothing,
    soFar: nothing,
  },
  /** It is found for each word of a slide's script whether an answer has it. */
  'read-answer': { payload: z.object({ takeId: Id }), result: nothing, soFar: nothing },
  /** A sound file becomes a take of a slide. */
  'import-sound': {
    payload: GivenSound.extend({ slideId: Id }),
    result: z.object({ takeId: Id, note }),
    soFar: nothing,
  },
  /** A sound file becomes music or room sound under slides. */
  bed: {
    payload: GivenSound.extend({ lectureId: Id, run: z.object({ fromSlideId: Id, toSlideId: Id }) }),
    result: z.object({ bedId: Id, note }),
    soFar: nothing,
  },
  /** A long sound file is kept whole, to be divided. */
  recording: {
    payload: GivenSound.extend({ lectureId: Id }),
    result: z.object({ recordingId: Id, lectureId: Id, note }),
    soFar: nothing,
  },
  /** A long recording becomes a take a slide. */
  'split-recording': {
    payload: Division.extend({ recordingId: Id, takeIds: z.array(Id) }),
    result: z.object({ takes: z.number().int() }),
    soFar: nothing,
  },
  /** What was recorded straight through becomes a take a slide. */
  'split-session': {
    payload: z.object({ takeId: Id }),
    result: z
      .object({
        recordingId: Id,
        lectureId: Id,
        takes: z.number().int(),
        /** Changes of slide that were moved to a pause, and those that have none near. */
        moved: z.number().int(),
        outside: z.number().int(),
      })
      .nullable(),
    soFar: nothing,
  },
  /** A sentence that was said again is put into its place. */
  'patch-sentence': { payload: SaidAgain.extend({ id: Id }), result: z.object({ takeId: Id }), soFar: nothing },
  /** Words of one slide are laid beside those of another. */
  'move-words': { payload: MovedWords.extend({ id: Id }), result: z.object({ takeId: Id }), soFar: nothing },
  /** A film is made ready to be shown everywhere. */
  film: { payload: z.object({ filmId: Id }), result: z.object({ filmId: Id, notes: z.array(KeptMessage) }), soFar: nothing },
  /** What was recorded by screen or camera is made ready to be shown everywhere. */
  footage: { payload: z.object({ footageId: Id }), result: nothing, soFar: nothing },
  /** Captions are written by a recogniser. */
  recognise: { payload: z.object({ slideId: Id }), result: z.object({ captions: z.number().int(), note }), soFar: nothing },
  /** Segments are encoded before anybody asks. */
  'pre-encode': { payload: z.object({ lectureId: Id }), result: nothing, soFar: nothing },
  /** An edition is made. */
  publish: {
    payload: z.object({ lectureId: Id }),
    result: z.object({ editionId: Id, number: z.number().int() }),
    soFar: nothing,
  },
} as const

export type JobKind = keyof typeof JOBS
export const JOB_KINDS = Object.keys(JOBS) as [JobKind, ...JobKind[]]
export type JobPayload<K extends JobKind> = z.infer<(typeof JOBS)[K]['payload']>
export type JobResult<K extends JobKind> = z.infer<(typeof JOBS)[K]['result']>
export type JobSoFar<K extends JobKind> = z.infer<(typeof JOBS)[K]['soFar']>
