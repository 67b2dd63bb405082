/** What captions changed by hand keep when captions are made again, and when they give way. */
import { describe, expect, test } from 'vitest'
import type { Alignment } from '#core/captions/align/align.ts'
import type { StoredCue } from '#core/model/caption.ts'
import { sentences } from '#core/script/sentences.ts'
import { aligned, made, material, said } from '#tests/made/cues.ts'
import { makeCues } from './make-cues.ts'

describe('captions changed by hand, one by one', () => {
  const script = 'It rained all day. We read the gauge at nine in the morning. Then it was dry again.'
  const hand = (text: string, scriptText: string, more: Partial<StoredCue> = {}): StoredCue => ({
    ...made(script)[0]!,
    id: text,
    text,
    scriptText,
    manualEdit: 'text',
    start: 30,
    end: 31,
    ...more,
  })
  const [first, second, third] = sentences(script, 'en') as [string, string, string]
  const words = (i: number) => aligned(script).sentences[i]!.spans[0]!.words
  test('times set by hand hold in their take; in another one the text stays and the times are those of its words', () => {
    const timed = hand('Read at nine.', second, { manualEdit: 'time' })
    expect(made(script, [timed]).find((c) => c.text === timed.text)).toMatchObject({ start: 30, end: 31, manualEdit: 'time' })
    const elsewhere = made(script, [timed], { takeId: 't2' }).find((c) => c.text === timed.text)!
    expect(elsewhere).toMatchObject({ manualEdit: 'text', takeId: 't2' })
    expect(elsewhere.start).toBeCloseTo(words(1)[0]!.start - 0.05, 6)
    const typed = made(script, [hand('Read at nine.', second)]).find((c) => c.text === timed.text)!
    expect(typed).toMatchObject({ manualEdit: 'text', start: expect.closeTo(words(1)[0]!.start - 0.05, 6) })
    expect(made(script, [hand('Read at nine.', second)], { takeId: 't2' }).find((c) => c.text === timed.text)!.manualEdit).toBe(
      'text',
    )
  })
  test('a caption somebody changed wants no look, however unsure its words are', () => {
    const both = aligned(script)
    const doubtful = { ...both, sentences: both.sentences.map((sentence) => ({ ...sentence, needsReview: true })) }
    expect(made(script, [hand('Read.', second)], { alignment: doubtful }).map((c) => c.needsReview)).toEqual([true, false, true])
  })
  test('parts that say as many words as the sentence stand on those; others share them by their letters', () => {
    const starts = (...texts: string[]) =>
      made(
        script,
        texts.map((text) => hand(text, second)),
      )
        .filter((c) => texts.includes(c.text))
        .map((c) => c.start)
    // before the words of the second part its first one ends: nothing comes earlier
    expect(starts('We read the gauge', 'at nine in the morning.')[1]).toBeCloseTo(words(1)[3]!.end, 6)
    expect(starts('We  read\nit', 'at nine in the morning.')[1]).toBeCloseTo(words(1)[2]!.end, 6)
    expect(starts('aaaa', 'bbbbbbbb')[1]).toBeCloseTo(words(1)[2]!.end, 6)
    expect(starts('bbbbbbbb', 'aaaa')[1]).toBeCloseTo(words(1)[5]!.end, 6)
  })
  test('sentences that were joined by hand stay together, as many as there are', () => {
    const all = hand('All of it.', `${first} ${second} ${third}`)
    expect(said(made(script, [all]))).toEqual(['All of it.'])
    const two = hand('Two of it.', `${second} ${third}`)
    expect(said(made(script, [two]))).toEqual([first, 'Two of it.'])
    expect(said(made(`${script} And more was said.`, [all]))).toEqual(['All of it.', 'And more was said.'])
    // of another script that begins alike nothing is kept
    expect(said(made(script, [hand('Other.', `${first} Something else.`)]))).toHaveLength(3)
    expect(said(made(script, [hand('Other.', `${third} Something else.`)]))).toHaveLength(3)
    // one of the parts was changed, the other goes with it
    const half = [hand('All', `${first} ${second}`), hand('of it.', `${first} ${second}`, { manualEdit: null })]
    expect(said(made(script, half))).toEqual(['All', 'of it.', third])
  })
  test('a note between them does not part them, and none of them is a note', () => {
    const list = [hand('We read', second), hand('[rain]', '', { manualEdit: 'time' }), hand('at nine.', second)]
    expect(said(made(script, list))).toEqual([first, 'We read', 'at nine.', third, '[rain]'])
  })
  test('the first sentence, when it was not said, stands before the others', () => {
    const cues = made(script, [hand('Rain.', first)], { alignment: aligned(script, [0], 3) })
    expect(cues[0]).toMatchObject({ text: 'Rain.', start: 0, needsReview: true })
    expect(cues[0]!.end).toBeLessThanOrEqual(aligned(script, [0], 3).sentences[1]!.spans[0]!.start)
  })
  test('while words are sought, what was said twice keeps both its times, and those of another take are not its own', () => {
    const twice = 'Look at the gauge now. Look at the gauge now.'
    const at = (start: number, takeId = 't1') =>
      hand('Look at the gauge now.', '', { start, end: start + 1, takeId, manualEdit: null })
    const kept = (before: StoredCue[]) => makeCues(material(twice, { wereFound: true }), before).map((c) => [c.start, c.end])
    expect(kept([at(7, 't0'), at(1), at(5)])).toEqual([
      [1, 2],
      [5, 6],
    ])
    expect(kept([at(5)])[0]).toEqual([5, 6])
  })
  test('two sentences of one caption stand apart where the script sets no spaces', () => {
    const texts = ['はい。', '雨です。']
    const alignment: Alignment = {
      offScript: [],
      sentences: texts.map((text, i) => {
        const span = { start: 1 + 2 * i, end: 2 + 2 * i }
        const spans = [{ ...span, partial: false, words: [{ k: 0, w: text, ...span }] }]
        return { i, text, skipped: false, confidence: 1, needsReview: false, spans }
      }),
    }
    expect(makeCues(material('', { alignment, language: 'ja' }), []).map((c) => c.text)).toEqual(['はい。 雨です。'])
  })
  test('the usual width of a line holds where none was chosen', () => {
    const width = (lineCharacters: number) =>
      Math.max(
        ...makeCues(material(script, { alignment: aligned(script), lineCharacters }), []).flatMap((c) =>
          c.text.split('\n').map((l) => l.length),
        ),
      )
    expect(width(0)).toBe(width(37))
    expect(width(42)).toBeGreaterThan(width(37))
  })
})
