/** Which scripts are points. */
import { expect, test } from 'vitest'
import { spokenLength } from './pace.ts'
import { pointsOf, textOf } from './points.ts'

test.each([
  ['• Funnel\n• Inner tube', ['Funnel', 'Inner tube']],
  ['- Funnel\n\n- Inner tube\n', ['Funnel', 'Inner tube']],
  ['• Funnel, eight\n  inches across\n• Tube', ['Funnel, eight inches across', 'Tube']],
  ['• Only one', ['Only one']],
  ['  – القمع\n  – الأنبوب', ['القمع', 'الأنبوب']],
  ['* a\n* ', null],
])('%j are points', (script, points) => {
  expect(pointsOf(script)).toEqual(points)
})

test.each([
  '',
  '  \n',
  'The gauge has four parts.',
  '- Bonjour, dit-elle.',
  'Today:\n• Funnel\n• Tube',
  '• Funnel\nAnd this is read out.',
  '-5 degrees is cold.\n-6 is colder.',
])('%j is a text', (script) => {
  expect(pointsOf(script)).toBeNull()
  expect(textOf(script)).toBe(script)
})

test('points take as long as one speaks about each; their words are not counted', () => {
  expect(spokenLength('• Funnel\n• Inner tube', 'en')).toEqual({ words: 0, points: 2, seconds: 40 })
  expect(spokenLength('Nothing is lost.', 'en')).toEqual({ words: 3, points: 0, seconds: (3 / 145) * 60 })
  expect(spokenLength('', 'en')).toEqual({ words: 0, points: 0, seconds: 0 })
})
