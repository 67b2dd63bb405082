/** Clicks out of animations written by hand for each case. @see OpenDocument 1.3, part 3, §15 */
import { strToU8 } from 'fflate'
import { expect, test } from 'vitest'
import { slideStates } from '../steps/steps.ts'
import { parseXml } from '../xml.ts'
import { readClicks } from './timing.ts'

const effect = (kind: string, when: string, inside: string, begin = '0s') =>
  `<anim:par smil:begin="${begin}" smil:fill="hold" presentation:node-type="${when}" presentation:preset-class="${kind}">${inside}</anim:par>`
const set = (target: string, to: 'visible' | 'hidden', more = '') =>
  `<anim:set smil:begin="0s" smil:dur="0.004s" smil:fill="hold" smil:targetElement="${target}" ${more} smil:attributeName="visibility" smil:to="${to}"/>`
const shown = (target: string, when = 'on-click', begin?: string) => effect('entrance', when, set(target, 'visible'), begin)
const gone = (target: string, when = 'on-click') => effect('exit', when, set(target, 'hidden'))
const click = (...groups: string[]) =>
  `<anim:par smil:begin="next">${groups.map((one) => `<anim:par smil:begin="0s">${one}</anim:par>`).join('')}</anim:par>`
const SHAPES =
  '<draw:frame draw:id="one"><draw:text-box><text:list><text:list-item><text:p text:id="p1">Funnel</text:p></text:list-item><text:list-item><text:p text:id="p2">Tube</text:p></text:list-item></text:list></draw:text-box></draw:frame><draw:rect xml:id="two"/>'
const pageOf = (animations: string) =>
  parseXml(
    strToU8(
      `<draw:page xmlns:draw="d" xmlns:anim="a" xmlns:smil="s" xmlns:presentation="p" xmlns:text="t" xmlns:svg="v">${SHAPES}${animations}</draw:page>`,
    ),
    'page',
  )
const main = (...clicks: string[]) =>
  `<anim:par presentation:node-type="timing-root"><anim:seq presentation:node-type="main-sequence">${clicks.join('')}</anim:seq></anim:par>`
const statesOf = (animations: string) => slideStates(readClicks(pageOf(animations)).groups)
const hidden = (animations: string, shape: string) => statesOf(animations).map(({ state }) => state.get(shape)?.hidden ?? false)

test('shapes come and go by clicks; with and after the one before belong to its click', () => {
  const clicks = main(click(shown('one'), shown('two', 'with-previous')), click(gone('one')), click(gone('two', 'on-click')))
  expect(hidden(clicks, 'one')).toEqual([true, false, true, true])
  expect(hidden(clicks, 'two')).toEqual([true, false, false, true])
})
test('paragraphs come by their own names', () => {
  const states = statesOf(main(click(shown('p1')), click(shown('p2'))))
  expect(states.map(({ state }) => [...state.get('one')!.hiddenParagraphs])).toEqual([[0, 1], [1], []])
})
test('the ground of a shape, and its text as a whole', () => {
  const part = (item: string) => effect('entrance', 'on-click', set('one', 'visible', `anim:sub-item="${item}"`))
  const states = statesOf(main(click(part('background')), click(part('text'))))
  expect(states.map(({ state }) => [state.get('one')!.backgroundHidden, state.get('one')!.hiddenParagraphs.has(1)])).toEqual([
    [true, true],
    [false, true],
    [false, false],
  ])
})
test('what waits after the one before comes by itself, later', () => {
  const states = statesOf(main(click(shown('one'), shown('two', 'after-previous', '2s'))))
  expect(states.map(({ afterSeconds }) => afterSeconds)).toEqual([0, null, 2])
})
test('letters by turns, colours, growth, turning and paths leave what they end with', () => {
  const emphasis = (inside: string) => click(effect('emphasis', 'on-click', inside))
  const last = (clicks: string) => statesOf(main(clicks)).at(-1)!.state.get('two')!
  expect(
    last(
      click(
        effect(
          'entrance',
          'on-click',
          `<anim:iterate smil:targetElement="two">${set('', 'visible')}</anim:iterate>`.replace('smil:targetElement="" ', ''),
        ),
      ),
    ).hidden,
  ).toBe(false)
  const colour = '<anim:animateColor smil:targetElement="two" smil:attributeName="fill-color" smil:to="#a93428"/>'
  expect(last(emphasis(colour)).fill).toBe('#a93428')
  const grow = '<anim:animateTransform smil:targetElement="two" svg:type="scale" smil:to="1.5,1.5"/>'
  expect(last(emphasis(grow)).scale).toEqual({ x: 1.5, y: 1.5 })
  const turn = '<anim:animateTransform smil:targetElement="two" svg:type="rotate" smil:by="45"/>'
  expect(last(emphasis(turn)).turn).toBe(45)
  const path = '<anim:animateMotion smil:targetElement="two" svg:path="m0 0 0.25 0.1"/>'
  expect(last(click(effect('motion-path', 'on-click', path))).move).toEqual({ x: 0.25, y: 0.1 })
})
test('what turns all around, goes back, or waits for a press leaves nothing, and is told', () => {
  const around = '<anim:animateTransform smil:targetElement="two" svg:type="rotate" smil:by="360"/>'
  const back =
    '<anim:animateColor smil:targetElement="two" smil:autoReverse="true" smil:attributeName="fill-color" smil:to="#a93428"/>'
  const clicks = main(click(effect('emphasis', 'on-click', around)), click(effect('emphasis', 'on-click', back)))
  const pressed = `<anim:par presentation:node-type="timing-root"><anim:seq presentation:node-type="main-sequence"/><anim:seq presentation:node-type="interactive-sequence">${click(shown('one'))}</anim:seq></anim:par>`
  expect(readClicks(pageOf(clicks))).toEqual({ groups: [], untaken: 2 })
  expect(readClicks(pageOf(pressed)).untaken).toBe(1)
})
test('the older way of writing them: each entry is a click (§10.8)', () => {
  const older =
    '<presentation:animations><presentation:show-shape draw:shape-id="two"/><presentation:hide-shape draw:shape-id="two"/></presentation:animations>'
  expect(hidden(older, 'two')).toEqual([true, false, true])
})
