/** Words that go from script to script. */
import { expect, test } from 'vitest'
import { moveText } from './move-text.ts'

test('they go with the white space they have, before or after', () => {
  const from = 'Nothing is lost.\n\nKeep the\nstick dry. Good.'
  expect(moveText(from, 'The next.', 'Keep the stick dry.', 'start')).toEqual({
    from: 'Nothing is lost. Good.',
    to: 'Keep the\nstick dry. The next.',
  })
  expect(moveText(from, '', 'Good.', 'end')).toEqual({ from: 'Nothing is lost.\n\nKeep the\nstick dry.', to: 'Good.' })
})

test('words with signs of their own are taken as they are', () => {
  expect(moveText('Is it 0.5 (about)? Yes.', 'B', '0.5 (about)?', 'end')).toEqual({ from: 'Is it Yes.', to: 'B 0.5 (about)?' })
})

test('words that are not there one after the other change nothing', () => {
  expect(moveText('Nothing is lost.', '', 'is all', 'end')).toBeNull()
  expect(moveText('Nothing is lost.', '', ' ', 'end')).toBeNull()
})
