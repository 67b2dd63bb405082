/** Clicks out of time nodes written by hand for each case. @see ECMA-376, part 1, §19.5 */
import { strToU8 } from 'fflate'
import { describe, expect, test } from 'vitest'
import { click, enters, grown, leaves, moved, onShape, paragraphs, recoloured, series, timing } from '#tests/made/clicks.ts'
import { endOfPath } from '../steps/end-of-path.ts'
import { slideStates } from '../steps/steps.ts'
import { parseXml } from '../xml.ts'
import { readClicks } from './timing.ts'

const theme = { colours: new Map(), map: new Map(), major: '', minor: '' }
const read = (clicks: string[], pressed?: string) =>
  readClicks(parseXml(strToU8(`<p:sld xmlns:p="p">${timing(clicks, pressed)}</p:sld>`), 'slide'), theme)
const statesOf = (clicks: string[]) => slideStates(read(clicks).groups)
/** Whether a shape is hidden, after each click. */
const hidden = (clicks: string[], shape: string) => statesOf(clicks).map(({ state }) => state.get(shape)?.hidden ?? false)

const [A, B] = [onShape(4), onShape(5)]

describe('what clicks show and hide', () => {
  test('what comes in is not there before; what goes out is not there after', () => {
    expect(hidden([click(enters(A)), click(enters(B)), click(leaves(A))], '4')).toEqual([true, false, false, true])
    expect(hidden([click(leaves(A))], '4')).toEqual([false, true])
  })
  test('what goes first and comes again is there at first', () =>
    expect(hidden([click(leaves(A)), click(enters(A))], '4')).toEqual([false, true, false]))
  test('with and after the one before belong to its click', () => {
    const one = click(enters(A), { ...enters(B), when: 'withEffect' })
    const two = click({ ...leaves(A) }, { ...leaves(B), when: 'afterEffect', at: 500 })
    expect(hidden([one, two], '5')).toEqual([true, false, true])
  })
  test('what waits after the one before comes by itself, later', () => {
    const states = statesOf([click(enters(A), { ...enters(B), when: 'afterEffect', at: 500, delay: 2000 })])
    expect(states.map(({ afterSeconds }) => afterSeconds)).toEqual([0, null, 2.5])
    expect(states.map(({ state }) => state.get('5')!.hidden)).toEqual([true, true, false])
  })
  test('what begins with the slide is there at once, and what waits then comes by itself', () => {
    const start = click({ ...enters(A), when: 'afterEffect' }, { ...enters(B), when: 'afterEffect', at: 500, delay: 3000 })
    const states = statesOf([start])
    expect(states.map(({ state, afterSeconds }) => [state.get('4')!.hidden, state.get('5')!.hidden, afterSeconds])).toEqual([
      [false, true, 0],
      [false, false, 3.5],
    ])
  })
  test('paragraphs of a text come one by one, several of them by one click', () => {
    const of = (from: number, to = from) => enters(onShape(4, paragraphs(from, to)))
    const states = statesOf([click(of(0)), click(of(1), { ...of(2), when: 'withEffect' }), click(of(3, 4))])
    expect(states.map(({ state }) => [...state.get('4')!.hiddenParagraphs].sort())).toEqual([
      [0, 1, 2, 3, 4],
      [1, 2, 3, 4],
      [3, 4],
      [],
    ])
  })
  test('the ground of a text comes before its paragraphs', () => {
    const states = statesOf([click(enters(onShape(4, '<p:bg/>'))), click(enters(onShape(4, paragraphs(0))))])
    expect(states.map(({ state }) => [state.get('4')!.backgroundHidden, state.get('4')!.hiddenParagraphs.size])).toEqual([
      [true, 1],
      [false, 1],
      [false, 0],
    ])
  })
  test('series of a chart come one by one', () => {
    const states = statesOf([click(enters(onShape(4, series(0)))), click(enters(onShape(4, series(1))))])
    expect(states.map(({ state }) => [...state.get('4')!.hiddenSeries])).toEqual([[0, 1], [1], []])
  })
})

describe('what clicks change', () => {
  const last = (clicks: string[]) => statesOf(clicks).at(-1)!.state.get('4')!
  test('colours of fill, line and letters', () => {
    expect(last([click(recoloured(A, 'fillcolor', 'A93428'))]).fill).toBe('rgba(169, 52, 40, 1)')
    expect(last([click(recoloured(A, 'stroke.color', '17594A'))]).line).toBe('rgba(23, 89, 74, 1)')
    expect(last([click(recoloured(A, 'style.color', '000000'))]).letters).toBe('rgba(0, 0, 0, 1)')
  })
  test('a path leaves a shape at its end, and the next goes on from there', () => {
    expect(last([click(moved(A, 'M 0 0 L 0.25 0.1 E')), click(moved(A, 'M 0 0 L 0 -0.05 E'))]).move).toEqual({
      x: 0.25,
      y: expect.closeTo(0.05),
    })
  })
  test('ends of paths: lines, curves, relative letters, closed ones', () => {
    expect(endOfPath('M 0 0 L 0.1 0.2 L 0.3 0.1 E')).toEqual({ x: 0.3, y: 0.1 })
    expect(endOfPath('M 0 0 C 0.1 0 0.2 0.1 0.25 0.2 E')).toEqual({ x: 0.25, y: 0.2 })
    expect(endOfPath('m 0 0 l 0.1 0.1 0.1 0 e')).toEqual({ x: expect.closeTo(0.2), y: 0.1 })
    expect(endOfPath('M 0 0 L -3.7037E-7 0.25 E')).toEqual({ x: -3.7037e-7, y: 0.25 })
    expect(endOfPath('M 0 0 Q 1 1 2 2')).toEqual({ x: 2, y: 2 })
    // what comes back moves nothing
    expect(endOfPath('M 0 0 L 0.2 0.2 L 0.2 0 Z')).toBeNull()
    expect(endOfPath('to the right')).toBeNull()
  })
  test('a growth stays; one that goes back leaves nothing, and is told', () => {
    expect(last([click(grown(A, 1.5))]).scale).toEqual({ x: 1.5, y: 1.5 })
    expect(read([click(grown(A, 1.5, 'autoRev="1"'))])).toEqual({ groups: [], untaken: 1 })
  })
  test('what waits for a press on something is told', () => expect(read([click(enters(A))], click(enters(B))).untaken).toBe(1))
  test('single letters are told', () =>
    expect(read([click(enters(onShape(4, '<p:txEl><p:charRg st="0" end="3"/></p:txEl>')))])).toEqual({ groups: [], untaken: 1 }))
})

test('a slide without time nodes has no clicks', () =>
  expect(readClicks(parseXml(strToU8('<p:sld xmlns:p="p"/>'), 'slide'), theme)).toEqual({ groups: [], untaken: 0 }))
