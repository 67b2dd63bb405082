/** A question that a lecture asks after a slide: it serves attention, and is no examination. */
import { z } from '../zod.ts'

export const MOST_QUESTIONS = 3
export const OPTIONS = { least: 2, most: 8 }

const shared = {
  id: z.uuid(),
  text: z.string().trim().min(1).max(500),
  /** Shown after the answer, right or wrong; '' for none. */
  explanation: z.string().max(1000),
}
const options = z.array(z.string().trim().min(1).max(200)).min(OPTIONS.least).max(OPTIONS.most)
const place = z
  .number()
  .int()
  .min(0)
  .max(OPTIONS.most - 1)

export const Question = z
  .discriminatedUnion('kind', [
    /** One of the options is right. */
    z.object({ ...shared, kind: z.literal('one'), options, right: place }),
    /** All that are right must be chosen, and no other. */
    z.object({ ...shared, kind: z.literal('several'), options, right: z.array(place).min(1).max(OPTIONS.most) }),
    /** Right within a distance. */
    z.object({ ...shared, kind: z.literal('number'), right: z.number(), within: z.number().min(0) }),
    /** Any of these words is right, however it is capitalised. */
    z.object({ ...shared, kind: z.literal('word'), right: z.array(z.string().trim().min(1).max(100)).min(1).max(10) }),
  ])
  .refine((question) => !('options' in question) || [question.right].flat().every((chosen) => chosen < question.options.length))
export type Question = z.infer<typeof Question>
export type QuestionKind = Question['kind']
export const Questions = z.array(Question).max(MOST_QUESTIONS)

/** Places of options, a number or a word, as the question's kind is. */
export type Answer = number | number[] | string

const plain = (text: string) =>
  text
    .normalize('NFKC')
    .toLocaleLowerCase()
    .replace(/[\p{P}\s]+/gu, ' ')
    .trim()

/** A number as people write it, with a comma too; NaN for what is none. */
export const numberOf = (text: string): number => (text.trim() === '' ? Number.NaN : Number(text.trim().replace(',', '.')))

export function isRight(question: Question, answer: Answer): boolean {
  switch (question.kind) {
    case 'one':
      return answer === question.right
    case 'several': {
      const [chosen, right] = [new Set([answer].flat()), new Set<Answer>(question.right)]
      return chosen.size === right.size && [...right].every((one) => chosen.has(one as number))
    }
    case 'number':
      // a tenth and two tenths are three tenths, whatever a machine makes of them
      return typeof answer === 'number' && Math.abs(answer - question.right) <= question.within + 1e-9
    case 'word':
      return typeof answer === 'string' && question.right.some((word) => plain(word) === plain(answer))
  }
}

/** What is right, as it is read. */
export const rightInWords = (question: Question): string =>
  'options' in question
    ? [question.right]
        .flat()
        .map((place) => question.options[place]!)
        .join(', ')
    : question.kind === 'number' && question.within > 0
      ? `${question.right} ± ${question.within}`
      : [question.right].flat()[0]!.toString()

/** What somebody answered. */
export interface Answered {
  question: Question
  /** Place among all questions of the lecture, from 0. */
  index: number
  answer: Answer
  isRight: boolean
}

/** @returns 0 to 1: of all questions, those that were answered rightly; null where there are none */
export const scoreOf = (answered: readonly Answered[], questions: number): number | null =>
  questions === 0 ? null : new Set(answered.filter((one) => one.isRight).map((one) => one.index)).size / questions
