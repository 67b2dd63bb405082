/** A waveform drawn to scale from peaks the server made. */
import { useEffect, useRef } from 'react'
import { SAMPLES_A_PEAK } from '#core/audio/peaks.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { peaksUrl } from '#web/shared/api.ts'

const PEAKS_A_SECOND = SAMPLE_RATE / SAMPLES_A_PEAK
const fetched = new Map<string, Promise<Int16Array>>()

/** Peaks never change, so each file is fetched once. */
function peaksOf(name: string): Promise<Int16Array> {
  let peaks = fetched.get(name)
  if (!peaks) {
    peaks = fetch(peaksUrl(name))
      .then((response) => response.arrayBuffer())
      .then((bytes) => new Int16Array(bytes))
    fetched.set(name, peaks)
    peaks.catch(() => fetched.delete(name))
  }
  return peaks
}

interface StripProps {
  peaks: string
  seconds: number
  /** Width of the whole strip; the scale is that of the sheet. */
  width: number
  height: number
  label: string
}

export function Strip({ peaks, seconds, width, height, label }: StripProps) {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    let current = true
    void peaksOf(peaks).then((values) => {
      const element = canvas.current
      if (!current || !element) return
      const ratio = window.devicePixelRatio || 1
      element.width = Math.round(width * ratio)
      element.height = Math.round(height * ratio)
      const g = element.getContext('2d')!
      g.fillStyle = getComputedStyle(element).color
      const middle = element.height / 2
      const peaksAPixel = (seconds * PEAKS_A_SECOND) / element.width
      for (let x = 0; x < element.width; x++) {
        let [low, high] = [0, 0]
        for (let p = Math.floor(x * peaksAPixel); p < Math.max(Math.floor(x * peaksAPixel) + 1, (x + 1) * peaksAPixel); p++) {
          low = Math.min(low, values[p * 2] ?? 0)
          high = Math.max(high, values[p * 2 + 1] ?? 0)
        }
        // the square root keeps quiet words visible beside loud ones
        const shape = (v: number) => Math.sign(v) * Math.sqrt(Math.abs(v) / 32768)
        const top = middle - shape(high) * (middle - 1)
        g.fillRect(x, top, 1, Math.max(ratio, middle - shape(low) * (middle - 1) - top))
      }
    })
    return () => {
      current = false
    }
  }, [peaks, seconds, width, height])
  return <canvas ref={canvas} role="img" aria-label={label} className="block text-primary" style={{ width, height }} />
}
