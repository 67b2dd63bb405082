import { describe, expect, test } from 'vitest'
import type { Alignment } from '#core/captions/align/align.ts'
import { alignmentOfHeard, draftCues } from './draft-cues.ts'
import { capitalsOf, heardSentences } from './heard-sentences.ts'
import { type HeardWord, Probe, recogniserFor } from './recogniser.ts'

/** Words of half a second each; a number is a rest in seconds. */
function spoken(...parts: (string | number)[]): HeardWord[] {
  let at = 0
  return parts.flatMap((part) => {
    if (typeof part === 'number') {
      at += part
      return []
    }
    return part.split(' ').map((text) => {
      at += 0.5
      return { text, start: at - 0.5, end: at, confidence: null }
    })
  })
}
const texts = (words: HeardWord[], language = 'en', capitals = new Map<string, string>()) =>
  heardSentences(words, language, capitals).map(({ text }) => text)

describe('sentences of heard words', () => {
  test('end where somebody rests long, begin with a capital and end with a full stop', () => {
    expect(texts(spoken('the water climbs', 0.6, 'and i measure it', 0.1, 'twice'))).toEqual([
      'The water climbs.',
      'And I measure it twice.',
    ])
    expect(texts(spoken('das wasser steigt', 1, 'ich messe'), 'de')).toEqual(['Das wasser steigt.', 'Ich messe.'])
    expect(texts(spoken('पानी चढ़ता है'), 'hi')).toEqual(['पानी चढ़ता है।'])
    expect(texts([])).toEqual([])
  })
  test('do not end at a shorter rest', () => {
    expect(texts(spoken('the water climbs the wall', 0.25, 'and sags'))).toEqual(['The water climbs the wall and sags.'])
  })
  test('that would be endless are divided at their longest rests', () => {
    const words = spoken('word '.repeat(20).trim(), 0.15, 'word '.repeat(20).trim())
    expect(heardSentences(words, 'en', new Map()).map((s) => s.words.length)).toEqual([20, 20])
  })
  test('keep the marks of a recogniser that sets them, whatever the rests are', () => {
    expect(texts(spoken('Does it climb?', 0.05, 'It', 2, 'does. Look'))).toEqual(['Does it climb?', 'It does.', 'Look'])
    // one mark in a long text is a mistake and no way of writing
    expect(texts(spoken(`${'word '.repeat(70)}end.`, 1, 'more'))).toHaveLength(5)
  })
  test('have the capitals that words of the slides have, but for those of headings and beginnings', () => {
    const capitals = capitalsOf([
      'Rain in Kyoto is measured at the ICAO station.\nReading The Gauge\nFigure 3',
      'We measure rain. Rain is water, Figure 4',
    ])
    expect([...capitals.keys()].sort()).toEqual(['icao', 'kyoto'])
    expect(texts(spoken('rain falls on kyoto, the icao gauge'), 'en', capitals)).toEqual(['Rain falls on Kyoto, the ICAO gauge.'])
  })
})

describe('a draft', () => {
  const material = { language: 'en', lineCharacters: 37, takeId: 'take', seconds: 9, speech: [{ start: 0, end: 9 * 48_000 }] }
  const heard = heardSentences(spoken('the water climbs the wall of the tube', 0.6, 'read it at the bottom'), 'en', new Map())
  test('has captions that nobody has checked, at the times of the alignment', () => {
    const { cues, leftOut } = draftCues(alignmentOfHeard(heard), material)!
    expect(cues.map((cue) => cue.text.replace('\n', ' '))).toEqual(heard.map(({ text }) => text))
    for (const cue of cues) expect(cue).toMatchObject({ needsReview: true, manualEdit: 'heard', scriptText: '', takeId: 'take' })
    expect(cues[1]!.start).toBeCloseTo(4.6 - 0.05, 2)
    expect(leftOut).toEqual([])
  })
  test('tells what of it is not in the sound, and is not believed where hardly anything is', () => {
    const known = alignmentOfHeard(heard)
    const without = (i: number): Alignment => ({
      ...known,
      sentences: known.sentences.map((s) =>
        s.i === i ? { ...s, skipped: true, spans: [], confidence: 0 } : { ...s, confidence: 0.9 },
      ),
    })
    expect(draftCues(without(1), material)).toMatchObject({ leftOut: [heard[1]!.text] })
    expect(
      draftCues({ sentences: without(1).sentences.map((s) => ({ ...s, skipped: true, spans: [] })), offScript: [] }, material),
    ).toBeNull()
    expect(draftCues({ ...known, sentences: known.sentences.map((s) => ({ ...s, confidence: 0.03 })) }, material)).toBeNull()
    // one word of twenty seconds of music, however well it fits
    const speech = [{ start: 0, end: 20 * 48_000 }]
    expect(draftCues(alignmentOfHeard(heardSentences(spoken('five'), 'en', new Map())), { ...material, speech })).toBeNull()
  })
})

test('the first that is ready and hears the language is asked', () => {
  const one = (name: string, languages: string[] | null, isReady = true) => Probe.parse({ protocol: 1, name, languages, isReady })
  const known = [one('absent', null, false), one('english', ['en']), one('any', null)]
  expect(recogniserFor(known, 'en-GB')?.name).toBe('english')
  expect(recogniserFor(known, 'fr')?.name).toBe('any')
  expect(recogniserFor(known.slice(0, 2), 'fr')).toBeNull()
  expect(Probe.safeParse({ protocol: 2, name: 'later', languages: null, isReady: true }).success).toBe(false)
})
