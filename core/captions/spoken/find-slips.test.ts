/** What is offered to be cut out, from an alignment, sounds and pauses. */
import { expect, test } from 'vitest'
import type { Alignment, SentenceSpan } from '#core/captions/align/align.ts'
import type { HeardSound } from '#core/model/take.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { findSlips, ownSounds } from './find-slips.ts'

/** Words of half a second each. */
const span = (text: string, start: number, partial = false): SentenceSpan => {
  const words = text.split(' ').map((w, k) => ({ k, w, start: start + k / 2, end: start + k / 2 + 0.5 }))
  return { start, end: words.at(-1)!.end, partial, words }
}
const aligned = (sentences: [string, SentenceSpan[]][], offScript: Alignment['offScript'] = []): Alignment => ({
  sentences: sentences.map(([text, spans], i) => ({ i, text, skipped: false, confidence: 1, needsReview: false, spans })),
  offScript,
})
const slips = (alignment: Alignment | null, sounds: HeardSound[] = [], speech: [number, number][] = []) =>
  findSlips({
    samples: toSamples(60),
    analysis: {
      speech: speech.map(([start, end]) => ({ start: toSamples(start), end: toSamples(end) })),
      trailingUtterance: null,
    },
    alignment,
    sounds,
  })

test('a beginning goes with the words of nobody between it and the sentence; its neighbours are told', () => {
  const alignment = aligned(
    [
      ['Nothing is lost.', [span('Nothing is lost.', 1)]],
      ['The water climbs the wall.', [span('The water', 4, true), span('The water climbs the wall.', 7)]],
    ],
    [{ start: 5.4, end: 6 }],
  )
  expect(slips(alignment)).toEqual([
    {
      kind: 'begun-anew',
      start: 4,
      end: 6,
      text: 'The water',
      words: { before: toSamples(2.5), first: toSamples(4), last: toSamples(6), after: toSamples(7) },
    },
  ])
})

test('of a sentence said three times two go, each by itself', () => {
  const alignment = aligned([['Keep it dry.', [span('Keep it dry.', 1), span('Keep it dry.', 4), span('Keep it dry.', 7)]]])
  expect(slips(alignment).map(({ kind, start, end }) => [kind, start, end])).toEqual([
    ['said-twice', 1, 2.5],
    ['said-twice', 4, 5.5],
  ])
})

test('where another sentence stands between a saying and the next, only the saying goes', () => {
  const alignment = aligned(
    [
      ['Look here.', [span('Look here.', 1), span('Look here.', 7)]],
      ['Now write.', [span('Now write.', 4)]],
    ],
    [{ start: 2.2, end: 3 }],
  )
  expect(slips(alignment).map(({ end }) => end)).toEqual([2])
})

test('a broken beginning that no whole sentence follows is no slip: it is all there is', () => {
  expect(slips(aligned([['The water climbs.', [span('The water', 1, true)]]]))).toEqual([])
})

test('sounds between words are offered, those that are words are not, those that go with a beginning go with it', () => {
  const alignment = aligned([
    ['One two.', [span('One', 1, true), span('One two.', 4)]],
    ['Three four.', [span('Three four.', 8)]],
  ])
  const sound = (kind: HeardSound['kind'], start: number, end: number) => ({ kind, start, end, certainty: 0 })
  const found = slips(alignment, [
    sound('filled-pause', 1.2, 1.4),
    sound('filled-pause', 8.1, 8.4),
    sound('filled-pause', 6, 6.4),
    sound('cough', 11, 11.3),
  ])
  expect(found.map(({ kind, start }) => [kind, start])).toEqual([
    ['begun-anew', 1],
    ['filled-pause', 6],
    ['cough', 11],
  ])
  expect(found[1]!.words).toEqual({ before: toSamples(5), first: toSamples(6), last: toSamples(6.4), after: toSamples(8) })
  expect(found[2]!.words!.after).toBeNull()
})

test('without a script sounds are found all the same, with the speech around them', () => {
  const found = slips(
    null,
    [{ kind: 'filled-pause', start: 3, end: 3.4, certainty: 0 }],
    [
      [1, 2.8],
      [3, 3.4],
      [3.6, 5],
    ],
  )
  expect(found.map(({ kind }) => kind)).toEqual(['filled-pause'])
  expect(found[0]!.words).toEqual({ before: toSamples(2.8), first: toSamples(3), last: toSamples(3.4), after: toSamples(3.6) })
})

test('a rest inside a sentence is long after 1.2 s, between two sentences after three; both are shortened in their middle', () => {
  const inside: SentenceSpan = {
    start: 1,
    end: 5,
    partial: false,
    words: [
      { k: 0, w: 'Lower', start: 1, end: 2 },
      { k: 1, w: 'it', start: 4, end: 5 },
    ],
  }
  const alignment = aligned([
    ['Lower it', [inside]],
    ['Read it', [span('Read it', 7)]],
    ['Write it', [span('Write it', 12)]],
  ])
  const found = slips(
    alignment,
    [],
    [
      [1, 2],
      [4, 5],
      [7, 8],
      [12, 13],
    ],
  )
  expect(found.map(({ kind, start, end }) => [kind, start, end])).toEqual([
    ['hesitation', 2.3, 3.7],
    ['long-pause', 8.5, 11.5],
  ])
})

test('words after a long pause at the very end are offered with all that follows', () => {
  const found = findSlips({
    samples: toSamples(20),
    analysis: { speech: [], trailingUtterance: { start: toSamples(18), end: toSamples(19) } },
    alignment: null,
    sounds: [],
  })
  expect(found).toEqual([{ kind: 'stray-end', start: 18, end: 20, text: '', words: null }])
})

test('a greeting that stands alone between rests is words, however much it sounds like an um; a word drawn to an um is not', () => {
  const um = (certainty: number) => [{ kind: 'filled-pause' as const, start: 1.9, end: 2.86, certainty }]
  const word = (text: string, start: number, end: number) => ({ text, start, end, kind: 'script' as const, utterance: 0 })
  const greeting = [word('Good', 1.9, 2.1), word('evening,', 2.1, 2.86), word('and', 3, 3.2)]
  expect(ownSounds(um(1.73), greeting)).toEqual([])
  // what is one beyond doubt stays one
  expect(ownSounds(um(4.5), greeting)).toHaveLength(1)
  // the first word of the sentence, said after the um, begins too early
  expect(ownSounds(um(1.73), [word('Water', 1.9, 3.6)])).toHaveLength(1)
  expect(ownSounds(um(0.5), [word('Water', 1.9, 3.6)])).toEqual([])
})
