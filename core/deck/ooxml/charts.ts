/** Charts, from the values a deck keeps beside them. @see ECMA-376, part 1, §21.2 (DrawingML charts) */
import type { Chart, ChartKind, ChartLabels, ChartScale, ChartSeries } from '../chart.ts'
import { at, below, child, children, numberOf, type XmlNode } from '../xml.ts'
import { colourIn, type Theme } from './colours.ts'

const EMU_A_POINT = 12_700
const INK = 'rgba(70, 80, 84, 1)'
/** Points. Charts whose letters say nothing have 10 in what writers make. Common practice, no published source. */
const LETTERS_PT = 10
const TITLE_PT = 14

const KINDS: Record<string, ChartKind> = {
  barChart: 'bar',
  bar3DChart: 'bar',
  lineChart: 'line',
  line3DChart: 'line',
  areaChart: 'area',
  area3DChart: 'area',
  pieChart: 'pie',
  pie3DChart: 'pie',
  ofPieChart: 'pie',
  doughnutChart: 'doughnut',
  radarChart: 'radar',
  scatterChart: 'scatter',
  bubbleChart: 'bubble',
  stockChart: 'stock',
}

const val = (node: XmlNode | undefined, name: string) => child(node, name)?.attrs.val
/** A flag that is on where its element stands without a value. */
const isSaid = (node: XmlNode | undefined, name: string, usual = false) => {
  const found = child(node, name)
  return found ? found.attrs.val !== '0' && found.attrs.val !== 'false' : usual
}

const points = (node: XmlNode | undefined): string[] => {
  const cache = child(node, 'strRef') ?? child(node, 'numRef')
  // categories of several levels: the nearest to the bars is the first
  const levels = at(node, 'multiLvlStrRef', 'multiLvlStrCache', 'lvl')
  const list = levels ?? child(cache, 'strCache') ?? child(cache, 'numCache') ?? child(node, 'strLit') ?? child(node, 'numLit')
  const found: string[] = []
  for (const pt of children(list, 'pt')) {
    const index = Number(pt.attrs.idx)
    if (index >= 0 && index < 10_000) found[index] = child(pt, 'v')?.text ?? ''
  }
  return Array.from(found, (text) => text ?? '')
}
const numbers = (node: XmlNode | undefined) => points(node).map((text) => (text === '' ? null : numberOf(text)))

const words = (node: XmlNode | undefined) =>
  below(node, 'p')
    .map((p) =>
      below(p, 't')
        .map((t) => t.text)
        .join(''),
    )
    .join('\n')
    .trim()

/** Several pieces of text in one text reference. */
const nameOf = (ser: XmlNode) => points(child(ser, 'tx')).join(' ') || (at(ser, 'tx', 'v')?.text ?? '')

const NO_LABELS: ChartLabels = { value: false, percent: false, category: false, series: false }

function labelsOf(holder: XmlNode | undefined): ChartLabels | null {
  const labels = child(holder, 'dLbls')
  if (!labels || isSaid(labels, 'delete')) return labels ? NO_LABELS : null
  return {
    value: isSaid(labels, 'showVal'),
    percent: isSaid(labels, 'showPercent'),
    category: isSaid(labels, 'showCatName'),
    series: isSaid(labels, 'showSerName'),
  }
}

/** How its values are written: as its labels say, else as they are kept. */
function formatOf(ser: XmlNode, plot: XmlNode): string {
  const said = [ser, plot].map((holder) => at(holder, 'dLbls', 'numFmt')).find((format) => format?.attrs.sourceLinked === '0')
  const values = child(ser, 'val') ?? child(ser, 'yVal')
  return said?.attrs.formatCode ?? at(values, 'numRef', 'numCache', 'formatCode')?.text ?? ''
}

/** A colour of a part: its fill, else its line. */
function colourOf(properties: XmlNode | undefined, theme: Theme, isLine: boolean): string | null {
  const fill = colourIn(child(properties, 'solidFill'), theme) ?? colourIn(at(properties, 'gradFill', 'gsLst', 'gs'), theme)
  const pattern = colourIn(at(properties, 'pattFill', 'fgClr'), theme)
  const line = colourIn(at(properties, 'ln', 'solidFill'), theme)
  return isLine ? (line ?? fill ?? pattern) : (fill ?? pattern ?? line)
}

function seriesOf(
  ser: XmlNode,
  index: number,
  plot: XmlNode,
  kind: ChartKind,
  theme: Theme,
  onSecondScale: boolean,
): ChartSeries {
  const accent = (i: number) => `#${theme.colours.get(`accent${(i % 6) + 1}`) ?? '17594A'}`
  const isRound = kind === 'pie' || kind === 'doughnut'
  const isLine = kind === 'line' || kind === 'scatter' || kind === 'radar' || kind === 'stock'
  const values = numbers(child(ser, 'val') ?? child(ser, 'yVal'))
  const own = new Map(
    children(ser, 'dPt').map((point) => [Number(val(point, 'idx')), colourOf(child(point, 'spPr'), theme, isLine)] as const),
  )
  const varied = isRound || (isSaid(plot, 'varyColors') && kind === 'bar' && children(plot, 'ser').length === 1)
  const properties = child(ser, 'spPr')
  const style = val(plot, 'scatterStyle') ?? ''
  return {
    kind,
    name: nameOf(ser),
    values,
    across: numbers(child(ser, 'xVal')),
    sizes: numbers(child(ser, 'bubbleSize')),
    colour: colourOf(properties, theme, isLine) ?? accent(index),
    pointColours: values.map((_, i) => own.get(i) ?? (varied ? accent(i) : null)),
    hasLine: kind !== 'stock' && !/^(marker|none)$/.test(style) && at(properties, 'ln', 'noFill') === undefined,
    hasMarkers:
      (val(child(ser, 'marker'), 'symbol') ?? (isSaid(plot, 'marker') || kind === 'scatter' ? 'auto' : 'none')) !== 'none',
    smooth: isSaid(ser, 'smooth'),
    filled: kind === 'area' || val(plot, 'radarStyle') === 'filled',
    onSecondScale,
    isPercent: /%/.test(formatOf(ser, plot)),
    labels: labelsOf(ser) ?? labelsOf(plot) ?? NO_LABELS,
  }
}

function scaleOf(axis: XmlNode | undefined): ChartScale {
  const scaling = child(axis, 'scaling')
  return {
    shown: axis !== undefined && !isSaid(axis, 'delete'),
    title: words(child(axis, 'title')),
    least: numberOf(val(scaling, 'min')),
    most: numberOf(val(scaling, 'max')),
    step: numberOf(val(axis, 'majorUnit')),
    gridlines: child(axis, 'majorGridlines') !== undefined,
    reversed: val(scaling, 'orientation') === 'maxMin',
    logarithmic: child(scaling, 'logBase') !== undefined,
    isPercent: /%/.test(child(axis, 'numFmt')?.attrs.formatCode ?? ''),
  }
}

/** Size and colour of letters, by the nearest that says them. @param scale pixels of an English Metric Unit */
function lettersOf(holders: (XmlNode | undefined)[], usualPoints: number, theme: Theme, scale: number) {
  const found = holders.flatMap((holder) => [...below(holder, 'defRPr'), ...below(holder, 'rPr')])
  const size = found.map((node) => numberOf(node.attrs.sz)).find((sz) => sz !== null)
  const colour = found.map((node) => colourIn(child(node, 'solidFill'), theme)).find((c) => c !== null)
  const ink = theme.colours.get(theme.map.get('tx1') ?? 'dk1')
  return { size: ((size ?? usualPoints * 100) / 100) * EMU_A_POINT * scale, colour: colour ?? (ink ? `#${ink}` : INK) }
}

const LEGENDS = { t: 'top', b: 'bottom', l: 'left', r: 'right', tr: 'right' } as const

/** Axes by their kinds, and which values stand on the second of two. */
function axesOf(plotArea: XmlNode | undefined, plots: readonly XmlNode[]) {
  const axes = (plotArea?.children ?? []).filter(({ name }) => /^(cat|val|date|ser)Ax$/.test(name))
  const ofPlot = (plot: XmlNode | undefined) => {
    const ids = children(plot, 'axId').map((id) => id.attrs.val)
    return axes.filter((axis) => ids.includes(val(axis, 'axId')))
  }
  const valueAxis = (list: readonly XmlNode[]) => list.filter(({ name }) => name === 'valAx').at(-1)
  const first = ofPlot(plots[0])
  const main = valueAxis(first)
  const second = plots.map((plot) => valueAxis(ofPlot(plot))).find((axis) => axis && axis !== main)
  return {
    // of a scatter chart both are axes of values, the one at the foot first
    categories: first.find((axis) => axis !== main),
    main,
    second,
    isOnSecond: (plot: XmlNode) => second !== undefined && valueAxis(ofPlot(plot)) === second,
  }
}

/** @param root `c:chartSpace`; @param scale pixels of an English Metric Unit @returns null for a kind that is not drawn */
export function readChart(root: XmlNode, theme: Theme, scale: number): Chart | null {
  const chart = child(root, 'chart')
  const plotArea = child(chart, 'plotArea')
  const plots = (plotArea?.children ?? []).filter(({ name }) => name in KINDS)
  const [plot] = plots
  if (!plot) return null
  const axes = axesOf(plotArea, plots)
  let count = 0
  const series = plots.flatMap((one) =>
    children(one, 'ser').map((ser) => seriesOf(ser, count++, one, KINDS[one.name]!, theme, axes.isOnSecond(one))),
  )
  const categories = plots
    .flatMap((one) => children(one, 'ser').map((ser) => points(child(ser, 'cat'))))
    .reduce((longest, list) => (list.length > longest.length ? list : longest), [])
  const grouping = val(plot, 'grouping') ?? ''
  const title = child(chart, 'title')
  const deleted = isSaid(chart, 'autoTitleDeleted')
  const legend = child(chart, 'legend')
  return {
    // a single series names its chart where nothing else does
    title: deleted ? '' : title ? words(title) || (series.length === 1 ? series[0]!.name : '') : '',
    categories: categories.length > 0 ? categories : (series[0]?.values ?? []).map((_, i) => String(i + 1)),
    series,
    across: val(plot, 'barDir') === 'bar',
    stacked: grouping === 'percentStacked' ? 'to a hundred' : grouping === 'stacked' ? 'stacked' : 'not',
    gap: (numberOf(val(plot, 'gapWidth')) ?? 150) / 100,
    overlap: (numberOf(val(plot, 'overlap')) ?? 0) / 100,
    hole: (numberOf(val(plot, 'holeSize')) ?? 50) / 100,
    turned: numberOf(val(plot, 'firstSliceAng')) ?? 0,
    legend: legend ? (LEGENDS[(val(legend, 'legendPos') ?? 'r') as keyof typeof LEGENDS] ?? 'right') : null,
    categoryScale: scaleOf(axes.categories),
    valueScale: scaleOf(axes.main),
    secondScale: axes.second ? scaleOf(axes.second) : null,
    letters: lettersOf([child(axes.categories, 'txPr'), child(legend, 'txPr'), child(root, 'txPr')], LETTERS_PT, theme, scale),
    titleLetters: lettersOf([title, child(root, 'txPr')], TITLE_PT, theme, scale),
    hiddenSeries: [],
    hiddenCategories: [],
  }
}
