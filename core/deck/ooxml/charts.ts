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

/** @returns null for a kind that is not drawn */
export function chartItems(chart: XmlNode, box: Transform, theme: Theme): DrawnItem[] | null {
  const area = at(chart, 'chart', 'plotArea')
  const plot = area?.children.find((c) =>
    ['barChart', 'bar3DChart', 'lineChart', 'areaChart', 'pieChart', 'pie3DChart', 'doughnutChart'].includes(c.name),
  )
  if (!plot) return null
  const accent = (i: number) => `#${theme.colours.get(`accent${(i % 6) + 1}`) ?? '17594A'}`
  const ser = children(plot, 'ser')
  const series: Series[] = ser.map((s, i) => ({
    name: points(child(s, 'tx'))[0] ?? '',
    values: points(child(s, 'val')).map((v) => numberOf(v)),
    colour: colourIn(at(s, 'spPr', 'solidFill') ?? at(s, 'spPr', 'ln', 'solidFill'), theme) ?? accent(i),
  }))
  const categories = points(child(ser[0], 'cat'))
  const size = Math.max(14, Math.min(box.width, box.height) * LABEL_SHARE)
  const items: DrawnItem[] = []
  const label = (text: string, x: number, y: number, width: number, align: Paragraph['align'] = 'center') => {
    const run = {
      text,
      size,
      bold: false,
      italic: false,
      underline: false,
      strike: false,
      colour: INK,
      serif: false,
      mono: false,
      raise: 0,
    }
    const paragraph: Paragraph = {
      runs: [run],
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
    items.push({
      kind: 'shape',
      box: { x, y, width, height: size * 1.4, rotation: 0, flipX: false, flipY: false },
      path: [],
      fill: null,
      line: null,
      text: { paragraphs: [paragraph], anchor: 'middle', inset: { left: 0, top: 0, right: 0, bottom: 0 }, wrap: true, scale: 1 },
    })
  }
  const shape = (
    path: PathStep[],
    at: Omit<Transform, 'rotation' | 'flipX' | 'flipY'>,
    colour: string | null,
    line: string | null = null,
  ) =>
    items.push({
      kind: 'shape',
      box: { ...at, rotation: 0, flipX: false, flipY: false },
      path,
      fill: colour ? { kind: 'solid', colour } : null,
      line: line ? { colour: line, width: Math.max(2, size / 8), dash: [], head: false, tail: false } : null,
      text: null,
    })
  const whole: PathStep[] = [
    { to: 'move', x: 0, y: 0 },
    { to: 'line', x: 1, y: 0 },
    { to: 'line', x: 1, y: 1 },
    { to: 'line', x: 0, y: 1 },
    { to: 'close' },
  ]
  const slices = children(ser[0], 'dPt').map((point) => colourIn(at(point, 'spPr', 'solidFill'), theme))
  const sliceColour = (i: number) => slices[i] ?? accent(i)
  const title = below(at(chart, 'chart', 'title'), 't')
    .map((t) => t.text)
    .join('')
  const top = box.y + (title ? size * 2 : size * 0.6)
  if (title) label(title, box.x, box.y, box.width)
  const legend =
    plot.name.startsWith('pie') || plot.name === 'doughnutChart' ? categories : series.length > 1 ? series.map((s) => s.name) : []
  const foot = box.y + box.height - (legend.length > 0 ? size * 2 : size * 0.4)
  legend.forEach((name, i) => {
    const width = box.width / legend.length
    const colour = plot.name.startsWith('pie') || plot.name === 'doughnutChart' ? sliceColour(i) : series[i]!.colour
    shape(whole, { x: box.x + i * width + size, y: foot + size * 0.7, width: size * 0.7, height: size * 0.7 }, colour)
    label(name, box.x + i * width + size * 2, foot + size * 0.35, width - size * 2, 'left')
  })

  if (plot.name.startsWith('pie') || plot.name === 'doughnutChart') {
    const values = (series[0]?.values ?? []).map((v) => Math.max(0, v ?? 0))
    const sum = values.reduce((a, b) => a + b, 0) || 1
    const diameter = Math.min(box.width, foot - top) * 0.94
    const at = { x: box.x + (box.width - diameter) / 2, y: top + (foot - top - diameter) / 2, width: diameter, height: diameter }
    let from = -Math.PI / 2
    values.forEach((value, i) => {
      const until = from + (value / sum) * 2 * Math.PI
      shape(
        [{ to: 'move', x: 0.5, y: 0.5 }, { to: 'ellipse', x: 0.5, y: 0.5, rx: 0.5, ry: 0.5, from, until }, { to: 'close' }],
        at,
        sliceColour(i),
        '#ffffff',
      )
      from = until
    })
    if (plot.name === 'doughnutChart') {
      const hole = diameter * 0.5
      shape(
        [{ to: 'ellipse', x: 0.5, y: 0.5, rx: 0.5, ry: 0.5, from: 0, until: 2 * Math.PI }, { to: 'close' }],
        { x: at.x + (diameter - hole) / 2, y: at.y + (diameter - hole) / 2, width: hole, height: hole },
        '#ffffff',
      )
    }
    return items
  }

  const grouping = child(plot, 'grouping')?.attrs.val ?? 'clustered'
  const stacked = grouping.includes('tacked')
  const count = Math.max(categories.length, ...series.map((s) => s.values.length), 1)
  const heights = Array.from({ length: count }, (_, c) => series.map((s) => s.values[c] ?? 0))
  const sums = stacked ? heights.map((h) => h.reduce((a, b) => a + Math.max(0, b), 0)) : heights.flat()
  const [low, high] = [Math.min(0, ...heights.flat()), Math.max(0, ...sums)]
  const step = niceStep(high - low)
  const [least, most] = [Math.floor(low / step) * step, Math.max(step, Math.ceil(high / step) * step)]
  const across = child(plot, 'barDir')?.attrs.val === 'bar'
  const left = box.x + size * (across ? 6 : 3.5)
  const right = box.x + box.width - size
  const base = foot - size * 1.8
  const place = (value: number) => (value - least) / (most - least)
  for (let tick = least; tick <= most + step / 2; tick += step) {
    const words = String(Number(tick.toFixed(6)))
    if (across) {
      const x = left + place(tick) * (right - left)
      shape(
        [
          { to: 'move', x: 0, y: 0 },
          { to: 'line', x: 0, y: 1 },
        ],
        { x, y: top, width: 1, height: base - top },
        null,
        'rgba(200, 196, 186, 1)',
      )
      label(words, x - size * 2, base + size * 0.2, size * 4)
    } else {
      const y = base - place(tick) * (base - top)
      shape(
        [
          { to: 'move', x: 0, y: 0 },
          { to: 'line', x: 1, y: 0 },
        ],
        { x: left, y, width: right - left, height: 1 },
        null,
        'rgba(200, 196, 186, 1)',
      )
      label(words, box.x, y - size * 0.7, left - box.x - size * 0.4, 'right')
    }
  }
  const slot = (across ? base - top : right - left) / count
  categories.forEach((name, c) => {
    if (across) label(name, box.x, base - (c + 0.5) * slot - size * 0.7, left - box.x - size * 0.4, 'right')
    else label(name, left + c * slot, base + size * 0.2, slot)
  })
  if (plot.name === 'lineChart' || plot.name === 'areaChart') {
    for (const s of series) {
      const path: PathStep[] = []
      s.values.forEach((value, c) => {
        if (value !== null) path.push({ to: path.length === 0 ? 'move' : 'line', x: (c + 0.5) / count, y: 1 - place(value) })
      })
      shape(path, { x: left, y: top, width: right - left, height: base - top }, null, s.colour)
    }
    return items
  }
  for (let c = 0; c < count; c++) {
    let stack = 0
    series.forEach((s, i) => {
      const value = s.values[c] ?? 0
      const thick = (slot * 0.7) / (stacked ? 1 : series.length)
      const offset = slot * 0.15 + (stacked ? 0 : i * thick)
      const [from, until] = stacked ? [stack, stack + value] : [0, value]
      if (stacked) stack += value
      const [a, b] = [place(Math.min(from, until)), place(Math.max(from, until))]
      if (across)
        shape(
          whole,
          { x: left + a * (right - left), y: base - (c + 1) * slot + offset, width: (b - a) * (right - left), height: thick },
          s.colour,
        )
      else
        shape(
          whole,
          { x: left + c * slot + offset, y: base - b * (base - top), width: thick, height: (b - a) * (base - top) },
          s.colour,
        )
    })
  }
  return items
}

function niceStep(range: number): number {
  const rough = (range || 1) / 5
  const power = 10 ** Math.floor(Math.log10(rough))
  return [1, 2, 2.5, 5, 10].map((f) => f * power).find((s) => s >= rough)!
}
