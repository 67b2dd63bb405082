/** Simple charts, from the values a deck keeps beside them: bars, columns, lines, pies. @see ECMA-376, part 1, §21.2 */
import type { DrawnItem, Paragraph, PathStep, Transform } from '../deck.ts'
import { at, below, child, children, numberOf, type XmlNode } from '../xml.ts'
import { colourIn, type Theme } from './colours.ts'

interface Series {
  name: string
  values: (number | null)[]
  colour: string
}

const points = (node: XmlNode | undefined): string[] => {
  const cache = child(node, 'strRef') ?? child(node, 'numRef')
  // categories of several levels: the nearest to the bars is the first
  const levels = at(node, 'multiLvlStrRef', 'multiLvlStrCache', 'lvl')
  const list = levels ?? child(cache, 'strCache') ?? child(cache, 'numCache') ?? child(node, 'strLit') ?? child(node, 'numLit')
  const found: string[] = []
  for (const pt of children(list, 'pt')) found[Number(pt.attrs.idx)] = child(pt, 'v')?.text ?? ''
  return Array.from(found, (text) => text ?? '')
}

const LABEL_SHARE = 0.045
const INK = 'rgba(70, 80, 84, 1)'
const GRID = 'rgba(200, 196, 186, 1)'
const KINDS = ['barChart', 'bar3DChart', 'lineChart', 'areaChart', 'pieChart', 'pie3DChart', 'doughnutChart']

const WHOLE: PathStep[] = [
  { to: 'move', x: 0, y: 0 },
  { to: 'line', x: 1, y: 0 },
  { to: 'line', x: 1, y: 1 },
  { to: 'line', x: 0, y: 1 },
  { to: 'close' },
]
const DOWN: PathStep[] = [
  { to: 'move', x: 0, y: 0 },
  { to: 'line', x: 0, y: 1 },
]
const ACROSS: PathStep[] = [
  { to: 'move', x: 0, y: 0 },
  { to: 'line', x: 1, y: 0 },
]

type Box = Omit<Transform, 'rotation' | 'flipX' | 'flipY'>

/** What a chart is drawn with: shapes, and words of one size. */
class Drawing {
  readonly items: DrawnItem[] = []
  readonly size: number

  /** @param size of words, and of what is measured by them */
  constructor(size: number) {
    this.size = size
  }

  label(text: string, x: number, y: number, width: number, align: Paragraph['align'] = 'center') {
    const { size } = this
    const plain = { bold: false, italic: false, underline: false, strike: false, serif: false, mono: false, raise: 0 }
    const paragraph: Paragraph = {
      runs: [{ text, size, colour: INK, ...plain }],
      align,
      left: 0,
      indent: 0,
      bullet: null,
      bulletColour: null,
      lineSpacing: 1,
      before: 0,
      after: 0,
      rightToLeft: false,
    }
    this.items.push({
      kind: 'shape',
      box: { x, y, width, height: size * 1.4, rotation: 0, flipX: false, flipY: false },
      path: [],
      fill: null,
      line: null,
      text: { paragraphs: [paragraph], anchor: 'middle', inset: { left: 0, top: 0, right: 0, bottom: 0 }, wrap: true, scale: 1 },
    })
  }

  shape(path: PathStep[], box: Box, colour: string | null, line: string | null = null) {
    this.items.push({
      kind: 'shape',
      box: { ...box, rotation: 0, flipX: false, flipY: false },
      path,
      fill: colour ? { kind: 'solid', colour } : null,
      line: line ? { colour: line, width: Math.max(2, this.size / 8), dash: [], head: false, tail: false } : null,
      text: null,
    })
  }
}

/** What a chart tells. */
interface ChartData {
  plot: XmlNode
  title: string
  categories: string[]
  series: Series[]
  /** Of a slice of a pie. */
  sliceColour: (slice: number) => string
  isRound: boolean
}

function readChart(chart: XmlNode, plot: XmlNode, theme: Theme): ChartData {
  const accent = (i: number) => `#${theme.colours.get(`accent${(i % 6) + 1}`) ?? '17594A'}`
  const ser = children(plot, 'ser')
  const slices = children(ser[0], 'dPt').map((point) => colourIn(at(point, 'spPr', 'solidFill'), theme))
  return {
    plot,
    title: below(at(chart, 'chart', 'title'), 't')
      .map((t) => t.text)
      .join(''),
    categories: points(child(ser[0], 'cat')),
    series: ser.map((s, i) => ({
      name: points(child(s, 'tx'))[0] ?? '',
      values: points(child(s, 'val')).map((v) => numberOf(v)),
      colour: colourIn(at(s, 'spPr', 'solidFill') ?? at(s, 'spPr', 'ln', 'solidFill'), theme) ?? accent(i),
    })),
    sliceColour: (slice) => slices[slice] ?? accent(slice),
    isRound: plot.name.startsWith('pie') || plot.name === 'doughnutChart',
  }
}

function drawLegend(drawing: Drawing, { series, isRound, sliceColour }: ChartData, names: string[], box: Box, foot: number) {
  const { size } = drawing
  const width = box.width / names.length
  names.forEach((name, i) => {
    const colour = isRound ? sliceColour(i) : series[i]!.colour
    drawing.shape(WHOLE, { x: box.x + i * width + size, y: foot + size * 0.7, width: size * 0.7, height: size * 0.7 }, colour)
    drawing.label(name, box.x + i * width + size * 2, foot + size * 0.35, width - size * 2, 'left')
  })
}

/** @param top, foot between which it stands */
function drawPie(drawing: Drawing, { plot, series, sliceColour }: ChartData, box: Box, top: number, foot: number) {
  const values = (series[0]?.values ?? []).map((v) => Math.max(0, v ?? 0))
  const sum = values.reduce((a, b) => a + b, 0) || 1
  const diameter = Math.min(box.width, foot - top) * 0.94
  const pie = { x: box.x + (box.width - diameter) / 2, y: top + (foot - top - diameter) / 2, width: diameter, height: diameter }
  let from = -Math.PI / 2
  values.forEach((value, i) => {
    const until = from + (value / sum) * 2 * Math.PI
    const slice: PathStep[] = [
      { to: 'move', x: 0.5, y: 0.5 },
      { to: 'ellipse', x: 0.5, y: 0.5, rx: 0.5, ry: 0.5, from, until },
      { to: 'close' },
    ]
    drawing.shape(slice, pie, sliceColour(i), '#ffffff')
    from = until
  })
  if (plot.name !== 'doughnutChart') return
  const hole = diameter * 0.5
  drawing.shape(
    [{ to: 'ellipse', x: 0.5, y: 0.5, rx: 0.5, ry: 0.5, from: 0, until: 2 * Math.PI }, { to: 'close' }],
    { x: pie.x + (diameter - hole) / 2, y: pie.y + (diameter - hole) / 2, width: hole, height: hole },
    '#ffffff',
  )
}

/** Where bars and lines stand, and what their axis goes through. */
interface Axes {
  /** Bars lie instead of standing. */
  across: boolean
  stacked: boolean
  count: number
  least: number
  most: number
  step: number
  left: number
  right: number
  top: number
  base: number
  /** @returns 0 at the least value, 1 at the most */
  place(value: number): number
}

function axesOf({ plot, series, categories }: ChartData, size: number, box: Box, top: number, foot: number): Axes {
  const stacked = (child(plot, 'grouping')?.attrs.val ?? 'clustered').includes('tacked')
  const count = Math.max(categories.length, ...series.map((s) => s.values.length), 1)
  const heights = Array.from({ length: count }, (_, c) => series.map((s) => s.values[c] ?? 0))
  const sums = stacked ? heights.map((h) => h.reduce((a, b) => a + Math.max(0, b), 0)) : heights.flat()
  const [low, high] = [Math.min(0, ...heights.flat()), Math.max(0, ...sums)]
  const step = niceStep(high - low)
  const [least, most] = [Math.floor(low / step) * step, Math.max(step, Math.ceil(high / step) * step)]
  const across = child(plot, 'barDir')?.attrs.val === 'bar'
  return {
    across,
    stacked,
    count,
    least,
    most,
    step,
    left: box.x + size * (across ? 6 : 3.5),
    right: box.x + box.width - size,
    top,
    base: foot - size * 1.8,
    place: (value) => (value - least) / (most - least),
  }
}

function drawAxes(drawing: Drawing, { categories }: ChartData, axes: Axes, box: Box) {
  const { size } = drawing
  const { across, count, least, most, step, left, right, top, base, place } = axes
  for (let tick = least; tick <= most + step / 2; tick += step) {
    const words = String(Number(tick.toFixed(6)))
    if (across) {
      const x = left + place(tick) * (right - left)
      drawing.shape(DOWN, { x, y: top, width: 1, height: base - top }, null, GRID)
      drawing.label(words, x - size * 2, base + size * 0.2, size * 4)
    } else {
      const y = base - place(tick) * (base - top)
      drawing.shape(ACROSS, { x: left, y, width: right - left, height: 1 }, null, GRID)
      drawing.label(words, box.x, y - size * 0.7, left - box.x - size * 0.4, 'right')
    }
  }
  const slot = (across ? base - top : right - left) / count
  categories.forEach((name, c) => {
    if (across) drawing.label(name, box.x, base - (c + 0.5) * slot - size * 0.7, left - box.x - size * 0.4, 'right')
    else drawing.label(name, left + c * slot, base + size * 0.2, slot)
  })
}

function drawLines(drawing: Drawing, series: readonly Series[], { count, left, right, top, base, place }: Axes) {
  for (const s of series) {
    const path: PathStep[] = []
    s.values.forEach((value, c) => {
      if (value !== null) path.push({ to: path.length === 0 ? 'move' : 'line', x: (c + 0.5) / count, y: 1 - place(value) })
    })
    drawing.shape(path, { x: left, y: top, width: right - left, height: base - top }, null, s.colour)
  }
}

function drawBars(drawing: Drawing, series: readonly Series[], axes: Axes) {
  const { across, stacked, count, left, right, top, base, place } = axes
  const slot = (across ? base - top : right - left) / count
  const thick = (slot * 0.7) / (stacked ? 1 : series.length)
  for (let c = 0; c < count; c++) {
    let stack = 0
    series.forEach((s, i) => {
      const value = s.values[c] ?? 0
      const offset = slot * 0.15 + (stacked ? 0 : i * thick)
      const [from, until] = stacked ? [stack, stack + value] : [0, value]
      if (stacked) stack += value
      const [a, b] = [place(Math.min(from, until)), place(Math.max(from, until))]
      const bar = across
        ? { x: left + a * (right - left), y: base - (c + 1) * slot + offset, width: (b - a) * (right - left), height: thick }
        : { x: left + c * slot + offset, y: base - b * (base - top), width: thick, height: (b - a) * (base - top) }
      drawing.shape(WHOLE, bar, s.colour)
    })
  }
}

/** @returns null for a kind that is not drawn */
export function chartItems(chart: XmlNode, box: Transform, theme: Theme): DrawnItem[] | null {
  const plot = at(chart, 'chart', 'plotArea')?.children.find((c) => KINDS.includes(c.name))
  if (!plot) return null
  const data = readChart(chart, plot, theme)
  const { title, series, categories, isRound } = data
  const drawing = new Drawing(Math.max(14, Math.min(box.width, box.height) * LABEL_SHARE))
  const { size } = drawing
  const top = box.y + (title ? size * 2 : size * 0.6)
  if (title) drawing.label(title, box.x, box.y, box.width)
  const legend = isRound ? categories : series.length > 1 ? series.map((s) => s.name) : []
  const foot = box.y + box.height - (legend.length > 0 ? size * 2 : size * 0.4)
  drawLegend(drawing, data, legend, box, foot)
  if (isRound) drawPie(drawing, data, box, top, foot)
  else {
    const axes = axesOf(data, size, box, top, foot)
    drawAxes(drawing, data, axes, box)
    if (plot.name === 'lineChart' || plot.name === 'areaChart') drawLines(drawing, series, axes)
    else drawBars(drawing, series, axes)
  }
  return drawing.items
}

function niceStep(range: number): number {
  const rough = (range || 1) / 5
  const power = 10 ** Math.floor(Math.log10(rough))
  return [1, 2, 2.5, 5, 10].map((f) => f * power).find((s) => s >= rough)!
}
