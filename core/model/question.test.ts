import { expect, test } from 'vitest'
import { type Answer, isRight, numberOf, Question, scoreOf } from './question.ts'

const shared = { id: crypto.randomUUID(), text: 'How many?', explanation: '' }
const one: Question = { ...shared, kind: 'one', options: ['a', 'b', 'c'], right: 1 }
const several: Question = { ...shared, kind: 'several', options: ['a', 'b', 'c'], right: [0, 2] }
const number: Question = { ...shared, kind: 'number', right: 0.3, within: 0.05 }
const word: Question = { ...shared, kind: 'word', right: ['Cirrus', 'feather cloud'] }

test.each<[Question, Answer, boolean]>([
  [one, 1, true],
  [one, 0, false],
  [several, [2, 0], true],
  [several, [0], false],
  [several, [0, 1, 2], false],
  [number, 0.35, true],
  [number, 0.1 + 0.2, true],
  [number, 0.36, false],
  [number, Number.NaN, false],
  [word, ' CIRRUS. ', true],
  [word, 'Feather-cloud', true],
  [word, 'cumulus', false],
  [word, '', false],
])('an answer is right or wrong by its kind: %#', (question, answer, right) => expect(isRight(question, answer)).toBe(right))

test('numbers are read as people write them', () => {
  expect([' 2,5', '-3.25', '1e3'].map(numberOf)).toEqual([2.5, -3.25, 1000])
  for (const text of ['', 'two', '1,2,3']) expect(numberOf(text)).toBeNaN()
})
test('what is right must be among the options, and something must be', () => {
  expect(Question.safeParse({ ...one, right: 3 }).success).toBe(false)
  expect(Question.safeParse({ ...several, right: [] }).success).toBe(false)
  expect(Question.safeParse({ ...word, right: [' '] }).success).toBe(false)
  for (const question of [one, several, number, word]) expect(Question.safeParse(question).success).toBe(true)
})
test('the score counts each question once, and those that were not answered as not right', () => {
  const answered = (index: number, isRight: boolean) => ({ question: one, index, answer: 1, isRight })
  expect(scoreOf([answered(0, true), answered(0, true), answered(1, false)], 4)).toBe(0.25)
  expect(scoreOf([], 2)).toBe(0)
  expect(scoreOf([], 0)).toBeNull()
})
