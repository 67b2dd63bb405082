/** Charts that lie in an OpenDocument file as documents of their own. @see OpenDocument 1.3, part 3, §11 (charts) */
import type { Chart, ChartKind, ChartScale, ChartSeries } from '../chart.ts'
import { at, below, child, children, numberOf, parseXml, type XmlNode } from '../xml.ts'
import { property, stylesOf } from './styles.ts'
import { plain } from './text.ts'

const KINDS: Record<string, ChartKind> = {
  'chart:bar': 'bar',
  'chart:line': 'line',
  'chart:area': 'area',
  'chart:circle': 'pie',
  'chart:ring': 'doughnut',
  'chart:radar': 'radar',
  'chart:filled-radar': 'radar',
  'chart:scatter': 'scatter',
  'chart:bubble': 'bubble',
  'chart:stock': 'stock',
}
/** What series have that say no colour. The standard leaves it to who draws them; these are our own. */
const COLOURS = ['#17594a', '#c07a1c', '#3d5a73', '#a93428', '#6b7f3a', '#7a5b86']
const POINT = 1 / 72
const LEGENDS: Record<string, Chart['legend']> = { start: 'left', end: 'right', top: 'top', bottom: 'bottom' }

type Said = (node: XmlNode | undefined, group: string, name: string) => string | undefined

/** The table that a chart brings: its first row names the series, its first column the categories. */
function tableOf(chart: XmlNode): { header: string[]; rows: { name: string; values: (number | null)[] }[] } {
  const table = child(chart, 'table')
  const cells = (row: XmlNode | undefined) => children(row, 'table-cell')
  const [head] = below(child(table, 'table-header-rows'), 'table-row')
  const rows = below(child(table, 'table-rows'), 'table-row').map((row) => {
    const [name, ...values] = cells(row)
    return {
      name: plain(name),
      values: values.map((cell) => {
        const value = numberOf(cell.attrs['office:value'])
        return value !== null && Number.isFinite(value) ? value : null
      }),
    }
  })
  return { header: cells(head).slice(1).map(plain), rows }
}

function scaleOf(axis: XmlNode | undefined, said: Said): ChartScale {
  const value = (name: string) => said(axis, 'chart-properties', name)
  return {
    shown: axis !== undefined && value('chart:display-label') !== 'false',
    title: plain(child(axis, 'title')),
    least: numberOf(value('chart:minimum')),
    most: numberOf(value('chart:maximum')),
    step: null,
    gridlines: children(axis, 'grid').length > 0,
    reversed: value('chart:reverse-direction') === 'true',
    logarithmic: value('chart:logarithmic') === 'true',
    isPercent: false,
  }
}

function seriesOf(node: XmlNode, index: number, kind: ChartKind, table: ReturnType<typeof tableOf>, said: Said): ChartSeries {
  const isLine = kind === 'line' || kind === 'scatter' || kind === 'radar'
  const colourOf = (one: XmlNode) =>
    said(one, 'graphic-properties', isLine ? 'svg:stroke-color' : 'draw:fill-color') ??
    said(one, 'graphic-properties', 'draw:fill-color')
  const column = kind === 'scatter' || kind === 'bubble' ? index + 1 : index
  const values = table.rows.map((row) => row.values[column] ?? null)
  const points = children(node, 'data-point').flatMap((point) =>
    Array.from({ length: Math.min(1000, numberOf(point.attrs['chart:repeated']) ?? 1) }, () => colourOf(point) ?? null),
  )
  const isRound = kind === 'pie' || kind === 'doughnut'
  const labels = said(node, 'chart-properties', 'chart:data-label-number') ?? 'none'
  return {
    kind,
    name: table.header[column] ?? '',
    values,
    across: table.rows.map((row) => row.values[0] ?? null),
    sizes: table.rows.map((row) => row.values[column + 1] ?? null),
    colour: colourOf(node) ?? COLOURS[index % COLOURS.length]!,
    pointColours: values.map((_, i) => points[i] ?? (isRound ? COLOURS[i % COLOURS.length]! : null)),
    hasLine: said(node, 'graphic-properties', 'draw:stroke') !== 'none' || kind === 'line',
    hasMarkers: (said(node, 'chart-properties', 'chart:symbol-type') ?? 'none') !== 'none',
    smooth: (said(node, 'chart-properties', 'chart:interpolation') ?? 'none') !== 'none',
    filled: kind === 'area' || node.attrs['chart:class'] === 'chart:filled-radar',
    onSecondScale: node.attrs['chart:attached-axis'] === 'secondary-y',
    isPercent: false,
    labels: {
      value: labels === 'value' || labels === 'value-and-percentage',
      percent: labels === 'percentage' || labels === 'value-and-percentage',
      category: said(node, 'chart-properties', 'chart:data-label-text') === 'true',
      series: false,
    },
  }
}

/** @param object `draw:object` @returns null where it is no chart, or is not in the file */
export function chartIn(
  object: XmlNode | undefined,
  { files, scale }: { files: ReadonlyMap<string, Uint8Array>; scale: number },
): Chart | null {
  const folder = object?.attrs['xlink:href']?.replace(/^\.\//, '').replace(/\/$/, '')
  const content = folder ? files.get(`${folder}/content.xml`) : undefined
  if (!content) return null
  const root = parseXml(content, `${folder}/content.xml`)
  const chart = at(root, 'body', 'chart', 'chart')
  const kind = KINDS[chart?.attrs['chart:class'] ?? '']
  const plot = child(chart, 'plot-area')
  if (!chart || !plot || !kind) return null
  const styles = stylesOf([root])
  const said: Said = (node, group, name) => property(styles.chain('chart', node?.attrs['chart:style-name']), group, name)
  const table = tableOf(chart)
  const axes = children(plot, 'axis')
  const axis = (dimension: string, name?: string) =>
    axes.find(({ attrs }) => attrs['chart:dimension'] === dimension && (!name || attrs['chart:name'] === name))
  const legend = child(chart, 'legend')
  const second = axis('y', 'secondary-y')
  const flag = (name: string) => said(plot, 'chart-properties', name) === 'true'
  const letters = { size: 10 * POINT * scale, colour: '#404040' }
  return {
    title: plain(child(chart, 'title')),
    categories: table.rows.map((row) => row.name),
    series: children(plot, 'series').map((node, i) =>
      seriesOf(node, i, KINDS[node.attrs['chart:class'] ?? ''] ?? kind, table, said),
    ),
    // "vertical" says that the axis of categories is upright
    across: kind === 'bar' && flag('chart:vertical'),
    stacked: flag('chart:percentage') ? 'to a hundred' : flag('chart:stacked') ? 'stacked' : 'not',
    gap: (numberOf(said(axis('y'), 'chart-properties', 'chart:gap-width')) ?? 100) / 100,
    overlap: (numberOf(said(axis('y'), 'chart-properties', 'chart:overlap')) ?? 0) / 100,
    hole: 0.5,
    turned: 0,
    legend: legend ? (LEGENDS[legend.attrs['chart:legend-position'] ?? 'end'] ?? 'right') : null,
    categoryScale: scaleOf(axis('x'), said),
    valueScale: scaleOf(axis('y', 'primary-y') ?? axis('y'), said),
    secondScale: second ? scaleOf(second, said) : null,
    letters,
    titleLetters: { size: 13 * POINT * scale, colour: '#202020' },
    hiddenSeries: [],
    hiddenCategories: [],
  }
}
