/** Waveforms drawn to scale from peaks the server made. */
import { SAMPLES_A_PEAK } from '#core/audio/signal/waveform.ts'
import type { SampleRange } from '#core/model/sample-range.ts'

/** The square root keeps quiet words visible beside loud ones. */
const shape = (value: number) => Math.sign(value) * Math.sqrt(Math.abs(value) / 32768)

interface Column {
  x: number
  /** Full scale ±1, the louder the farther from the middle. */
  low: number
  high: number
  /** First sample that it stands for. */
  sample: number
}

/** One column a pixel. @param stretches which samples are drawn, one after the other, over the whole width */
function columns(values: Int16Array, stretches: readonly SampleRange[], width: number): Column[] {
  const samples = stretches.reduce((sum, s) => sum + s.end - s.start, 0)
  const out: Column[] = []
  let before = 0
  for (const stretch of stretches) {
    const left = Math.round((before / samples) * width)
    before += stretch.end - stretch.start
    const right = Math.round((before / samples) * width)
    const peaksAPixel = (stretch.end - stretch.start) / SAMPLES_A_PEAK / Math.max(1, right - left)
    for (let x = left; x < right; x++) {
      const from = Math.floor(stretch.start / SAMPLES_A_PEAK + (x - left) * peaksAPixel)
      const to = Math.max(from + 1, Math.floor(stretch.start / SAMPLES_A_PEAK + (x - left + 1) * peaksAPixel))
      let low = 0
      let high = 0
      for (let p = from; p < to; p++) {
        low = Math.min(low, values[p * 2] ?? 0)
        high = Math.max(high, values[p * 2 + 1] ?? 0)
      }
      out.push({ x, low: shape(low), high: shape(high), sample: from * SAMPLES_A_PEAK })
    }
  }
  return out
}

/** @returns the outline of a waveform as an SVG path, a pixel high where nothing sounds */
export function peaksPath(values: Int16Array, stretches: readonly SampleRange[], width: number, height: number): string {
  const middle = height / 2
  const drawn = columns(values, stretches, width)
  const tops = drawn.map(({ x, high }) => `V${(middle - Math.max(0.5, high * (middle - 1))).toFixed(1)}H${x + 1}`)
  const bottoms = drawn.map(({ x, low }) => `V${(middle + Math.max(0.5, -low * (middle - 1))).toFixed(1)}H${x}`)
  return drawn.length === 0 ? '' : `M${drawn[0]!.x} ${middle}${tops.join('')}${bottoms.toReversed().join('')}Z`
}

/** Draws peaks into a canvas of its own size. @param speech where the voice is, drawn solid while the room is drawn pale; null draws all of it solid */
export function drawPeaks(
  element: HTMLCanvasElement,
  values: Int16Array,
  stretches: readonly SampleRange[],
  speech: readonly SampleRange[] | null = null,
) {
  const g = element.getContext('2d')!
  g.clearRect(0, 0, element.width, element.height)
  g.fillStyle = getComputedStyle(element).color
  const middle = element.height / 2
  const ratio = window.devicePixelRatio || 1
  for (const { x, low, high, sample } of columns(values, stretches, element.width)) {
    g.globalAlpha = !speech || speech.some((s) => sample >= s.start && sample < s.end) ? 1 : 0.4
    const top = middle - high * (middle - 1)
    g.fillRect(x, top, 1, Math.max(ratio, middle - low * (middle - 1) - top))
  }
}

/** Gives a canvas as many pixels as the screen has for it. */
export function fitCanvas(element: HTMLCanvasElement, width: number, height: number) {
  const ratio = window.devicePixelRatio || 1
  element.width = Math.max(1, Math.round(width * ratio))
  element.height = Math.round(height * ratio)
}
