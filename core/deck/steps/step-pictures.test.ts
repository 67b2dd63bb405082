import { expect, test } from 'vitest'
import type { Drawing } from '../deck.ts'
import { stepPictures } from './step-pictures.ts'
import type { EffectGroup, SlideState } from './steps.ts'

const drawn = (state: SlideState): Drawing => ({
  width: 10,
  height: 10,
  background: { kind: 'solid', colour: '#ffffff' },
  items: [...state].flatMap(([target, { hidden }]) => {
    const box = { x: Number(target), y: 0, width: 1, height: 1, rotation: 0, flipX: false, flipY: false }
    return hidden ? [] : [{ kind: 'shape' as const, box, path: [], fill: null, line: null, text: null }]
  }),
})
const clicks = (count: number): EffectGroup[] =>
  Array.from({ length: count }, (_, i) => ({
    effects: [{ target: String(i), part: { kind: 'whole' }, change: { kind: 'show' } }],
    afterSeconds: null,
  }))

test('each click that shows something is a picture', () => {
  const { drawing, steps, untaken } = stepPictures({ groups: clicks(3), untaken: 0 }, drawn)
  expect([drawing, ...steps.map((step) => step.drawing)].map(({ items }) => items.length)).toEqual([0, 1, 2, 3])
  expect(untaken).toBe(0)
})
test('of very many the last have pictures, with all that came before; the others are counted', () => {
  const { drawing, steps, untaken } = stepPictures({ groups: clicks(70), untaken: 2 }, drawn)
  expect(drawing.items).toHaveLength(0)
  expect(steps.map((step) => step.drawing.items.length)).toEqual(Array.from({ length: 60 }, (_, i) => 11 + i))
  expect(untaken).toBe(12)
})
