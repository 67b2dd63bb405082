/** A chart as a deck tells of it: what its values are, and how they are to look. It is drawn by a library. */

export type ChartKind = 'bar' | 'line' | 'area' | 'pie' | 'doughnut' | 'radar' | 'scatter' | 'bubble' | 'stock'

export interface ChartSeries {
  /** A chart may have bars and lines together. */
  kind: ChartKind
  name: string
  /** By category; null where there is none. Of scatter and bubble charts: the heights. */
  values: (number | null)[]
  /** Of scatter and bubble charts: how far to the right each stands, and how large it is. */
  across: (number | null)[]
  sizes: (number | null)[]
  /** CSS. */
  colour: string
  /** Of single points, where they have their own: slices of a pie. */
  pointColours: (string | null)[]
  hasLine: boolean
  hasMarkers: boolean
  smooth: boolean
  filled: boolean
  /** It is measured by the scale on the other side. */
  onSecondScale: boolean
  labels: ChartLabels
  /** Its values are shares that are written as hundredths. */
  isPercent: boolean
}

export interface ChartLabels {
  value: boolean
  percent: boolean
  category: boolean
  series: boolean
}

export interface ChartScale {
  shown: boolean
  title: string
  least: number | null
  most: number | null
  step: number | null
  gridlines: boolean
  /** Values run the other way. */
  reversed: boolean
  logarithmic: boolean
  /** As a share of 100 with a sign. */
  isPercent: boolean
}

export interface Chart {
  title: string
  categories: string[]
  series: ChartSeries[]
  /** Bars lie instead of standing. */
  across: boolean
  stacked: 'not' | 'stacked' | 'to a hundred'
  /** Of the room of a category: what is left free between its bars, in shares of a bar; how far bars overlap, −1 to 1. */
  gap: number
  overlap: number
  /** Of a doughnut's width, 0 to 1. */
  hole: number
  /** Degrees from the top at which a pie begins. */
  turned: number
  legend: 'top' | 'right' | 'bottom' | 'left' | null
  categoryScale: ChartScale
  valueScale: ChartScale
  secondScale: ChartScale | null
  /** Pixels, CSS. */
  letters: { size: number; colour: string }
  titleLetters: { size: number; colour: string }
  /** What has not come yet. */
  hiddenSeries: number[]
  hiddenCategories: number[]
}
