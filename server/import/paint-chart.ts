/** Charts of a deck, drawn by the library that draws the product's own. */
import { type Canvas, createCanvas, type SKRSContext2D } from '@napi-rs/canvas'
import {
  ArcElement,
  BarController,
  BarElement,
  BubbleController,
  CategoryScale,
  type ChartConfiguration,
  type ChartDataset,
  Chart as ChartDrawing,
  type ChartItem,
  type ChartType,
  DoughnutController,
  Filler,
  Legend,
  type LegendItem,
  LinearScale,
  LineController,
  LineElement,
  LogarithmicScale,
  PieController,
  type Plugin,
  PointElement,
  RadarController,
  RadialLinearScale,
  type ScaleOptionsByType,
  ScatterController,
  Title,
} from 'chart.js'
import type { Chart, ChartKind, ChartScale, ChartSeries } from '#core/deck/chart.ts'
import { canvasFont, fontFor } from '#server/text/fonts.ts'

ChartDrawing.register(
  ...[ArcElement, BarController, BarElement, BubbleController, CategoryScale, DoughnutController, Filler, Legend, LinearScale],
  ...[LineController, LineElement, LogarithmicScale, PieController, PointElement, RadarController, RadialLinearScale],
  ...[ScatterController, Title],
)

const TYPES: Record<ChartKind, ChartType> = {
  bar: 'bar',
  line: 'line',
  area: 'line',
  pie: 'pie',
  doughnut: 'doughnut',
  radar: 'radar',
  scatter: 'scatter',
  bubble: 'bubble',
  stock: 'line',
}
const UNSEEN = 'rgba(0, 0, 0, 0)'
const GRID = 'rgba(120, 130, 130, 0.35)'
/** The largest bubble, as a share of the chart's shorter side. */
const LARGEST_BUBBLE = 0.09

const isRound = (kind: ChartKind) => kind === 'pie' || kind === 'doughnut'

/** The family's name as the canvas knows it. */
const FACE = 'carlito' as const
const family = (text: string): string => {
  const style = { size: 10, weight: 400, italic: false, face: FACE }
  return /"[^"]+"$/.exec(canvasFont(fontFor([...text.trim()][0] ?? 'a', FACE, 'ja'), style))![0]
}

function pointsOf(series: ChartSeries, chart: Chart, shorter: number): ChartDataset['data'] {
  if (series.kind === 'scatter' || series.kind === 'bubble') {
    const largest = Math.max(...series.sizes.map((size) => Math.abs(size ?? 0)), 1e-9)
    return series.values.map((y, i) => ({
      x: series.across[i] ?? i + 1,
      y: y ?? Number.NaN,
      // areas are as the values, not widths
      r: Math.sqrt(Math.abs(series.sizes[i] ?? 0) / largest) * shorter * LARGEST_BUBBLE,
    }))
  }
  if (chart.stacked !== 'to a hundred') return series.values as ChartDataset['data']
  return series.values.map((value, i) => {
    const whole = chart.series.reduce((sum, one) => sum + Math.abs(one.values[i] ?? 0), 0)
    return value === null || whole === 0 ? Number.NaN : (value / whole) * 100
  })
}

function datasetOf(series: ChartSeries, index: number, chart: Chart, shorter: number): ChartDataset {
  const { size } = chart.letters
  const hidden = chart.hiddenSeries.includes(index)
  const seen = (colour: string, i: number) => (hidden || chart.hiddenCategories.includes(i) ? UNSEEN : colour)
  const colours = series.values.map((_, i) => seen(series.pointColours[i] ?? series.colour, i))
  const line = series.hasLine && !hidden ? series.colour : UNSEEN
  const isLine = series.kind === 'line' || series.kind === 'area' || series.kind === 'radar' || series.kind === 'scatter'
  const translucent = series.kind === 'radar' || series.kind === 'area'
  const fills = series.filled && !hidden
  return {
    type: TYPES[series.kind],
    label: series.name,
    data: pointsOf(series, chart, shorter),
    backgroundColor: isLine ? (fills ? (translucent ? series.colour : colours) : colours) : colours,
    borderColor: isRound(series.kind) ? '#ffffff' : isLine ? line : colours,
    borderWidth: isRound(series.kind) ? 2 : isLine ? Math.max(2, size / 7) : 0,
    pointRadius: series.hasMarkers || series.kind === 'bubble' || series.kind === 'stock' ? Math.max(3, size / 5) : 0,
    pointBackgroundColor: colours,
    pointBorderColor: colours,
    fill: fills ? (chart.stacked === 'not' || index === 0 ? 'origin' : '-1') : false,
    tension: series.smooth ? 0.35 : 0,
    showLine: series.kind === 'scatter' ? series.hasLine : series.kind !== 'stock',
    ...(series.onSecondScale ? { [chart.across ? 'xAxisID' : 'yAxisID']: 'second' } : {}),
    barPercentage: chart.stacked === 'not' ? 1 - Math.max(0, -chart.overlap) / 2 : 1,
    // of a category the bars have what their gap leaves them
    categoryPercentage: 1 / (1 + chart.gap / Math.max(1, chart.stacked === 'not' ? barsIn(chart) : 1)),
    order: series.kind === 'bar' || series.kind === 'area' ? 1 : 0,
  } as unknown as ChartDataset
}

const barsIn = (chart: Chart) => chart.series.filter((series) => series.kind === 'bar').length

/** Values as an axis or a label has them. */
const spoken = (value: number, isPercent: boolean) =>
  `${Number((isPercent ? value * 100 : value).toPrecision(6))}${isPercent ? ' %' : ''}`

type ScaleOptions = Partial<ScaleOptionsByType<'linear' | 'logarithmic' | 'category'>>

function scaleOptions(scale: ChartScale, chart: Chart, isValue: boolean): ScaleOptions {
  const { size, colour } = chart.letters
  const font = { size, family: family(chart.categories.join('')) }
  const toHundred = isValue && chart.stacked === 'to a hundred'
  const factor = toHundred && scale.isPercent ? 100 : 1
  return {
    display: scale.shown,
    reverse: scale.reversed,
    stacked: chart.stacked !== 'not',
    ...(isValue && scale.logarithmic ? { type: 'logarithmic' } : {}),
    ...(isValue && scale.least !== null ? { min: scale.least * factor } : {}),
    ...(isValue && scale.most !== null ? { max: scale.most * factor } : toHundred ? { max: 100 } : {}),
    ...(isValue ? { beginAtZero: true } : {}),
    // bubbles reach beyond their middles
    ...(chart.series[0]?.kind === 'bubble' ? { grace: '15%' } : {}),
    title: { display: scale.title !== '', text: scale.title.split('\n'), color: colour, font },
    grid: { display: scale.gridlines, color: GRID, drawTicks: false },
    border: { color: GRID },
    ticks: {
      color: colour,
      font,
      ...(isValue
        ? {
            ...(scale.step ? { stepSize: scale.step * factor } : {}),
            callback: (value: unknown) => (toHundred ? `${Number(value)} %` : spoken(Number(value), scale.isPercent)),
          }
        : { autoSkip: true, maxRotation: 60 }),
    },
  } as unknown as ScaleOptions
}

/** Of two inks the one that can be read on a colour. */
function readableOn(ground: string, ink: string): string {
  const hex = /^#(..)(..)(..)$/
    .exec(ground)
    ?.slice(1)
    .map((part) => Number.parseInt(part, 16))
  const [r = 255, g = 255, b = 255] = hex ?? (ground.match(/\d+/g) ?? []).map(Number)
  return 0.299 * r + 0.587 * g + 0.114 * b < 110 ? '#ffffff' : ink
}

/** Writes values beside what they are of. */
const labels = (chart: Chart): Plugin => ({
  id: 'labels',
  afterDatasetsDraw(drawing) {
    const ctx = drawing.ctx as unknown as SKRSContext2D
    const { size, colour } = chart.letters
    ctx.save()
    ctx.textAlign = 'center'
    for (const [index, series] of chart.series.entries()) {
      const wanted = series.labels
      if (chart.hiddenSeries.includes(index) || !(wanted.value || wanted.percent || wanted.category || wanted.series)) continue
      const whole = series.values.reduce<number>((sum, value) => sum + Math.abs(value ?? 0), 0)
      for (const [i, element] of drawing.getDatasetMeta(index).data.entries()) {
        const value = series.values[i]
        if (value == null || chart.hiddenCategories.includes(i)) continue
        const text = [
          wanted.series ? series.name : '',
          wanted.category ? (chart.categories[i] ?? '') : '',
          wanted.value ? spoken(value, series.isPercent) : '',
          wanted.percent && whole > 0 ? `${Math.round((Math.abs(value) / whole) * 100)} %` : '',
        ]
          .filter(Boolean)
          .join(' ')
        // of bars upon each other the middle is theirs alone
        const inside = isRound(series.kind) || (series.kind === 'bar' && chart.stacked !== 'not')
        const { x, y } = (
          inside && series.kind === 'bar' ? (element as BarElement).getCenterPoint() : element.tooltipPosition(false)
        ) as {
          x: number
          y: number
        }
        const beside = chart.across && !inside
        ctx.font = `${size}px ${family(text)}`
        ctx.fillStyle = inside ? readableOn(String(series.pointColours[i] ?? series.colour), colour) : colour
        ctx.textBaseline = inside || beside ? 'middle' : 'bottom'
        ctx.textAlign = beside ? 'left' : 'center'
        ctx.fillText(text, x + (beside ? size / 4 : 0), inside || beside ? y : y - size / 4)
      }
    }
    ctx.restore()
  },
})

function scalesOf(chart: Chart, kind: ChartKind) {
  const { categoryScale, valueScale, secondScale } = chart
  const letters = { color: chart.letters.colour, font: { size: chart.letters.size, family: family(chart.categories.join('')) } }
  if (isRound(kind)) return {}
  if (kind === 'radar')
    return {
      r: {
        beginAtZero: true,
        pointLabels: letters,
        grid: { color: GRID },
        angleLines: { color: GRID },
        ticks: { ...letters, backdropColor: UNSEEN, display: valueScale.shown },
        ...(valueScale.most === null ? {} : { max: valueScale.most }),
      },
    }
  const bothValues = kind === 'scatter' || kind === 'bubble'
  const values = scaleOptions(valueScale, chart, true)
  const categories = scaleOptions(categoryScale, chart, bothValues)
  const [x, y] = chart.across ? [values, { ...categories, reverse: !categoryScale.reversed }] : [categories, values]
  const second = secondScale && scaleOptions(secondScale, chart, true)
  return { x, y, ...(second ? { second: { ...second, position: chart.across ? 'top' : 'right' } } : {}) }
}

/** The library gives a legend at the side a quarter of the chart at most; what needs more is written smaller, or below. */
const SIDE_SHARE = 0.22
const SMALLEST_LETTERS = 0.6

function legendOf(
  chart: Chart,
  canvas: Canvas,
  texts: readonly string[],
): { position: 'top' | 'right' | 'bottom' | 'left'; size: number } {
  const { size } = chart.letters
  const position = chart.legend ?? 'right'
  if (position === 'top' || position === 'bottom') return { position, size }
  const context = canvas.getContext('2d')
  context.font = `${size}px ${family(texts.join(''))}`
  const widest = Math.max(...texts.map((text) => context.measureText(text).width), 1) + size * 2
  const share = (canvas.width * SIDE_SHARE) / widest
  return share < SMALLEST_LETTERS ? { position: 'bottom', size } : { position, size: size * Math.min(1, share) }
}

/** Of either side: a chart may reach beyond the slide as far as its file says. */
const MOST_SIDE = 4096

/** @param wide, high pixels; one that is larger than can be seen is drawn smaller */
export function paintChart(chart: Chart, wide: number, high: number): Canvas {
  const [width, height] = [Math.min(wide, MOST_SIDE), Math.min(high, MOST_SIDE)]
  const canvas = createCanvas(Math.max(1, Math.round(width)), Math.max(1, Math.round(height)))
  const kind = chart.series[0]?.kind ?? 'bar'
  const all = [...chart.categories, ...chart.series.map((series) => series.name)].join('')
  const round = isRound(kind)
  const shorter = Math.min(width, height)
  const isShown = chart.legend !== null && (round || chart.series.length > 0)
  const legend = legendOf(chart, canvas, round ? chart.categories : chart.series.map((series) => series.name))
  const configuration = {
    type: TYPES[kind],
    data: {
      labels: chart.categories,
      // the library draws one ring for each series; a pie has only one
      datasets: (kind === 'pie' ? chart.series.slice(0, 1) : chart.series).map((series, i) =>
        datasetOf(series, i, chart, shorter),
      ),
    },
    options: {
      animation: false,
      responsive: false,
      devicePixelRatio: 1,
      events: [],
      indexAxis: chart.across ? 'y' : 'x',
      rotation: chart.turned,
      ...(kind === 'doughnut' ? { cutout: `${Math.round(chart.hole * 100)}%` } : {}),
      layout: { padding: chart.letters.size * 0.6 },
      scales: scalesOf(chart, kind),
      plugins: {
        legend: {
          display: isShown,
          position: legend.position,
          labels: {
            color: chart.letters.colour,
            font: { size: legend.size, family: family(all) },
            boxWidth: legend.size,
            boxHeight: legend.size * 0.7,
            ...(round ? {} : { sort: (a: LegendItem, b: LegendItem) => (a.datasetIndex ?? 0) - (b.datasetIndex ?? 0) }),
          },
        },
        title: {
          display: chart.title !== '',
          text: chart.title.split('\n'),
          color: chart.titleLetters.colour,
          font: { size: chart.titleLetters.size, family: family(chart.title), weight: 'normal' },
        },
      },
    },
    plugins: [labels(chart)],
  } as unknown as ChartConfiguration
  // the library asks for no more of a canvas than this one has
  const drawing = new ChartDrawing(canvas as unknown as ChartItem, configuration)
  drawing.draw()
  // what is let go is wiped: it is drawn over first
  const kept = createCanvas(canvas.width, canvas.height)
  kept.getContext('2d').drawImage(canvas, 0, 0)
  drawing.destroy()
  return kept
}
