/** A waveform drawn to scale from peaks the server made. */
import { useEffect, useRef } from 'react'
import { SAMPLES_A_PEAK } from '#core/audio/peaks.ts'
import type { Stretch } from '#core/lecture.ts'
import { peaksUrl } from '#web/shared/api.ts'
import { derivedFile } from '#web/shared/derived-file.ts'
import { drawSoon } from './draw-queue.ts'

/** The square root keeps quiet words visible beside loud ones. */
const shape = (value: number) => Math.sign(value) * Math.sqrt(Math.abs(value) / 32768)

/**
 * Draws peaks into a canvas of its own size.
 *
 * @param stretches which samples of the sound are drawn, one after the other, over the whole width
 * @param speech where the voice is, drawn solid while the room is drawn pale; null draws all of it solid
 */
export function drawPeaks(
  element: HTMLCanvasElement,
  values: Int16Array,
  stretches: readonly Stretch[],
  speech: readonly Stretch[] | null = null,
) {
  const g = element.getContext('2d')!
  g.clearRect(0, 0, element.width, element.height)
  g.fillStyle = getComputedStyle(element).color
  const middle = element.height / 2
  const ratio = window.devicePixelRatio || 1
  const samples = stretches.reduce((sum, s) => sum + s.end - s.start, 0)
  let before = 0
  for (const stretch of stretches) {
    const left = Math.round((before / samples) * element.width)
    before += stretch.end - stretch.start
    const right = Math.round((before / samples) * element.width)
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
      const at = from * SAMPLES_A_PEAK
      g.globalAlpha = !speech || speech.some((s) => at >= s.start && at < s.end) ? 1 : 0.4
      const top = middle - shape(high) * (middle - 1)
      g.fillRect(x, top, 1, Math.max(ratio, middle - shape(low) * (middle - 1) - top))
    }
  }
}

/** Gives a canvas as many pixels as the screen has for it. */
export function fitCanvas(element: HTMLCanvasElement, width: number, height: number) {
  const ratio = window.devicePixelRatio || 1
  element.width = Math.max(1, Math.round(width * ratio))
  element.height = Math.round(height * ratio)
}

interface StripProps {
  peaks: string
  /** What of the sound is drawn, in samples. */
  stretches: readonly Stretch[]
  /** Width of the whole strip; the scale is that of the sheet. */
  width: number
  height: number
  label: string
}

export function Strip({ peaks, stretches, width, height, label }: StripProps) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const drawn = JSON.stringify(stretches)
  useEffect(() => {
    let current = true
    void derivedFile(peaksUrl(peaks)).then((bytes) =>
      drawSoon(() => {
        if (!current || !canvas.current) return
        fitCanvas(canvas.current, width, height)
        drawPeaks(canvas.current, new Int16Array(bytes), JSON.parse(drawn))
      }),
    )
    return () => {
      current = false
    }
  }, [peaks, drawn, width, height])
  return <canvas ref={canvas} role="img" aria-label={label} className="block text-primary" style={{ width, height }} />
}
