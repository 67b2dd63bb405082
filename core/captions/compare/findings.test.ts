/** When an alignment is believed, and what it tells beside the words. */
import { describe, expect, test } from 'vitest'
import type { AlignedSentence, SentenceSpan } from '#core/captions/align/align.ts'
import { findingsOf, isConvincing } from './findings.ts'

const span = (start: number, end: number, partial = false): SentenceSpan => ({ start, end, partial, words: [] })
const sentence = (letters: number, confidence: number, more: Partial<AlignedSentence> = {}): AlignedSentence => ({
  i: 0,
  text: 'x'.repeat(letters),
  skipped: false,
  confidence,
  needsReview: false,
  spans: [span(0, 1)],
  ...more,
})
const missing = (letters: number) => sentence(letters, 0, { skipped: true, spans: [] })
const believed = (...sentences: AlignedSentence[]) => isConvincing({ sentences, offScript: [] })

describe('an alignment is believed', () => {
  // thresholds: docs/figures/captions.md
  test.each([
    ['nothing', [], false],
    ['one that is found for certain', [sentence(20, 0.9)], true],
    ['nothing found', [missing(20)], false],
    ['half of the letters found', [sentence(20, 0.95), missing(20)], true],
    ['less than half of the letters', [sentence(19, 1), missing(20)], false],
    ['all found, at the least confidence', [sentence(20, 0.45), sentence(20, 0.45)], true],
    ['all found, below the least confidence', [sentence(20, 0.44), sentence(20, 0.44)], false],
    ['one sure sentence beside doubtful ones', [sentence(20, 0.75), sentence(40, 0.1)], true],
    ['one nearly sure sentence beside doubtful ones', [sentence(20, 0.74), sentence(40, 0.1)], false],
    ['one sure sentence beside ones not believed at all', [sentence(20, 0.75), sentence(40, 0.05)], false],
    ['a sure sentence that wants a look', [sentence(20, 0.75, { needsReview: true }), sentence(40, 0.1)], false],
    ['a sure sentence of twelve letters', [sentence(12, 0.8), sentence(20, 0.1)], true],
    ['a sure sentence of eleven letters, which fits anywhere', [sentence(11, 0.8), sentence(20, 0.1)], false],
    ['long sentences weigh more', [sentence(60, 0.5), sentence(10, 0.1)], false],
    ['what was not found counts as not believed', [sentence(30, 0.7), missing(20)], false],
  ])('%s: %j', (_, sentences, answer) => expect(believed(...sentences)).toBe(answer))
})

describe('what an alignment tells', () => {
  test('every saying before the one that counts, up to the next one', () => {
    const again = sentence(3, 1, { spans: [span(1, 2), span(3, 4), span(6, 8), span(9, 9.5, true)] })
    expect(findingsOf({ sentences: [again], offScript: [] }).repeated).toEqual([
      { text: 'xxx', start: 1, end: 3 },
      { text: 'xxx', start: 3, end: 6 },
    ])
    expect(findingsOf({ sentences: [sentence(3, 1)], offScript: [] }).repeated).toEqual([])
  })
  test('what was left out, what wants a look, and what is in no script', () => {
    const offScript = [{ start: 4, end: 5 }]
    const sentences = [sentence(1, 1), sentence(2, 0.2, { needsReview: true }), missing(3)]
    expect(findingsOf({ sentences, offScript })).toEqual({ repeated: [], offScript, skipped: ['xxx'], needsReview: ['xx'] })
  })
})
