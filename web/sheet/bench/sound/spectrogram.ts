/** Draws a spectrogram from the server's bytes: ink on paper, darker where there is more sound. */
import { SAMPLES_A_COLUMN, SPECTROGRAM_BANDS } from '#core/audio/signal/spectrogram.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import type { View } from './view.ts'

type Rgb = [number, number, number]

const rgbOf = (colour: string): Rgb => {
  const g = document.createElement('canvas').getContext('2d', { willReadFrequently: true })!
  g.fillStyle = colour
  g.fillRect(0, 0, 1, 1)
  return [...g.getImageData(0, 0, 1, 1).data.slice(0, 3)] as Rgb
}

/** @param bytes column by column, as `spectrogramOf` makes them */
export function drawSpectrogram(canvas: HTMLCanvasElement, bytes: Uint8Array, view: View) {
  const g = canvas.getContext('2d')!
  const style = getComputedStyle(canvas)
  const [ink, paper] = [rgbOf(style.color), rgbOf(style.backgroundColor)]
  const columns = bytes.length / SPECTROGRAM_BANDS
  const perSecond = SAMPLE_RATE / SAMPLES_A_COLUMN
  const image = g.createImageData(canvas.width, canvas.height)
  const columnsAPixel = ((view.end - view.start) * perSecond) / canvas.width
  for (let x = 0; x < canvas.width; x++) {
    const from = Math.floor(view.start * perSecond + x * columnsAPixel)
    const to = Math.max(from + 1, Math.floor(view.start * perSecond + (x + 1) * columnsAPixel))
    for (let y = 0; y < canvas.height; y++) {
      const band = Math.floor(((canvas.height - 1 - y) / canvas.height) * SPECTROGRAM_BANDS)
      let most = 0
      for (let c = from; c < Math.min(to, columns); c++) most = Math.max(most, bytes[c * SPECTROGRAM_BANDS + band]!)
      const depth = (most / 255) ** 2.2
      const at = (y * canvas.width + x) * 4
      for (let n = 0; n < 3; n++) image.data[at + n] = paper[n]! + depth * (ink[n]! - paper[n]!)
      image.data[at + 3] = 255
    }
  }
  g.putImageData(image, 0, 0)
}
