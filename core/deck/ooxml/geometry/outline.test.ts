import { strToU8 } from 'fflate'
import { describe, expect, test } from 'vitest'
import type { PathStep } from '../../deck.ts'
import { parseXml } from '../../xml.ts'
import { reckon } from './formulas.ts'
import { customOutlines, presetOutlines } from './outline.ts'

const pathOf = (name: string, adjust: Record<string, number> = {}, width = 200, height = 100) =>
  presetOutlines(name, new Map(Object.entries(adjust)), width, height)!.outlines[0]!.path
const pointsOf = (path: readonly PathStep[]) =>
  path.flatMap((step) => (step.to === 'move' || step.to === 'line' ? [[step.x, step.y].map((v) => Number(v.toFixed(4)))] : []))

describe('formulas (ECMA-376, part 1, §20.1.9.11)', () => {
  test.each<[string, number]>([
    ['*/ 6 7 2', 21],
    ['+- 6 7 2', 11],
    ['+/ 6 8 2', 7],
    ['?: 1 7 2', 7],
    ['?: 0 7 2', 2],
    ['abs -6', 6],
    ['at2 1 1', 2_700_000],
    ['cat2 10 3 4', 6],
    ['sat2 10 3 4', 8],
    ['cos 10 3600000', 5],
    ['sin 10 1800000', 5],
    ['tan 10 2700000', 10],
    ['max 6 7', 7],
    ['min 6 7', 6],
    ['mod 2 3 6', 7],
    ['pin 0 7 5', 5],
    ['pin 0 -7 5', 0],
    ['sqrt 49', 7],
    ['val 42', 42],
  ])('%s', (formula, value) => expect(reckon([['x', formula]], new Map(), 1, 1)('x')).toBeCloseTo(value, 6))
  test('names of the box, and guides by those before them', () => {
    const worth = reckon(
      [
        ['a', '*/ w 1 2'],
        ['b', '+- a h 0'],
      ],
      new Map(),
      200,
      100,
    )
    expect(['b', 'ss', 'ls', 'wd4', 'hd2', 'ssd8', 'vc', '3cd4', '7', 'unknown'].map((name) => worth(name))).toEqual([
      200, 100, 200, 50, 50, 12.5, 50, 16_200_000, 7, 0,
    ])
  })
  test('a shape’s own value counts before what is usual', () =>
    expect(reckon([['adj', 'val 50000']], new Map([['adj', 25_000]]), 1, 1)('adj')).toBe(25_000))
})

describe('shapes of the standard', () => {
  test('a rectangle, and all of it for text', () => {
    expect(pointsOf(pathOf('rect'))).toEqual([
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ])
    expect(presetOutlines('rect', new Map(), 2, 1)!.text).toEqual({ left: 0, top: 0, right: 1, bottom: 1 })
  })
  test('the text of an ellipse stands in the square that it holds', () => {
    const side = (1 - Math.SQRT1_2) / 2
    const { text } = presetOutlines('ellipse', new Map(), 300, 100)!
    expect(text.left).toBeCloseTo(side, 5)
    expect(text.bottom).toBeCloseTo(1 - side, 5)
  })
  test('corners of a rounded rectangle are a sixth of its shorter side', () => {
    const corner = pathOf('roundRect').find((step) => step.to === 'ellipse')
    expect(corner).toMatchObject({ rx: expect.closeTo(0.16667 / 2, 4), ry: expect.closeTo(0.16667, 4) })
  })
  test('an arrow: its head is as long as half of its height, its shaft half as thick', () =>
    expect(pointsOf(pathOf('rightArrow'))).toEqual([
      [0, 0.25],
      [0.75, 0.25],
      [0.75, 0],
      [1, 0.5],
      [0.75, 1],
      [0.75, 0.75],
      [0, 0.75],
    ]))
  test('adjustments change it', () => expect(pointsOf(pathOf('rightArrow', { adj1: 100_000, adj2: 100_000 }))[0]).toEqual([0, 0]))
  test('a triangle with its point at the side', () =>
    expect(pointsOf(pathOf('triangle', { adj: 100_000 }))).toEqual([
      [0, 1],
      [1, 0],
      [1, 1],
    ]))
  test('a star of five points touches its box above and at both sides', () => {
    const points = pointsOf(pathOf('star5', {}, 100, 100))
    expect(points).toHaveLength(10)
    expect(Math.min(...points.map(([, y]) => y!))).toBeCloseTo(0, 4)
    expect(Math.min(...points.map(([x]) => x!))).toBeCloseTo(0, 3)
    expect(Math.max(...points.map(([x]) => x!))).toBeCloseTo(1, 3)
  })
  test('a can has a lighter lid and an edge that is not filled', () =>
    expect(presetOutlines('can', new Map(), 100, 100)!.outlines.map(({ shade, stroked }) => [shade, stroked])).toEqual([
      ['as it is', false],
      ['lighter', false],
      [null, true],
    ]))
  test('three quarters of a pie', () => {
    const arc = pathOf('pie', { adj1: 0, adj2: 16_200_000 }, 100, 100).find((step) => step.to === 'ellipse')!
    expect(arc).toMatchObject({ x: expect.closeTo(0.5), y: expect.closeTo(0.5), from: 0, until: expect.closeTo(1.5 * Math.PI) })
  })
  test('an angle on a stretched ellipse is that of the ray to it', () => {
    // a quarter of a turn is one whatever the sides; an eighth points at the corner of the box
    const arc = pathOf('pie', { adj1: 0, adj2: 5_400_000 }, 200, 100).find((step) => step.to === 'ellipse')!
    expect(arc).toMatchObject({ until: expect.closeTo(Math.PI / 2) })
  })
  test('all of them are finite at any size', () => {
    for (const [width, height] of [
      [1, 1],
      [1e7, 1],
      [0, 5e6],
    ] as const)
      for (const name of [
        'cloud',
        'gear6',
        'wedgeEllipseCallout',
        'bentConnector5',
        'swooshArrow',
        'funnel',
        'smileyFace',
        'mathDivide',
      ])
        for (const { path } of presetOutlines(name, new Map(), width, height)!.outlines)
          for (const step of path)
            for (const value of Object.values(step).flat())
              if (typeof value === 'number') expect(Number.isFinite(value)).toBe(true)
  })
  test('a name that the standard does not know', () => expect(presetOutlines('blob', new Map(), 1, 1)).toBeNull())
})

test('a shape brings a path of its own, with formulas', () => {
  const xml =
    '<a:custGeom><a:gdLst><a:gd name="mid" fmla="*/ w 1 4"/></a:gdLst><a:rect l="mid" t="t" r="r" b="b"/><a:pathLst><a:path><a:moveTo><a:pt x="mid" y="0"/></a:moveTo><a:lnTo><a:pt x="r" y="b"/></a:lnTo><a:quadBezTo><a:pt x="0" y="b"/><a:pt x="0" y="0"/></a:quadBezTo><a:close/></a:path><a:path w="10" h="10" fill="none"><a:moveTo><a:pt x="5" y="5"/></a:moveTo><a:arcTo wR="5" hR="5" stAng="0" swAng="5400000"/></a:path></a:pathLst></a:custGeom>'
  const { outlines, text } = customOutlines(parseXml(strToU8(xml), 'shape'), 400, 100)
  expect(text.left).toBe(0.25)
  expect(outlines[0]!.path.slice(0, 2)).toEqual([
    { to: 'move', x: 0.25, y: 0 },
    { to: 'line', x: 1, y: 1 },
  ])
  expect(outlines[1]).toMatchObject({ shade: null })
  // from the point where it is, around a middle at its left
  expect(outlines[1]!.path[1]).toMatchObject({ to: 'ellipse', x: 0, y: 0.5, rx: 0.5, ry: 0.5 })
})
