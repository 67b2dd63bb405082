import { expect, test } from 'vitest'
import { NO_TRANSITION, TRANSITION_WORDS, TRANSITIONS, Transition } from '#core/model/transition.ts'

const WHOLE = { opacity: 1, cutLeft: 0, newShift: 0, oldShift: 0 }

test.each(Object.entries(TRANSITIONS))('%s ends with the new picture whole and in its place', (_, { layout }) => {
  const { oldShift: _old, ...end } = layout(1)
  const { oldShift: _whole, ...whole } = WHOLE
  expect(end).toEqual(whole)
})

test('half way: a cross-fade is half seen, a wipe half uncovered from the right, a push half moved with the old one before it', () => {
  expect(TRANSITIONS['cross-fade'].layout(0.5)).toEqual({ ...WHOLE, opacity: 0.5 })
  expect(TRANSITIONS.wipe.layout(0.25)).toEqual({ ...WHOLE, cutLeft: 0.75 })
  expect(TRANSITIONS.push.layout(0.25)).toEqual({ ...WHOLE, newShift: 0.75, oldShift: -0.25 })
})

test('a kind that is none, and lengths out of bounds, are refused; a plain cut is a kind', () => {
  expect(Transition.safeParse({ kind: 'spin', seconds: 0.5 }).success).toBe(false)
  expect(Transition.safeParse({ kind: 'wipe', seconds: 0.1 }).success).toBe(false)
  expect(Transition.safeParse({ kind: 'wipe', seconds: 1.6 }).success).toBe(false)
  expect(Transition.parse(NO_TRANSITION)).toEqual({ kind: 'none', seconds: 0.5 })
  expect(Object.keys(TRANSITION_WORDS)).toEqual(['none', ...Object.keys(TRANSITIONS)])
})
