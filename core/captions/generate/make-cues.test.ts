import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { Alignment } from '#core/captions/align/align.ts'
import * as edits from '#core/captions/edit/edit-cues.ts'
import type { StoredCue } from '#core/model/caption.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { sentences } from '#core/script/sentences.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { aligned, made, material, said } from '#tests/made/cues.ts'
import { breakLines } from './break-lines.ts'
import { type CueMaterial, makeCues } from './make-cues.ts'

const stretch = (start: number, end: number) => ({ start: toSamples(start), end: toSamples(end) })

const spreadCues = (script: string, speech: SampleRange[]) => makeCues(material(script, { speech }), [])
const unbroken = (text: string) => text

describe('captions spread over the speech', () => {
  test('cues cover the speech in order and do not overlap', () => {
    const cues = spreadCues('Good evening. Tonight you learn to read a rain gauge, and to write it down. Bring a pencil.', [
      stretch(1, 4),
      stretch(5, 8),
    ])
    expect(cues[0]!.start).toBe(1)
    expect(cues.at(-1)!.end).toBeCloseTo(8.3, 6)
    for (const [i, cue] of cues.slice(1).entries()) expect(cue.start).toBeGreaterThanOrEqual(cues[i]!.end)
  })
  test('a sentence boundary near a pause is put into the pause', () => {
    const cues = spreadCues('One two three four five. One two three four.', [stretch(0, 2.9), stretch(4, 7)])
    expect(cues[1]!.start).toBe(4)
    expect(cues[0]!.end).toBeCloseTo(3.2, 6)
  })
  test('no sentence is lost, wherever the pauses fall', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('Nothing is lost.', 'When the tube is full, the rest runs into the can.', 'Yes.'), {
          minLength: 1,
        }),
        fc.array(fc.tuple(fc.integer({ min: 5, max: 80 }), fc.integer({ min: 2, max: 30 })), { minLength: 1, maxLength: 9 }),
        (said, lengths) => {
          let at = 0
          const speech = lengths.map(([length, pause]) => {
            const stretch = { start: at, end: at + length * 4800 }
            at = stretch.end + pause * 4800
            return stretch
          })
          const cues = spreadCues(said.join(' '), speech)
          expect(cues.map((cue) => cue.text.replaceAll('\n', ' ')).join(' ')).toBe(said.join(' '))
          cues.forEach((cue, i) => {
            expect(cue.end).toBeGreaterThan(cue.start)
            expect(cue.start).toBeGreaterThanOrEqual(cues[i - 1]?.end ?? 0)
          })
        },
      ),
    )
  })
  test('nothing to say or nobody speaking gives no cues', () => {
    expect(spreadCues(' ', [stretch(0, 1)])).toEqual([])
    expect(spreadCues('Hello.', [])).toEqual([])
  })
})

describe('captions where the words are heard', () => {
  const script = 'Good evening to you all. We read the gauge at nine in the morning. Then it is emptied.'
  test('each stands on its words, a little before and a little after', () => {
    const cues = made(script)
    expect(said(cues)).toEqual(sentences(script, 'en'))
    expect(cues[0]!.start).toBeCloseTo(0.95, 6)
    expect(cues[0]!.end).toBeCloseTo(1 + 4 * 0.4 + 0.38 + 0.4, 6)
  })
  test('by the voice of another language what was not found is shown between its neighbours, and all of it wants a look', () => {
    const script = 'Chove moito hoxe. Os ríos levan auga. Mañá non chove. Ao final sae o sol.'
    for (const missed of [[1], [0], [3], [1, 2]]) {
      const cues = made(script, [], { alignment: aligned(script, missed), unsure: true })
      expect(said(cues).join(' ')).toBe(script)
      expect(cues.every((cue) => cue.needsReview)).toBe(true)
      cues.forEach((cue, i) => {
        expect(cue.end).toBeGreaterThan(cue.start)
        expect(cue.start).toBeGreaterThanOrEqual(cues[i - 1]?.end ?? 0)
      })
    }
  })
  test('a sentence that was not said has no caption', () => {
    expect(said(made(script, [], { alignment: aligned(script, [1]) }))).toEqual([
      'Good evening to you all.',
      'Then it is emptied.',
    ])
  })
  test('a changed script changes only the captions it touches', () => {
    const before = made(script)
    const after = made(script.replace('nine', 'ten'), before)
    expect(after.map((cue) => cue.id)).toEqual(before.map((cue) => cue.id))
    expect(said(after)[1]).toContain('ten')
    const longer = made(`First a word. ${script}`, before)
    expect(longer.slice(-3).map((cue) => cue.id)).toEqual(before.map((cue) => cue.id))
  })
})

describe('while the words of a changed script are sought', () => {
  const script = 'Good evening to you all. We read the gauge at nine in the morning. Then it is emptied.'
  const speech = [stretch(0.5, 12)]
  test('captions that say the same keep their times, the changed one stands between them', () => {
    const before = made(script)
    const waiting = made(script.replace('nine', 'ten'), before, { alignment: null, wereFound: true, speech })
    expect(waiting.map((cue) => [cue.start, cue.end])[0]).toEqual([before[0]!.start, before[0]!.end])
    expect(waiting[2]!.start).toBe(before[2]!.start)
    expect(waiting[1]!.start).toBeGreaterThanOrEqual(before[0]!.end)
    expect(waiting[1]!.end).toBeLessThanOrEqual(before[2]!.start)
  })
  test('where they were never found, all is spread anew', () => {
    const before = made('One two three four five.', [], { alignment: null, speech })
    const longer = made('One two three four five. Six seven eight nine ten.', before, { alignment: null, speech })
    expect(longer[0]!.end).toBeLessThan(before[0]!.end - 3)
  })
})

describe('captions changed by hand', () => {
  const script = 'Good evening to you all. We read the gauge at nine in the morning. Then it is emptied.'
  const cues = () => made(script)
  test('a text stays when the script changes elsewhere, and when the slide is recorded again', () => {
    const before = cues()
    const edited = edits.setText(before, before[1]!.id, 'We read it at 9.')
    const changed = made(`${script} And that is all.`, edited)
    expect(said(changed)[1]).toBe('We read it at 9.')
    const again = made(script, edited, { takeId: 't2', alignment: aligned(script, [], 5) })
    expect(said(again)[1]).toBe('We read it at 9.')
    expect(again[1]!.start).toBeCloseTo(aligned(script, [], 5).sentences[1]!.spans[0]!.start - 0.05, 6)
    expect(again.every((cue) => cue.takeId === 't2')).toBe(true)
  })
  test('it gives way when its own sentence is written anew', () => {
    const before = cues()
    const edited = edits.setText(before, before[1]!.id, 'We read it at 9.')
    expect(said(made(script.replace('gauge', 'meter'), edited))[1]).toContain('meter')
  })
  test('divided in two, each part stands on its own words', () => {
    const before = cues()
    const at = before[1]!.text.replaceAll('\n', ' ').indexOf('at nine')
    const after = made(script, edits.split(before, before[1]!.id, at, 'new'))
    expect(said(after).slice(1, 3)).toEqual(['We read the gauge', 'at nine in the morning.'])
    const words = aligned(script).sentences[1]!.spans[0]!.words
    expect(after[2]!.start).toBeCloseTo(words[4]!.start - 0.02, 1)
    // and joined again they are one
    expect(said(made(script, edits.joinNext(after, after[1]!.id, unbroken)))[1]).toBe('We read the gauge at nine in the morning.')
  })
  test('two sentences joined stay joined, and fall apart when one of them changes', () => {
    const before = cues()
    const joined = made(
      script,
      edits.joinNext(before, before[0]!.id, (text) => breakLines(text, { language: 'en', lineCharacters: 37 })),
    )
    expect(said(joined)[0]).toBe('Good evening to you all. We read the gauge at nine in the morning.')
    expect(said(made(script, joined))).toHaveLength(2)
    expect(said(made(script.replace('nine', 'ten'), joined))).toHaveLength(3)
  })
  test('times set by hand stay in their take, and are let go with it or on request', () => {
    const before = cues()
    const nudged = edits.nudge(before, before[1]!.id, 'start', 0.3, 60)
    expect(made(script, nudged)[1]!.start).toBeCloseTo(before[1]!.start + 0.3, 6)
    expect(made(script, nudged, { takeId: 't2', alignment: aligned(script, [], 5) })[1]!.start).not.toBeCloseTo(
      before[1]!.start + 0.3,
      1,
    )
    expect(made(script, edits.retime(nudged))[1]!.start).toBeCloseTo(before[1]!.start, 6)
  })
  test('one that was left out does not come back by itself, but can be asked back', () => {
    const before = cues()
    const without = made(script, edits.remove(before, before[1]!.id))
    expect(said(without)).toEqual(['Good evening to you all.', '', 'Then it is emptied.'])
    expect(said(made(script, edits.followScript(without, without[1]!.id)))).toEqual(said(before))
  })
  test('a sound note beside the script stays with its take', () => {
    const added = edits.add(cues(), { id: 'n', slideId: 's', takeId: 't1', start: 20, end: 22, text: '[rain on a tin roof]' })
    expect(said(made(`${script} More.`, added))).toContain('[rain on a tin roof]')
    expect(made(script, added, { takeId: 't2' }).find((cue) => cue.id === 'n')!.takeId).toBe('t1')
  })
  test('a draft that nobody has checked stays where there is no script, and gives way to one; what was checked stays beside it', () => {
    const cue = { id: 'd', slideId: 's', takeId: 't1', start: 20, end: 22, text: 'Heard words.' }
    const [draft] = edits.add([], cue)
    const heard = { ...draft!, manualEdit: 'heard' as const, needsReview: true }
    expect(said(made('', [heard]))).toEqual(['Heard words.'])
    expect(said(made(script, [heard]))).not.toContain('Heard words.')
    expect(said(made(script, edits.confirm([heard], 'd')))).toContain('Heard words.')
    // moved, or changed by a replacement everywhere, it is still unchecked
    expect(edits.nudge([heard], 'd', 'start', 0.5, 60)[0]).toMatchObject({ manualEdit: 'heard', needsReview: true, start: 20.5 })
    expect(edits.replaceAll([heard], 'Heard', 'Other', true, unbroken)[0]).toMatchObject({
      manualEdit: 'heard',
      needsReview: true,
    })
    expect(edits.setText([heard], 'd', 'Said words.')[0]).toMatchObject({ manualEdit: 'text', needsReview: false })
  })
  test('found and replaced in whatever case, over line breaks', () => {
    const list = [{ ...cues()[1]!, text: 'We read the rain\ngauge. Rain gauge.' }]
    expect(edits.countFound(list, 'rain gauge', false)).toBe(2)
    expect(edits.replaceAll(list, 'rain gauge', '$& udometer', false, unbroken)[0]!.text).toBe(
      'We read the $& udometer. $& udometer.',
    )
    const named = edits.setSpeaker(list, list[0]!.id, 'Ada')
    expect(edits.replaceAll(named, 'rain gauge', 'x', false, unbroken)[0]!.markup).toBe('<v Ada>We read the x. x.</v>')
    expect(edits.replaceAll(list, 'rain gauge', 'x', true, unbroken)[0]!.text).toBe('We read the x. Rain gauge.')
  })
  test('any edits keep captions in order, within their take, and of a length that can be seen', () => {
    const act = fc.record({
      what: fc.constantFrom('text', 'split', 'join', 'start', 'end', 'both', 'remove', 'retime'),
      which: fc.nat(9),
      by: fc.integer({ min: -30, max: 30 }),
    })
    fc.assert(
      fc.property(fc.array(act, { maxLength: 12 }), (acts) => {
        let list = cues()
        for (const [n, { what, which, by }] of acts.entries()) {
          const cue = list[which % Math.max(1, list.length)]
          if (!cue) break
          if (what === 'text') list = edits.setText(list, cue.id, `word ${by}`)
          else if (what === 'split') list = edits.split(list, cue.id, Math.abs(by), `s${n}`)
          else if (what === 'join') list = edits.joinNext(list, cue.id, unbroken)
          else if (what === 'remove') list = edits.remove(list, cue.id)
          else if (what === 'retime') list = edits.retime(list)
          else list = edits.nudge(list, cue.id, what as 'start', by / 10, 60)
          list = made(script, list)
        }
        expect(new Set(list.map((cue) => cue.id)).size).toBe(list.length)
        for (const [i, cue] of list.entries()) {
          expect(cue.end).toBeGreaterThan(cue.start)
          expect(cue.start).toBeGreaterThanOrEqual(list[i - 1]?.start ?? 0)
          expect(cue.end).toBeLessThanOrEqual(60)
        }
      }),
    )
  })
})

describe('when captions come and go', () => {
  // three words of 0.4 s each and a pause of 1 s after each sentence, from 1 s on
  const heard = (script: string, change: Partial<CueMaterial> = {}) => {
    const cues = made(script, [], change)
    return cues.map((cue) => [cue.start, cue.end].map((s) => Math.round(s * 100) / 100))
  }
  const spokenAt = (...starts: number[]): Alignment => ({
    offScript: [],
    sentences: starts.map((start, i) => {
      const words = [0, 1, 2].map((k) => ({ k, w: 'sentence', start: start + 0.4 * k, end: start + 0.4 * k + 0.38 }))
      const text = `Sentence number ${['one', 'two', 'three'][i]}.`
      const spans = [{ start, end: words[2]!.end, partial: false, words }]
      return { i, text, skipped: false, confidence: 0.9, needsReview: false, spans }
    }),
  })
  const script = 'Sentence number one. Sentence number two.'
  test('a little before the words; closed up to the next where the gap would flicker', () => {
    expect(heard(script, { alignment: spokenAt(1, 4) })).toEqual([
      [0.95, 2.58],
      [3.95, 5.58],
    ])
    expect(heard(script, { alignment: spokenAt(1, 3) })).toEqual([
      [0.95, 2.95],
      [2.95, 4.58],
    ])
  })
  test('where the next words follow at once the caption ends with its own', () =>
    expect(heard(script, { alignment: spokenAt(1, 2.2) })).toEqual([
      [0.95, 2.18],
      [2.18, 3.78],
    ]))
  test('never before the take begins, never after it ends', () => {
    expect(heard(script, { alignment: spokenAt(0.02, 4) })[0]).toEqual([0, 1.6])
    expect(heard(script, { alignment: spokenAt(1, 4), seconds: 5.3 })[1]).toEqual([3.95, 5.3])
  })
  test('a short word is shown for as long as reading takes', () => {
    const one = spokenAt(1, 9)
    one.sentences[0] = {
      ...one.sentences[0]!,
      text: 'Rain.',
      spans: [{ ...one.sentences[0]!.spans[0]!, end: 1.38, words: [{ k: 0, w: 'Rain', start: 1, end: 1.38 }] }],
    } as never
    const cues = makeCues(material('Rain.', { alignment: { offScript: [], sentences: [one.sentences[0]!] } }), [])
    expect(cues.map((c) => [c.start, Math.round(c.end * 100) / 100])).toEqual([[0.95, 2.15]])
  })
  test('a tiny sentence is read together with the next, unless both are too long or the next was changed by hand', () => {
    const texts = (text: string, before: StoredCue[] = []) => said(makeCues(material(text, { alignment: aligned(text) }), before))
    expect(texts('Rain fell. The gauge was full.')).toEqual(['Rain fell. The gauge was full.'])
    expect(texts('Rain fell! Now the gauge was full.')).toHaveLength(1)
    expect(texts('Rain fell it. The gauge was full.')).toHaveLength(2)
    expect(texts('Yes. The gauge was full.')).toHaveLength(1)
    const long = `${'gauges '.repeat(9)}were read.`
    expect(texts(`Yes. We ${long}`)[0]).toBe('Yes.')
    expect(texts('The gauge was full. Yes.')).toHaveLength(2)
    const next = { ...made('The gauge was full.')[0]!, text: 'Full it was.', manualEdit: 'text' as const }
    expect(texts('Yes. The gauge was full.', [next])).toEqual(['Yes.', 'Full it was.'])
  })
  test('one doubtful sentence of those made together wants a look at their caption', () => {
    const both = aligned('Yes. The gauge was full. It rained.')
    const doubtful = (i: number) => ({
      ...both,
      sentences: both.sentences.map((s, j) => ({ ...s, needsReview: i === j })),
    })
    const review = (i: number) =>
      makeCues(material('Yes. The gauge was full. It rained.', { alignment: doubtful(i) }), []).map((c) => c.needsReview)
    expect([review(0), review(1), review(2), review(3)]).toEqual([
      [true, false],
      [true, false],
      [false, true],
      [false, false],
    ])
  })
  test('captions spread over the speech want a look where the words were sought in vain', () => {
    const review = (unsure: boolean) =>
      makeCues(material('It rained all day.', { speech: [stretch(1, 3)], unsure }), []).map((c) => c.needsReview)
    expect([review(true), review(false)]).toEqual([[true], [false]])
  })
  test('what was left out of a sentence in the middle has its place between its neighbours, and wants a look', () => {
    const gap = aligned('It rained all day. Nobody saw the gauge. Then it was dry again.', [1])
    const before = made('It rained all day. Nobody saw the gauge. Then it was dry again.')
    const edited = edits.setText(before, before[1]!.id, 'Nobody saw it.')
    const cues = makeCues(material('', { alignment: gap }), edited)
    expect(said(cues)).toEqual(['It rained all day.', 'Nobody saw it.', 'Then it was dry again.'])
    expect(cues.map((c) => c.needsReview)).toEqual([false, true, false])
    expect(cues[1]!.start).toBeGreaterThanOrEqual(gap.sentences[0]!.spans[0]!.end)
    expect(cues[1]!.end).toBeLessThanOrEqual(gap.sentences[2]!.spans[0]!.start)
  })
  test('at the end of the take it is shown for as long as reading takes, and not past the end', () => {
    const text = 'It rained all day. Nobody saw the gauge.'
    const edited = edits.setText(made(text), made(text)[1]!.id, 'x')
    const before = made(text).map((c, i) => (i === 1 ? { ...c, text: 'Nobody saw it.', manualEdit: 'text' as const } : c))
    expect(edited).toHaveLength(2)
    const last = (seconds: number) => makeCues(material('', { alignment: aligned(text, [1]), seconds }), before)[1]!
    const end = aligned(text).sentences[0]!.spans[0]!.end
    expect([last(60).start, last(60).end]).toEqual([expect.closeTo(end, 6), expect.closeTo(end + 1.2, 6)])
    expect(last(end + 0.5).end).toBeCloseTo(end + 0.5, 6)
  })
  test('several of them share the room by their letters', () => {
    const text = 'It rained all day. Nobody saw the gauge. Nobody. Then it was dry again.'
    const before = made(text).map((c) => ({ ...c, manualEdit: 'text' as const }))
    const cues = makeCues(material('', { alignment: aligned(text, [1, 2]) }), before)
    const lengths = cues.slice(1, -1).map((c) => c.end - c.start)
    const letters = cues.slice(1, -1).map((c) => c.text.length + 1)
    for (const [i, length] of lengths.entries()) expect(length / lengths[0]!).toBeCloseTo(letters[i]! / letters[0]!, 6)
  })
  test('a note stands in its place in time among what makes itself', () => {
    const text = 'It rained all day. Nobody saw the gauge.'
    const [first, second] = aligned(text).sentences.map((s) => s.spans[0]!)
    const at = (first!.end + second!.start) / 2
    const added = edits.add(made(text), { id: 'n', slideId: 's', takeId: 't1', start: at, end: at + 0.2, text: '[rain]' })
    expect(said(made(text, added))).toEqual(['It rained all day.', '[rain]', 'Nobody saw the gauge.'])
    // one that nobody set, of an earlier version, does not stay
    expect(
      said(
        made(
          text,
          added.map((c) => (c.id === 'n' ? { ...c, manualEdit: null } : c)),
        ),
      ),
    ).not.toContain('[rain]')
  })
})
