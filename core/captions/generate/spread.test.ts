/** Captions spread over the speech, to the hundredth. */
import { describe, expect, test } from 'vitest'
import { toSamples } from '#core/timing/clocks.ts'
import { spreadOverSpeech } from './spread.ts'

const spread = (texts: string[], ...speech: [number, number][]) =>
  spreadOverSpeech(
    texts,
    speech.map(([start, end]) => ({ start: toSamples(start), end: toSamples(end) })),
  ).map((s) => [Math.round(s.start * 100) / 100, Math.round(s.end * 100) / 100])
/** So many letters with the space after them. */
const text = (characters: number) => 'x'.repeat(characters - 1)

describe('a text has its share of the speech', () => {
  test('by its letters, and the last one stays a little', () =>
    expect(spread([text(10), text(30)], [1, 9])).toEqual([
      [1, 3],
      [3, 9.3],
    ]))
  test('a boundary near a pause is in it; the caption lingers into it, the next begins after it', () => {
    // a half each: the boundary is at 4 s of speech, and the pause after 4.3 s
    expect(spread([text(10), text(10)], [0, 4.3], [5.3, 9])).toEqual([
      [0, 4.6],
      [5.3, 9.3],
    ])
    // a short pause is over before it
    expect(spread([text(10), text(10)], [0, 4.3], [4.4, 8.1])).toEqual([
      [0, 4.4],
      [4.4, 8.4],
    ])
  })
  test('a boundary a little after a pause is drawn back into it', () =>
    expect(spread([text(10), text(10)], [0, 3.5], [5, 9.5])).toEqual([
      [0, 3.8],
      [5, 9.8],
    ]))
  test('a boundary far from any pause stays where it falls', () => {
    expect(spread([text(10), text(10)], [0, 2], [3, 9])).toEqual([
      [0, 5],
      [5, 9.3],
    ])
    expect(spread([text(10), text(30)], [0, 6], [7, 9])).toEqual([
      [0, 2],
      [2, 9.3],
    ])
  })
  test('a word of half a second draws no boundary from further than its half', () => {
    // a quarter of 8 s is 2 s; the first word ends at 0.5 s, too far
    expect(spread([text(10), text(30)], [0, 0.5], [1, 8.5])).toEqual([
      [0, 2.5],
      [2.5, 8.8],
    ])
    expect(spread([text(10), text(30)], [0, 0.4], [1, 2.2])).toEqual([
      [0, 0.7],
      [1, 2.5],
    ])
  })
  test('two boundaries in one pause: what is left of the voice is shared out', () =>
    expect(spread([text(10), text(2), text(28)], [0, 2], [3, 9])).toEqual([
      [0, 2.3],
      [3, 3.4],
      [3.4, 9.3],
    ]))
})
