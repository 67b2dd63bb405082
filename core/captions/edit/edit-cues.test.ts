/** Each edit of a slide's captions by itself; what they mean together with the script is tested with the making of cues. */
import { describe, expect, test } from 'vitest'
import type { StoredCue } from '#core/model/caption.ts'
import * as edits from './edit-cues.ts'

const cue = (id: string, start: number, end: number, more: Partial<StoredCue> = {}): StoredCue => ({
  id,
  slideId: 's',
  takeId: 't',
  start,
  end,
  text: `text ${id}`,
  markup: null,
  settings: '',
  needsReview: true,
  scriptText: `script ${id}`,
  manualEdit: null,
  ...more,
})
const three = () => [cue('a', 1, 2), cue('b', 3, 5), cue('c', 6, 8)]
const find = (cues: readonly StoredCue[], id: string) => cues.find((c) => c.id === id)!
const spaced = (text: string) => text

describe('what a caption says', () => {
  test('empty lines and spaces at the ends go, line breaks stay', () =>
    expect(edits.tidyText('  one \t two\r\n\r\n   three\rfour  ')).toBe('one two\nthree\nfour'))
  test('a text typed by hand is no longer to be checked, and the others are as they were', () => {
    const after = edits.setText(three(), 'b', ' new  words ')
    expect(find(after, 'b')).toMatchObject({ text: 'new words', manualEdit: 'text', needsReview: false, markup: null })
    expect([after[0], after[2]]).toEqual([three()[0], three()[2]])
  })
  test('times that were set by hand are remembered when the text changes', () => {
    const timed = [cue('a', 1, 2, { manualEdit: 'time', markup: '<i>text a</i>' })]
    expect(edits.setText(timed, 'a', 'x')[0]).toMatchObject({ manualEdit: 'time', markup: null })
    expect(edits.confirm(timed, 'a')[0]).toMatchObject({ manualEdit: 'time', needsReview: false })
    expect(edits.confirm(three(), 'a')[0]).toMatchObject({ manualEdit: 'text', needsReview: false })
    expect(edits.confirm(three(), 'a')[1]).toEqual(three()[1])
  })
  test('who speaks is named, stays with other words, and is taken away by an empty name', () => {
    const named = edits.setSpeaker(three(), 'a', 'Ada')
    expect(find(named, 'a')).toMatchObject({ markup: '<v Ada>text a</v>', manualEdit: 'text' })
    expect(find(named, 'b').markup).toBeNull()
    expect(edits.setText(named, 'a', 'x')[0]!.markup).toBe('<v Ada>x</v>')
    expect(edits.setSpeaker(named, 'a', '  ')[0]!.markup).toBeNull()
  })
  test('one that is right by now says so for itself only', () =>
    expect(edits.confirm(three(), 'b').map((c) => c.needsReview)).toEqual([true, false, true]))
})

describe('when a caption stands', () => {
  test('it never begins before the start, and lasts long enough to be seen', () => {
    expect(edits.setTimes(three(), 'a', { start: -3 })[0]).toMatchObject({
      start: 0,
      end: 2,
      manualEdit: 'time',
      needsReview: false,
    })
    expect(edits.setTimes(three(), 'a', { end: 0.5 })[0]).toMatchObject({ start: 1, end: 1.2 })
    expect(edits.setTimes(three(), 'a', { start: 1.5, end: 2.5 })[0]).toMatchObject({ start: 1.5, end: 2.5 })
    expect(edits.setTimes(three(), 'a', { start: 1.5 })[1]).toEqual(three()[1])
  })
  test.each([
    ['start', -0.5, 2.5, 5],
    ['start', -9, 2, 5],
    ['start', 9, 4.8, 5],
    ['end', 0.5, 3, 5.5],
    ['end', 9, 3, 6],
    ['end', -9, 3, 3.2],
    ['both', 0.4, 3.4, 5.4],
    ['both', 9, 4, 6],
    ['both', -9, 2, 4],
  ] as const)('its %s moved by %f s stays between its neighbours', (edge, by, start, end) => {
    const moved = find(edits.nudge(three(), 'b', edge, by, 20), 'b')
    expect(moved).toMatchObject({ manualEdit: 'time', needsReview: false })
    expect(moved.start).toBeCloseTo(start, 9)
    expect(moved.end).toBeCloseTo(end, 9)
  })
  test('the first and the last are held by the ends of the sound', () => {
    expect(edits.nudge(three(), 'a', 'both', -9, 20)[0]).toMatchObject({ start: 0, end: 1 })
    expect(edits.nudge(three(), 'c', 'both', 99, 20)[2]).toMatchObject({ start: 18, end: 20 })
    expect(edits.nudge(three(), 'c', 'end', 99, 20)[2]!.end).toBe(20)
  })
  test('neighbours of another take, and those that were left out, do not hold it', () => {
    const free = [cue('a', 1, 2, { takeId: 'other' }), cue('b', 3, 5), cue('c', 6, 8, { text: '' }), cue('d', 9, 10)]
    expect(find(edits.nudge(free, 'b', 'start', -9, 20), 'b').start).toBe(0)
    expect(find(edits.nudge(free, 'b', 'end', 9, 20), 'b').end).toBe(9)
  })
  test('captions that lie over each other may move apart, not further together', () => {
    const over = [cue('a', 1, 4), cue('b', 3, 7), cue('c', 6, 8)]
    expect(find(edits.nudge(over, 'b', 'both', 0.5, 20), 'b')).toMatchObject({ start: 3, end: 7 })
    expect(find(edits.nudge(over, 'b', 'start', -0.5, 20), 'b').start).toBe(3)
    expect(find(edits.nudge(over, 'b', 'start', 0.5, 20), 'b').start).toBe(3.5)
    expect(find(edits.nudge(over, 'b', 'end', 0.5, 20), 'b').end).toBe(7)
    expect(find(edits.nudge(over, 'b', 'end', -0.5, 20), 'b').end).toBe(6.5)
  })
  test('one that is not there moves nothing', () => expect(edits.nudge(three(), 'x', 'both', 1, 20)).toEqual(three()))
  test('times go back to their words where there is a script', () => {
    const timed = [cue('a', 1, 2, { manualEdit: 'time' }), cue('b', 3, 4, { manualEdit: 'time', scriptText: '' }), cue('c', 5, 6)]
    expect(edits.retime(timed).map((c) => c.manualEdit)).toEqual(['text', 'time', null])
  })
})

describe('one caption or two', () => {
  test('divided, each has its share of the time by its letters', () => {
    const whole = [cue('a', 1, 3, { text: 'one, three' }), cue('b', 3, 5)]
    const parts = edits.split(whole, 'a', 4, 'new')
    expect(parts.map((c) => [c.id, c.text])).toEqual([
      ['a', 'one,'],
      ['new', 'three'],
      ['b', 'text b'],
    ])
    expect(parts[0]).toMatchObject({ start: 1, needsReview: false, manualEdit: 'text' })
    expect(parts[0]!.end).toBeCloseTo(1 + (2 * 4) / 9, 9)
    expect(parts[1]).toMatchObject({ start: parts[0]!.end, end: 3, scriptText: 'script a' })
  })
  test.each([0, 99])('at %i letters there is nothing to divide', (at) =>
    expect(edits.split(three(), 'b', at, 'x')).toEqual(three()),
  )
  test('joined, the text is broken anew, and one that nobody typed is no longer to be checked', () => {
    const joined = edits.joinNext(
      [cue('a', 1, 2, { text: 'one\ntwo' }), cue('b', 3, 5), cue('c', 6, 8)],
      'a',
      (text) => `[${text}]`,
    )
    expect(joined).toHaveLength(2)
    expect(joined[0]).toMatchObject({
      id: 'a',
      start: 1,
      end: 5,
      text: '[one two text b]',
      manualEdit: 'text',
      scriptText: 'script a script b',
      needsReview: false,
    })
    expect(joined[1]).toEqual(three()[2])
  })
  test('parts of one sentence stay that sentence; one without a script takes over the other’s', () => {
    const of = (first: string, second: string) =>
      edits.joinNext([cue('a', 1, 2, { scriptText: first }), cue('b', 3, 5, { scriptText: second })], 'a', spaced)[0]!.scriptText
    expect([of('x', 'x'), of('', 'x'), of('x', ''), of('', '')]).toEqual(['x', 'x', 'x', ''])
  })
  test('further parts of the joined sentences go with them, others do not', () => {
    const list = [
      cue('before', 0, 1, { scriptText: 'first' }),
      cue('a', 1, 2, { scriptText: 'first' }),
      cue('b', 3, 5, { scriptText: 'second' }),
      cue('after', 5, 6, { scriptText: 'second', manualEdit: 'time' }),
      cue('note', 6, 7, { scriptText: '' }),
      cue('other', 7, 8, { scriptText: 'third' }),
    ]
    const joined = edits.joinNext(list, 'a', spaced)
    expect(joined.map((c) => [c.id, c.scriptText, c.manualEdit])).toEqual([
      ['before', 'first second', 'text'],
      ['a', 'first second', 'text'],
      ['after', 'first second', 'time'],
      ['note', '', null],
      ['other', 'third', null],
    ])
  })
  test('a note beside the script is not drawn into a sentence joined with another note', () => {
    const notes = [cue('n', 0, 1, { scriptText: '' }), cue('a', 1, 2, { scriptText: '' }), cue('b', 3, 5, { scriptText: 'x' })]
    expect(find(edits.joinNext(notes, 'a', spaced), 'n')).toEqual(notes[0])
  })
  test.each([
    ['time', null],
    [null, 'time'],
  ] as const)('times set by hand (%s, %s) are remembered', (first, second) =>
    expect(
      edits.joinNext([cue('a', 1, 2, { manualEdit: first }), cue('b', 3, 5, { manualEdit: second })], 'a', spaced)[0]!.manualEdit,
    ).toBe('time'),
  )
  test('an empty one adds no space', () =>
    expect(edits.joinNext([cue('a', 1, 2, { text: '' }), cue('b', 3, 5)], 'a', spaced)[0]!.text).toBe('text b'))
  test('the last one, one that is not there, and one before another take are joined with nothing', () => {
    expect(edits.joinNext(three(), 'c', spaced)).toEqual(three())
    expect(edits.joinNext(three(), 'x', spaced)).toEqual(three())
    const change = [cue('a', 1, 2), cue('b', 3, 5, { takeId: 'other' })]
    expect(edits.joinNext(change, 'a', spaced)).toEqual(change)
  })
})

describe('away and back', () => {
  test('what came from a script is left out, a note is gone', () => {
    const list = [cue('a', 1, 2, { markup: '<i>text a</i>' }), cue('n', 3, 4, { scriptText: '' }), cue('c', 5, 6)]
    const after = edits.remove(edits.remove(list, 'a'), 'n')
    expect(after).toHaveLength(2)
    expect(after[0]).toMatchObject({ id: 'a', text: '', markup: null, manualEdit: 'text', needsReview: false })
    expect(after[1]).toEqual(list[2])
  })
  test('given back to the script, all captions of the sentence are, and no others', () => {
    const hand = (id: string, scriptText: string) => cue(id, 1, 2, { scriptText, manualEdit: 'text' })
    const list = [hand('a', 'one'), hand('b', 'one'), hand('c', 'two'), hand('n', '')]
    expect(edits.followScript(list, 'a').map((c) => c.manualEdit)).toEqual([null, null, 'text', 'text'])
    expect(edits.followScript(list, 'n')).toEqual(list)
    expect(edits.followScript(list, 'x')).toEqual(list)
  })
  test('a note is put where it is heard', () => {
    const note = { id: 'n', slideId: 's', takeId: 't', start: 4, end: 5.5, text: '[rain]' }
    const after = edits.add(three(), note)
    expect(after.map((c) => c.id)).toEqual(['a', 'b', 'n', 'c'])
    expect(after[2]).toEqual({ ...note, markup: null, settings: '', needsReview: false, scriptText: '', manualEdit: 'time' })
  })
})

describe('the sentence around a caption', () => {
  const list = [
    cue('a', 1, 2, { scriptText: 'one' }),
    cue('b', 2, 4, { scriptText: 'one' }),
    cue('c', 5, 6, { scriptText: 'two' }),
    cue('d', 0, 9, { scriptText: 'one', takeId: 'other' }),
    cue('n', 7, 8, { scriptText: '' }),
    cue('w', 7, 8, { takeId: null }),
  ]
  test('reaches over all its captions in this take', () => {
    const whole = { text: 'one', takeId: 't', start: 1, end: 4 }
    expect([edits.sentenceOf(list, 'a'), edits.sentenceOf(list, 'b')]).toEqual([whole, whole])
  })
  test.each(['n', 'w', 'x'])('there is none for %s', (id) => expect(edits.sentenceOf(list, id)).toBeNull())
})

describe('find and replace', () => {
  const list = [cue('a', 1, 2, { text: 'Rain (light).\nrain  fell' }), cue('b', 3, 5, { text: 'dry' })]
  test('counts in any case or only as written, and takes signs for signs', () => {
    expect(edits.countFound(list, 'rain', false)).toBe(2)
    expect(edits.countFound(list, 'rain', true)).toBe(1)
    expect(edits.countFound(list, ' (light). ', true)).toBe(1)
    expect(edits.countFound(list, '.', true)).toBe(1)
    expect(edits.countFound(list, 'light).  rain', true)).toBe(1)
    expect(edits.countFound(list, 'rain fell', true)).toBe(1)
  })
  test('only captions that have it are changed, and broken anew', () => {
    const after = edits.replaceAll(list, 'rain', 'snow', false, (text) => `[${text}]`)
    expect(after[0]).toMatchObject({ text: '[snow (light). snow  fell]', manualEdit: 'text', needsReview: false })
    expect(after[1]).toBe(list[1])
  })
  test('nothing is found where nothing is sought', () =>
    expect(edits.replaceAll(list, '  ', 'x', false, () => 'changed')).toEqual(list))
})
