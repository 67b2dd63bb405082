/** What is said in a film, to be read: its captions belong to the film, wherever it is shown. */
import { Language } from '#core/language-tag.ts'
import { z } from '../../zod.ts'

/** As much as may be said in the longest film. */
export const MOST_FILM_CUES = 3000
const seconds = z.number().min(0).max(86_400)

export const FilmCue = z.object({
  /** Of the film's file. */
  start: seconds,
  end: seconds,
  text: z.string().min(1).max(2000),
  /** WebVTT cue text that says the same with tags; null where the text is plain. */
  markup: z.string().max(4000).nullable(),
  settings: z.string().max(200),
})
export type FilmCue = z.infer<typeof FilmCue>

/** One file of them. */
export const FilmCaptions = z.object({
  language: Language,
  name: z.string().max(1000),
  cues: z.array(FilmCue).max(MOST_FILM_CUES),
})
export type FilmCaptions = z.infer<typeof FilmCaptions>
