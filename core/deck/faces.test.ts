import { expect, test } from 'vitest'
import { faceOf } from './faces.ts'

test.each([
  ['Calibri', 'carlito'],
  ['Calibri Light', 'carlito'],
  ['Cambria', 'caladea'],
  ['Arial', 'arimo'],
  ["'Times New Roman'", 'tinos'],
  ['Courier New', 'cousine'],
])('%s has a twin (fontconfig, 30-metric-aliases.conf)', (name, face) => expect(faceOf(name)).toBe(face))
test.each([
  ['Georgia', 'tinos'],
  ['Verdana', 'arimo'],
  ['Consolas', 'cousine'],
  ['Noto Serif', 'tinos'],
  ['DejaVu Sans Mono', 'cousine'],
  ['Some Sans Serif', 'arimo'],
])('%s is of a class', (name, face) => expect(faceOf(name)).toBe(face))
test.each(['Lucida Sans Unicode', 'Century Gothic', 'Bookshelf Symbol', 'Romantica', 'Monotype Corsiva', ''])(
  '“%s” is no typewriter and has no serifs because of a bit of its name',
  (name) => expect(faceOf(name)).toBe('arimo'),
)
test('what the deck says of a family that nobody knows', () => {
  expect(faceOf('Unknown', { panose: '02020603050405020304' })).toBe('tinos')
  expect(faceOf('Unknown', { panose: '020B0604020202020204' })).toBe('arimo')
  expect(faceOf('Unknown', { panose: '02070309020205020404' })).toBe('cousine')
  expect(faceOf('Unknown', { pitchFamily: '18' })).toBe('tinos')
  expect(faceOf('Unknown', { pitchFamily: '34' })).toBe('arimo')
  expect(faceOf('Unknown', { pitchFamily: '49' })).toBe('cousine')
})
