import { describe, expect, test } from 'vitest'
import type { Alignment } from '#core/captions/align/align.ts'
import type { StoredCue } from '#core/model/caption.ts'
import { carryCues } from './carry-cues.ts'

/** Two sentences of two words each, a second a word, beginning where it is said. */
const said = (...starts: (number | null)[]): Alignment => ({
  sentences: starts.map((start, i) => ({
    ...{ i, text: 'One two.', skipped: start === null, confidence: 1, needsReview: false },
    spans:
      start === null
        ? []
        : [
            {
              ...{ start, end: start + 2, partial: false },
              words: [0, 1].map((k) => ({ k, w: 'word', start: start + k, end: start + k + 1 })),
            },
          ],
  })),
  offScript: [],
})
const cue = (start: number, end: number): StoredCue => ({
  ...{ id: 'c', slideId: 's', takeId: 't', start, end, text: 'Un, deux.', markup: null, settings: '' },
  ...{ needsReview: false, scriptText: '', manualEdit: null },
})

describe('captions carried to another recording', () => {
  test('stay with their words, and with what lies between them', () => {
    expect(carryCues([cue(1, 3), cue(5, 7), cue(3, 5)], said(1, 5), said(2, 10), 20)).toEqual([
      { start: 2, end: 4, needsReview: false },
      { start: 10, end: 12, needsReview: false },
      { start: 4, end: 10, needsReview: false },
    ])
  })
  test('before the first word and after the last they keep their distance, within the recording', () => {
    expect(carryCues([cue(0, 1), cue(7, 8)], said(1, 5), said(2, 10), 12.5)).toEqual([
      { start: 1, end: 2, needsReview: false },
      { start: 12, end: 12.5, needsReview: false },
    ])
    expect(carryCues([cue(0.2, 0.4)], said(1, 5), said(0, 4), 20)![0]).toEqual({ start: 0, end: 0.3, needsReview: false })
  })
  test('where a sentence is not said any more they are marked, and where nothing is shared there are none', () => {
    expect(carryCues([cue(20, 22)], said(1, 20), said(2, null), 40)![0]!.needsReview).toBe(true)
    expect(carryCues([cue(1, 3)], said(1, null), said(null, 5), 20)).toBeNull()
  })
  test('a sentence that is said elsewhere now turns no time back: most decide, and its caption is marked', () => {
    expect(carryCues([cue(1, 3), cue(5, 7), cue(9, 11)], said(1, 5, 9), said(20, 2, 6), 30)).toEqual([
      { start: 0, end: 0.3, needsReview: true },
      { start: 2, end: 4, needsReview: false },
      { start: 6, end: 8, needsReview: false },
    ])
  })
})
