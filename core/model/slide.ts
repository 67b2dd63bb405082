/** A slide: its pictures, its script, its takes. */
import { type Message, message } from '#core/words/say.ts'
import { z } from '../zod.ts'
import type { Film } from './moving/film.ts'
import type { SmallPictureException } from './moving/small-picture.ts'
import type { Question } from './question.ts'
import type { Take } from './take.ts'
import type { TimingExceptions } from './timing.ts'
import type { Transition } from './transition.ts'

/** A slide that is only text, made in the app: for openings, sections and endings. */
export const Card = z.object({
  heading: z.string().trim().min(1, message('A text slide needs a heading.').id).max(160),
  line: z.string().trim().max(400),
  colours: z.enum(['paper', 'ink', 'spruce', 'ochre']),
})
export type Card = z.infer<typeof Card>

export interface Step {
  id: string
  picture: string
  thumbnail: string
  width: number
  height: number
  /** Words that are new on it, where its deck says so; they tell when it is spoken of. */
  text: string
  /** Seconds after the one before, where its deck lets it come by itself; null where it waits. */
  afterSeconds: number | null
  /** What moves on it. */
  films: Film[]
}

export interface Slide {
  id: string
  title: string
  /** What its picture shows, for those who cannot see it. */
  altText: string
  /** The words on it were taken as its description, and nobody has looked at them yet. */
  isAltTextDraft: boolean
  script: string
  /** Of its script (BCP 47), where that is another than the lecture's. */
  language: string | null
  hidden: boolean
  keptTakeId: string | null
  /** Exceptions to the lecture's timing; an absent field follows the lecture. */
  timing: TimingExceptions
  /** How it takes over from the slide before; null follows the lecture. */
  transition: Transition | null
  /** What holds for the teacher's picture on it instead of the lecture's; null follows the lecture. */
  smallPicture: SmallPictureException | null
  /** What its picture was made from, when the app drew it. */
  card: Card | null
  /** What of its deck could not be taken over, one sentence each. */
  warnings: Message[]
  /** In its deck it shows all of the slide before and something more. */
  buildsOn: boolean
  /** Heading of the section that begins with it; '' where none does. */
  section: string
  /** What the lecture asks after it. */
  questions: Question[]
  steps: Step[]
  /** Pictures that its deck has for it beside those that are shown: one of them may be the right one. */
  offered: Step[]
  takes: Take[]
}
