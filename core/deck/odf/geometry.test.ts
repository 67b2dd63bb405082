import { strToU8 } from 'fflate'
import { describe, expect, test } from 'vitest'
import { parseXml } from '../xml.ts'
import { drawnOutline, enhancedOutlines, textArea } from './geometry.ts'

const node = (xml: string) => parseXml(strToU8(xml), 'shape')
const shape = (path: string, more = '', inside = '') =>
  node(
    `<draw:enhanced-geometry svg:viewBox="0 0 100 200" draw:enhanced-path="${path}" ${more}>${inside}</draw:enhanced-geometry>`,
  )
const pathOf = (...of: Parameters<typeof shape>) => enhancedOutlines(shape(...of))![0]!.path

describe('enhanced paths (OpenDocument 1.3, part 3, §19.145)', () => {
  test('lines go on after a move, and a closed path ends', () =>
    expect(pathOf('M 0 0 100 0 L 100 200 0 200 Z N')).toEqual([
      { to: 'move', x: 0, y: 0 },
      { to: 'line', x: 1, y: 0 },
      { to: 'line', x: 1, y: 1 },
      { to: 'line', x: 0, y: 1 },
      { to: 'close' },
    ]))
  test('a whole ellipse about its middle', () =>
    expect(pathOf('U 50 100 50 100 0 360 Z N')[1]).toMatchObject({ to: 'ellipse', x: 0.5, y: 0.5, rx: 0.5, ry: 0.5, from: 0 }))
  test('quadrants take turns along one side and the other', () => {
    const path = pathOf('M 0 100 Y 50 0 100 100 N')
    expect(path.map((step) => step.to)).toEqual(['move', 'curve', 'curve'])
    expect(path[1]).toMatchObject({ points: [0, expect.any(Number), expect.any(Number), 0, 0.5, 0] })
  })
  test('arcs in a box, with and against the clock', () => {
    const against = pathOf('M 100 100 A 0 0 100 200 100 100 50 0 N')[1]!
    const withIt = pathOf('M 100 100 W 0 0 100 200 100 100 50 0 N')[1]!
    expect(against).toMatchObject({ from: expect.closeTo(0), until: expect.closeTo(-Math.PI / 2) })
    expect(withIt).toMatchObject({ from: expect.closeTo(0), until: expect.closeTo(1.5 * Math.PI) })
  })
  test('what is not filled, or has no edge, says so', () =>
    expect(
      enhancedOutlines(shape('M 0 0 L 100 0 N M 0 0 F L 50 0 N M 0 0 S L 50 0 N'))!.map((o) => [o.filled, o.stroked]),
    ).toEqual([
      [true, true],
      [false, true],
      [true, false],
    ]))
})

describe('formulas (OpenDocument 1.3, part 3, §19.171)', () => {
  const of = (formula: string, more = '') =>
    pathOf('M ?f0 0 N', `draw:modifiers="30 7" ${more}`, `<draw:equation draw:name="f0" draw:formula="${formula}"/>`)[0]
  test.each([
    ['$0 + $1 * 2', 44],
    ['right - $0', 70],
    ['(right - left) / 4', 25],
    ['-$0 + 100', 70],
    ['if(1, 20, 30)', 20],
    ['if(0-1, 20, 30)', 30],
    ['min($0, $1) + max(1, 2)', 9],
    ['abs(0 - 5) + sqrt(16)', 9],
    ['100 * sin(pi / 6)', 50],
    ['1 / 0', 0],
  ])('%s', (formula, value) => expect(of(formula)).toMatchObject({ x: expect.closeTo(value / 100, 5) }))
  test('one that names itself ends, and one that is no formula is nothing', () => {
    expect(of('?f0 + 1')).toMatchObject({ to: 'move' })
    expect(of('((')).toMatchObject({ x: 0 })
  })
  test('where text stands', () =>
    expect(textArea(shape('M 0 0 N', 'draw:text-areas="10 20 90 180"'))).toEqual({
      left: 0.1,
      top: 0.1,
      right: 0.9,
      bottom: 0.9,
    }))
})

test('polygons are closed, polylines are not filled, paths of SVG have their curves', () => {
  const polygon = drawnOutline(node('<draw:polygon svg:viewBox="0 0 10 10" draw:points="0,0 10,0 5,10"/>'))!
  expect(polygon.path).toHaveLength(4)
  expect(drawnOutline(node('<draw:polyline svg:viewBox="0 0 10 10" draw:points="0,0 10,0"/>'))!.filled).toBe(false)
  const path = drawnOutline(node('<draw:path svg:viewBox="0 0 10 10" svg:d="M0 0h10q0 5-5 5z"/>'))!
  expect(path.path.map((step) => step.to)).toEqual(['move', 'line', 'curve', 'close'])
  expect(drawnOutline(node('<draw:path svg:viewBox="0 0 10 10" svg:d="not a path"/>'))).toBeNull()
})
