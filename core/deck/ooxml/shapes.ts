/** The common preset shapes as paths in a box from 0 to 1, and shapes that bring a path of their own. @see ECMA-376, part 1, §20.1.9 */
import type { PathStep } from '../deck.ts'
import { at, children, numberOf, type XmlNode } from '../xml.ts'

const polygon = (...points: [number, number][]): PathStep[] => [
  ...points.map(([x, y], i): PathStep => ({ to: i === 0 ? 'move' : 'line', x, y })),
  { to: 'close' },
]
const regular = (sides: number, turn = -Math.PI / 2) =>
  polygon(
    ...Array.from({ length: sides }, (_, i): [number, number] => {
      const angle = turn + (2 * Math.PI * i) / sides
      return [0.5 + Math.cos(angle) / 2, 0.5 + Math.sin(angle) / 2]
    }),
  )
const star = (points: number, inner: number) =>
  polygon(
    ...Array.from({ length: points * 2 }, (_, i): [number, number] => {
      const angle = -Math.PI / 2 + (Math.PI * i) / points
      const radius = i % 2 === 0 ? 0.5 : inner
      return [0.5 + Math.cos(angle) * radius, 0.5 + Math.sin(angle) * radius]
    }),
  )
const ellipse = (from = 0, until = 2 * Math.PI): PathStep => ({ to: 'ellipse', x: 0.5, y: 0.5, rx: 0.5, ry: 0.5, from, until })

/** @param r of the corners, as shares of width and height */
function rounded(rx: number, ry: number): PathStep[] {
  const corner = (x: number, y: number, from: number): PathStep => ({
    to: 'ellipse',
    x,
    y,
    rx,
    ry,
    from,
    until: from + Math.PI / 2,
  })
  return [
    corner(rx, ry, Math.PI),
    corner(1 - rx, ry, 1.5 * Math.PI),
    corner(1 - rx, 1 - ry, 0),
    corner(rx, 1 - ry, Math.PI / 2),
    { to: 'close' },
  ]
}

/** @param shaft thickness across; @param head length along, as shares */
const arrow = (shaft: number, head: number): [number, number][] => [
  [0, 0.5 - shaft / 2],
  [1 - head, 0.5 - shaft / 2],
  [1 - head, 0],
  [1, 0.5],
  [1 - head, 1],
  [1 - head, 0.5 + shaft / 2],
  [0, 0.5 + shaft / 2],
]
const mirrored = (points: [number, number][]) => points.map(([x, y]): [number, number] => [1 - x, y])
const turned = (points: [number, number][]) => points.map(([x, y]): [number, number] => [y, x])

/** What a shape is drawn after. */
interface Outline {
  /** An adjustment as a share. */
  value(key: string, usual: number): number
  /** An adjustment as an angle; `usual` in sixtieth-thousandths of a degree, as files have it. */
  angle(key: string, usual: number): number
  /** The shorter side, as shares of width and height. */
  sx: number
  sy: number
}

const sideways = ({ value, sx }: Outline) => arrow(value('adj1', 50_000), Math.min(1, value('adj2', 50_000) * sx))
const upright = ({ value, sy }: Outline) => arrow(value('adj1', 50_000), Math.min(1, value('adj2', 50_000) * sy))

/** @param share of the shorter side */
const roundedBy = (share: number, sx: number, sy: number) => rounded(Math.min(0.5, share) * sx, Math.min(0.5, share) * sy)

/** Shapes by name; those that look alike at this size share a path. */
const SHAPES: { names: string[]; path: (of: Outline) => PathStep[] }[] = [
  {
    names: ['rect', 'flowChartProcess', 'snip1Rect', 'actionButtonBlank'],
    path: () => polygon([0, 0], [1, 0], [1, 1], [0, 1]),
  },
  {
    names: ['roundRect', 'flowChartAlternateProcess', 'wedgeRoundRectCallout'],
    path: ({ value, sx, sy }) => roundedBy(value('adj', 16_667), sx, sy),
  },
  { names: ['round2SameRect'], path: ({ value, sx, sy }) => roundedBy(value('adj1', 16_667), sx, sy) },
  { names: ['flowChartTerminator'], path: ({ sx, sy }) => roundedBy(0.5, sx, sy) },
  {
    names: ['ellipse', 'flowChartConnector', 'wedgeEllipseCallout', 'cloud', 'cloudCallout'],
    path: () => [ellipse(), { to: 'close' }],
  },
  {
    names: ['donut'],
    path: ({ value, sx, sy }) => [
      ellipse(),
      { to: 'close' },
      {
        to: 'ellipse',
        x: 0.5,
        y: 0.5,
        rx: 0.5 - value('adj', 25_000) * sx,
        ry: 0.5 - value('adj', 25_000) * sy,
        from: 2 * Math.PI,
        until: 0,
      },
      { to: 'close' },
    ],
  },
  {
    names: ['triangle', 'flowChartExtract'],
    path: ({ value }) => polygon([value('adj', 50_000), 0], [1, 1], [0, 1]),
  },
  {
    names: ['rtTriangle'],
    path: () => polygon([0, 0], [1, 1], [0, 1]),
  },
  {
    names: ['diamond', 'flowChartDecision'],
    path: () => polygon([0.5, 0], [1, 0.5], [0.5, 1], [0, 0.5]),
  },
  {
    names: ['parallelogram', 'flowChartInputOutput'],
    path: ({ value, sx }) => {
      const lean = Math.min(1, value('adj', 25_000) * sx)
      return polygon([lean, 0], [1, 0], [1 - lean, 1], [0, 1])
    },
  },
  {
    names: ['trapezoid'],
    path: ({ value, sx }) => {
      const lean = Math.min(0.5, value('adj', 25_000) * sx)
      return polygon([lean, 0], [1 - lean, 0], [1, 1], [0, 1])
    },
  },
  {
    names: ['pentagon'],
    path: () => regular(5),
  },
  {
    names: ['hexagon'],
    path: ({ value, sx }) => {
      const lean = Math.min(0.5, value('adj', 25_000) * sx)
      return polygon([lean, 0], [1 - lean, 0], [1, 0.5], [1 - lean, 1], [lean, 1], [0, 0.5])
    },
  },
  {
    names: ['octagon'],
    path: ({ value, sx, sy }) => {
      const [x, y] = [value('adj', 29_289) * sx, value('adj', 29_289) * sy]
      return polygon([x, 0], [1 - x, 0], [1, y], [1, 1 - y], [1 - x, 1], [x, 1], [0, 1 - y], [0, y])
    },
  },
  {
    names: ['homePlate'],
    path: ({ value, sx }) => {
      const point = Math.min(1, value('adj', 50_000) * sx)
      return polygon([0, 0], [1 - point, 0], [1, 0.5], [1 - point, 1], [0, 1])
    },
  },
  {
    names: ['chevron'],
    path: ({ value, sx }) => {
      const point = Math.min(1, value('adj', 50_000) * sx)
      return polygon([0, 0], [1 - point, 0], [1, 0.5], [1 - point, 1], [0, 1], [point, 0.5])
    },
  },
  {
    names: ['rightArrow'],
    path: (of) => polygon(...sideways(of)),
  },
  {
    names: ['leftArrow'],
    path: (of) => polygon(...mirrored(sideways(of))),
  },
  {
    names: ['downArrow'],
    path: (of) => polygon(...turned(upright(of))),
  },
  {
    names: ['upArrow'],
    path: (of) => polygon(...turned(mirrored(upright(of)))),
  },
  {
    names: ['leftRightArrow'],
    path: ({ value, sx }) => {
      const [shaft, head] = [value('adj1', 50_000), Math.min(0.5, value('adj2', 50_000) * sx)]
      return polygon(
        [0, 0.5],
        [head, 0],
        [head, 0.5 - shaft / 2],
        [1 - head, 0.5 - shaft / 2],
        [1 - head, 0],
        [1, 0.5],
        [1 - head, 1],
        [1 - head, 0.5 + shaft / 2],
        [head, 0.5 + shaft / 2],
        [head, 1],
      )
    },
  },
  {
    names: ['plus', 'mathPlus'],
    path: ({ value, sx, sy }) => {
      const [x, y] = [value('adj', 25_000) * sx, value('adj', 25_000) * sy]
      return polygon(
        [x, 0],
        [1 - x, 0],
        [1 - x, y],
        [1, y],
        [1, 1 - y],
        [1 - x, 1 - y],
        [1 - x, 1],
        [x, 1],
        [x, 1 - y],
        [0, 1 - y],
        [0, y],
        [x, y],
      )
    },
  },
  {
    names: ['star4'],
    path: ({ value }) => star(4, value('adj', 12_500)),
  },
  {
    names: ['star5'],
    path: () => star(5, 0.191),
  },
  {
    names: ['star6'],
    path: ({ value }) => star(6, value('adj', 28_868)),
  },
  {
    names: ['pie'],
    path: ({ angle }) => {
      return [{ to: 'move', x: 0.5, y: 0.5 }, ellipse(angle('adj1', 0), angle('adj2', 16_200_000)), { to: 'close' }]
    },
  },
  {
    names: ['arc'],
    path: ({ angle }) => {
      return [
        ellipse(angle('adj1', 16_200_000), angle('adj2', 0) + (angle('adj2', 0) < angle('adj1', 16_200_000) ? 2 * Math.PI : 0)),
      ]
    },
  },
  {
    names: ['can'],
    path: () => [
      { to: 'ellipse', x: 0.5, y: 0.12, rx: 0.5, ry: 0.12, from: Math.PI, until: 2 * Math.PI },
      { to: 'line', x: 1, y: 0.88 },
      { to: 'ellipse', x: 0.5, y: 0.88, rx: 0.5, ry: 0.12, from: 0, until: Math.PI },
      { to: 'close' },
    ],
  },
  {
    names: ['wedgeRectCallout'],
    path: () => polygon([0, 0], [1, 0], [1, 1], [0.4, 1], [0.2, 1.25], [0.2, 1], [0, 1]),
  },
  {
    names: ['line', 'straightConnector1'],
    path: () => [
      { to: 'move', x: 0, y: 0 },
      { to: 'line', x: 1, y: 1 },
    ],
  },
  {
    names: ['bentConnector2'],
    path: () => [
      { to: 'move', x: 0, y: 0 },
      { to: 'line', x: 1, y: 0 },
      { to: 'line', x: 1, y: 1 },
    ],
  },
  {
    names: ['curvedConnector3'],
    path: ({ value }) => {
      const middle = value('adj1', 50_000)
      return [
        { to: 'move', x: 0, y: 0 },
        { to: 'curve', points: [middle, 0, middle, 1, 1, 1] },
      ]
    },
  },
  {
    names: ['bentConnector3'],
    path: ({ value }) => {
      const middle = value('adj1', 50_000)
      return [
        { to: 'move', x: 0, y: 0 },
        { to: 'line', x: middle, y: 0 },
        { to: 'line', x: middle, y: 1 },
        { to: 'line', x: 1, y: 1 },
      ]
    },
  },
]
const PATHS = new Map(SHAPES.flatMap(({ names, path }) => names.map((name) => [name, path] as const)))

/** @returns null for a shape that is not known */
export function presetPath(name: string, adjust: ReadonlyMap<string, number>, width: number, height: number): PathStep[] | null {
  const short = Math.min(width, height)
  const outline: Outline = {
    value: (key, usual) => (adjust.get(key) ?? usual) / 100_000,
    angle: (key, usual) => ((adjust.get(key) ?? usual) / 60_000) * (Math.PI / 180),
    sx: short / Math.max(1, width),
    sy: short / Math.max(1, height),
  }
  return PATHS.get(name)?.(outline) ?? null
}

/** A path that a shape brings itself; null where it is reckoned from formulas. */
export function customPath(geometry: XmlNode): PathStep[] | null {
  const steps: PathStep[] = []
  for (const path of children(at(geometry, 'pathLst'), 'path')) {
    const [w, h] = [numberOf(path.attrs.w) ?? 1, numberOf(path.attrs.h) ?? 1]
    let here: [number, number] = [0, 0]
    for (const command of path.children) {
      const points = children(command, 'pt').map((pt): [number, number] => [
        Number(pt.attrs.x) / (w || 1),
        Number(pt.attrs.y) / (h || 1),
      ])
      if (points.some((point) => point.some((v) => !Number.isFinite(v)))) return null
      const [first, second, third] = points
      if (command.name === 'moveTo' && first) steps.push({ to: 'move', x: first[0], y: first[1] })
      else if (command.name === 'lnTo' && first) steps.push({ to: 'line', x: first[0], y: first[1] })
      else if (command.name === 'cubicBezTo' && first && second && third)
        steps.push({ to: 'curve', points: [...first, ...second, ...third] })
      else if (command.name === 'quadBezTo' && first && second) {
        const control = (p: [number, number], q: [number, number]) =>
          [p[0] + (2 / 3) * (q[0] - p[0]), p[1] + (2 / 3) * (q[1] - p[1])] as const
        steps.push({ to: 'curve', points: [...control(here, first), ...control(second, first), ...second] })
      } else if (command.name === 'arcTo') {
        const [rx, ry] = [Number(command.attrs.wR) / (w || 1), Number(command.attrs.hR) / (h || 1)]
        const from = (Number(command.attrs.stAng) / 60_000) * (Math.PI / 180)
        const until = from + (Number(command.attrs.swAng) / 60_000) * (Math.PI / 180)
        if (![rx, ry, from, until].every(Number.isFinite)) return null
        const [x, y] = [here[0] - rx * Math.cos(from), here[1] - ry * Math.sin(from)]
        steps.push({ to: 'ellipse', x, y, rx, ry, from, until })
        here = [x + rx * Math.cos(until), y + ry * Math.sin(until)]
        continue
      } else if (command.name === 'close') steps.push({ to: 'close' })
      here = points.at(-1) ?? here
    }
  }
  return steps.length > 0 ? steps : null
}
