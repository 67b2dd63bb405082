/** Recognisers: programs outside that write down what they hear. */

import { Language } from '#core/language-tag.ts'
import { bareLanguage } from '#core/script/language-tags.ts'
import { z } from '#core/zod.ts'

/** Of what passes between us and a recogniser; docs/formats.md describes it. */
export const RECOGNISER_PROTOCOL = 1

/** Samples a second of the sound it is given. */
export const LISTENING_RATE = 16_000

/** What a recogniser says of itself when it is asked with `--probe`. */
export const Probe = z.object({
  protocol: z.literal(RECOGNISER_PROTOCOL),
  name: z.string().min(1).max(100),
  /** BCP 47, without regions; null: it does not say. */
  languages: z.array(Language).max(300).nullable(),
  /** Whether it can listen now. */
  isReady: z.boolean(),
  /** What is missing, one sentence; '' where nothing is. */
  missing: z.string().max(500).default(''),
  /** Of 100 words of clean speech so many are heard wrongly, where somebody has measured it. */
  wrongOf100: z.number().min(0).max(100).nullable().default(null),
  /** It understands nothing and is there for trying things out. */
  isPractice: z.boolean().default(false),
  /** The files it hears by. */
  files: z
    .array(z.object({ name: z.string().max(300), bytes: z.number().nonnegative(), sha256: z.string().max(64) }))
    .default([]),
})
export type Probe = z.infer<typeof Probe>

/** What it is told besides the sound. */
export interface RecogniserContext {
  /** Where somebody speaks, seconds. */
  stretches: { start: number; end: number }[]
  /** What stands on the slide. */
  slide: string
  /** What is written elsewhere in the lecture: other slides and scripts. */
  lecture: string
}

/** One word it heard. */
export const HeardWord = z.object({
  text: z.string().min(1).max(200),
  /** Seconds of the sound it was given. */
  start: z.number().nonnegative(),
  end: z.number().nonnegative(),
  /** 0 to 1. */
  confidence: z.number().min(0).max(1).nullable().default(null),
})
export type HeardWord = z.infer<typeof HeardWord>

/** An answer in JSON. */
export const RecogniserAnswer = z.object({
  protocol: z.literal(RECOGNISER_PROTOCOL),
  words: z.array(HeardWord).max(200_000),
})

/** Whether it hears a language. @param language BCP 47 */
export const hears = ({ languages }: Pick<Probe, 'languages'>, language: string): boolean =>
  languages === null || languages.some((known) => bareLanguage(known) === bareLanguage(language))

/** The one to ask: the first that is ready and hears the language. @returns null when there is none */
export const recogniserFor = <T extends Pick<Probe, 'languages' | 'isReady'>>(known: readonly T[], language: string): T | null =>
  known.find((one) => one.isReady && hears(one, language)) ?? null
