/** Sums of many terms, for the expressions of the media tool. */
import { expect, test } from 'vitest'
import { sumOf } from '#server/encode/sum-expression.ts'

test('a sum of any length has no more than fifty terms in a row, and is the same sum', () => {
  for (const length of [1, 50, 51, 2500, 6000]) {
    const sum = sumOf(Array.from({ length }, (_, i) => `${i}`))
    let inner = sum
    let worked: string | null = null
    // from the inside out
    while (worked !== inner) {
      worked = inner
      inner = worked.replace(/\(([^()]*)\)/g, (_, terms: string) => {
        expect(terms.split('+').length).toBeLessThanOrEqual(50)
        return String(terms.split('+').reduce((all, term) => all + Number(term), 0))
      })
    }
    expect(inner.split('+').length).toBeLessThanOrEqual(50)
    expect(inner.split('+').reduce((all, term) => all + Number(term), 0)).toBe((length * (length - 1)) / 2)
  }
})
