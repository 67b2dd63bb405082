import { expect, test } from 'vitest'
import type { Alignment } from '#core/captions/align/align.ts'
import { momentsAtWords } from './step-words.ts'

/** A word each half second. */
function saidInTurn(...sentences: string[]): Alignment {
  let at = 0
  return {
    sentences: sentences.map((text, i) => {
      const words = text.split(' ').map((w, k) => {
        at += 0.5
        return { k, w, start: at, end: at + 0.4 }
      })
      const span = { start: words[0]!.start, end: words.at(-1)!.end, partial: false, words }
      return { i, text, skipped: false, confidence: 1, needsReview: false, spans: [span] }
    }),
    offScript: [],
  }
}

const steps = (...texts: string[]) => texts.map((text, i) => ({ id: `s${i}`, text }))
const heard = saidInTurn(
  'A gauge has four parts.',
  'On top there is a funnel which is eight inches across.',
  'Below it stands the inner tube, and around both the outer can.',
  'You read it with a measuring stick.',
)
const when = (word: string) => heard.sentences.flatMap((s) => s.spans[0]!.words).find(({ w }) => w.startsWith(word))!.start

test('each picture comes where its words are said, in order', () => {
  const found = momentsAtWords(
    steps('What is inside', 'A funnel, eight inches across', 'An inner tube', 'An outer can', 'A measuring stick'),
    heard,
  )
  expect(found.s1).toBeCloseTo(when('funnel') - 0.15)
  expect(found.s2).toBeCloseTo(when('inner') - 0.15)
  expect(found.s3).toBeCloseTo(when('outer') - 0.15)
  expect(found.s4).toBeCloseTo(when('measuring') - 0.15)
  expect(Object.values(found)).toEqual(Object.values(found).toSorted((a, b) => a - b))
})
test('what is not spoken of, or has no words, has no moment; the others keep theirs', () => {
  const found = momentsAtWords(steps('', 'Inner tubes', 'A barometer beside the hygrometer', '', 'Sticks for measuring'), heard)
  expect(Object.keys(found)).toEqual(['s1', 's4'])
})
test('words said in another order than they appear do not turn the pictures around', () => {
  const found = momentsAtWords(steps('', 'A measuring stick', 'A funnel, eight inches across', 'The inner tube'), heard)
  // the two that are in order are worth more than the one that is not
  expect(Object.keys(found)).toEqual(['s2', 's3'])
})
test('a sentence that was left out is not waited for', () => {
  const skipped = { ...heard, sentences: heard.sentences.map((s, i) => (i === 1 ? { ...s, skipped: true, spans: [] } : s)) }
  expect(Object.keys(momentsAtWords(steps('', 'A funnel, eight inches across', 'An inner tube'), skipped))).toEqual(['s2'])
})
