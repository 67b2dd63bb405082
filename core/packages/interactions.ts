/**
 * Answers as learning platforms write them down.
 *
 * @see SCORM 1.2 Run-Time Environment, §3.4.4 (interactions); SCORM 2004 4th edition, Run-Time Environment, §4.2.9; xAPI 1.0.3, part 2, §2.4.4.1
 */
import type { Answered } from '#core/model/question.ts'

const KINDS = { one: 'choice', several: 'choice', number: 'numeric', word: 'fill-in' } as const

/** How one of the standards writes what was chosen. */
export interface Interaction {
  id: string
  type: (typeof KINDS)[keyof typeof KINDS]
  response: string
  isRight: boolean
  text: string
}

/** Places of options are named by letters, which every standard takes. */
const letter = (place: number) => String.fromCharCode(97 + place)

/** SCORM 1.2 has 255 characters for an answer, 2004 250 for a word. */
const MOST_CHARACTERS = 250

/** @param separator between several choices: a comma in SCORM 1.2, `[,]` since */
export function interactionOf({ question, index, answer, isRight }: Answered, separator: ',' | '[,]'): Interaction {
  const response =
    'options' in question
      ? [answer]
          .flat()
          .map((place) => letter(Number(place)))
          .sort()
          .join(separator)
      : String(answer).slice(0, MOST_CHARACTERS)
  return { id: `question-${index + 1}`, type: KINDS[question.kind], response, isRight, text: question.text }
}
