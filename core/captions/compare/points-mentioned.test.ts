import { expect, test } from 'vitest'
import { pointsNotMentioned } from './points-mentioned.ts'

const POINTS = ['Where the gauge stands', 'Twice as far from a tree as it is tall', 'Fences']

test('a point came up when half of its words did, in whatever form', () => {
  const said = 'So, I am standing beside our gauges. A tree must be twice as far away as it is tall.'
  expect(pointsNotMentioned(POINTS, said, 'en')).toEqual(['Fences'])
  expect(pointsNotMentioned(POINTS, `${said} A fence is a small tree.`, 'en')).toEqual([])
  expect(pointsNotMentioned(['Die Höhe der Bäume'], 'Wie hoch ist ein Baum? Auf die Höhe kommt es an.', 'de')).toEqual([])
})

test('words that stand in every sentence do not count, and a point of none of the others never lacks', () => {
  expect(pointsNotMentioned(['It is the rain', 'And so on'], 'It is what it is, and the sun is out.', 'en')).toEqual([
    'It is the rain',
  ])
  expect(pointsNotMentioned(['雨量計の高さ'], '今日は雨量計の高さについて話します。', 'ja')).toEqual([])
  expect(pointsNotMentioned([], 'Anything', 'en')).toEqual([])
})
