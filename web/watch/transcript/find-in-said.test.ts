/** Finding words in what is said. */
import { expect, test } from 'vitest'
import { findInSaid } from '#web/watch/transcript/find-in-said.ts'

const said = ['Wie viel Regen fällt', 'auf der Wiese? L’élève', 'misst ihn. Regen, Regen!'].map((text) => ({ text }))
const found = (sought: string) => {
  const { found: pieces, count } = findInSaid(said, sought)
  return [pieces.map((piece) => said.indexOf(piece)), count]
}

test('words that a caption border divides are found', () => expect(found('fällt auf')).toEqual([[0, 1], 1]))
test('case and accents do not count', () => {
  expect(found('FALLT')).toEqual([[0], 1])
  expect(found("l'eleve")).toEqual([[1], 1])
})
test('every place is counted', () => expect(found('regen')).toEqual([[0, 2], 3]))
test('what is not there is not found, and nothing sought leaves all', () => {
  expect(found('Schnee')).toEqual([[], 0])
  expect(found('  ')).toEqual([[0, 1, 2], 0])
})
