import { expect, test } from 'vitest'
import { guessWord, vocabularyOf } from './guess-word.ts'

const vocabulary = vocabularyOf([
  'The meniscus in the tube\nMeasuring',
  'We are measuring in Kyoto. The measurement is read at the bottom; the measurement is written down. The measurement counts.',
])

test('a word is guessed from its first letters, the nearest and most frequent first', () => {
  expect(guessWord(vocabulary, 'Read the men')).toBe('iscus')
  expect(guessWord(vocabulary, 'It is meas')).toBe('uring')
  expect(guessWord(vocabulary, 'the measure')).toBe('ment')
  expect(guessWord(vocabulary, 'in Ky')).toBe('oto')
  expect(guessWord(vocabulary, 'in ky')).toBe('oto')
})

test('nothing is guessed where it would spare too little, or where no word is begun', () => {
  expect(guessWord(vocabulary, 'm')).toBeNull()
  expect(guessWord(vocabulary, 'bott')).toBeNull()
  expect(guessWord(vocabulary, 'the tube ')).toBeNull()
  expect(guessWord(vocabulary, 'zebra')).toBeNull()
  expect(guessWord(vocabularyOf([]), 'men')).toBeNull()
})
