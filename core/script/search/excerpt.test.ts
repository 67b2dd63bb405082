import { expect, test } from 'vitest'
import { excerpt } from './excerpt.ts'

const LONG =
  'The first gauge was a bowl on a roof. Its keeper read it every morning at seven and wrote the figure down. When the École took it over, a funnel of eight inches was laid over it, so that what fell could not splash out again, and the bowl was forgotten.'

test('the words around what was sought are shown, whole', () => {
  expect(excerpt(LONG, ['ecole'])).toBe(
    '…and wrote the figure down. When the École took it over, a funnel of eight inches was laid over it, so that what fell could not…',
  )
})

test('the first of several counts, and case does not', () => {
  expect(excerpt(LONG, ['FUNNEL', 'bowl'])).toMatch(/^The first gauge was a bowl on a roof\. .*…$/)
})

test('of a text that holds nothing of it the beginning is shown, of a short one all', () => {
  expect(excerpt('Clouds\nby their  shapes', ['snow'])).toBe('Clouds by their shapes')
  expect(excerpt('', ['snow'])).toBe('')
  expect(excerpt('', [])).toBe('')
})

test('scripts without spaces are cut between letters', () => {
  const said = '雲の形を見て、天気を知ります。'.repeat(20)
  const shown = excerpt(said, ['天気'])
  expect(shown).toContain('天気を知ります')
  expect([...shown].length).toBeLessThan(132)
})

test('what becomes longer when it is made plain does not move the place', () => {
  expect(excerpt(`${'ﬃ '.repeat(60)}snow falls ${'x '.repeat(80)}`, ['snow'])).toContain('snow falls')
})
